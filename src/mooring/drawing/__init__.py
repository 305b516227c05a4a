"""Pictures and plots, made without a screen."""

from mooring.drawing.robot_picture import Picture, picture

__all__ = ["Picture", "picture"]
