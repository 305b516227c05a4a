"""Stand-ins for machines: what behaves like the box that controls one."""

from mooring.bridge.machine.machine import Machine, Manners
from mooring.bridge.machine.replay import Replayed

__all__ = ["Machine", "Manners", "Replayed"]
