"""Pictures and plots, made without a screen."""

from mooring.drawing.cameras import Exposure, camera_pictures
from mooring.drawing.parts_picture import draw_parts
from mooring.drawing.robot_picture import Picture, picture, picture_format

__all__ = ["Exposure", "Picture", "camera_pictures", "draw_parts", "picture", "picture_format"]
