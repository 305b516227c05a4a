"""Features found in triangles, where a file holds no exact surfaces."""

from mooring.cad.features.cylinders import find_cylinders

__all__ = ["find_cylinders"]
