"""The messages between a simulation or machine and whoever controls or watches it."""

from mooring.bridge.messages.base import VERSION, Message
from mooring.bridge.messages.incoming import INCOMING
from mooring.bridge.messages.outgoing import OUTGOING

__all__ = ["INCOMING", "OUTGOING", "VERSION", "Message"]
