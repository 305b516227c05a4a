"""A tree of boxes over triangles, for nearest points and rays."""

from mooring.cad.hierarchy.boxes import Boxes

__all__ = ["Boxes"]
