"""A simulation that is served: who is there, who has the say, what is told to whom."""

from mooring.bridge.session.peer import Peer
from mooring.bridge.session.session import Session

__all__ = ["Peer", "Session"]
