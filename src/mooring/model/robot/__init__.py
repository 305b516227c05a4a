"""The robot and what can be done with it."""

from mooring.model.robot.robot import Robot

__all__ = ["Robot"]
