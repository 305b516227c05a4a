"""Scenes as environments for learning, with the interface of Gymnasium."""

from mooring.bridge.environments.environment import Environment
from mooring.bridge.environments.environments import Environments, Seen, Task

__all__ = ["Environment", "Environments", "Seen", "Task"]
