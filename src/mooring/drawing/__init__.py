"""Pictures and plots, made without a screen."""

from mooring.drawing.robot_picture import Picture, picture, picture_format

__all__ = ["Picture", "picture", "picture_format"]
