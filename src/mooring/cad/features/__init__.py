"""Features found in triangles, where a file holds no exact surfaces."""

from mooring.cad.features.find import find_surfaces, fit_face

__all__ = ["find_surfaces", "fit_face"]
