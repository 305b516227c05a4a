"""The kinematic tree as a drawn graph: DOT and SVG."""

from mooring.formats.graph.dot import write_dot
from mooring.formats.graph.svg import write_svg

__all__ = ["write_dot", "write_svg"]
