"""Pictures and plots, made without a screen."""

from mooring.drawing.parts_picture import draw_parts
from mooring.drawing.robot_picture import Picture, picture, picture_format

__all__ = ["Picture", "draw_parts", "picture", "picture_format"]
