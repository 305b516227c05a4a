"""The simple surfaces that a part's faces are made of: planes, cylinders, cones and spheres."""

from mooring.cad.surfaces.cone import ConicalFace, join_cones
from mooring.cad.surfaces.cylinder import (
    FULL_ENOUGH,
    CylindricalFace,
    coaxial,
    join_cylinders,
    on_an_axis,
)
from mooring.cad.surfaces.plane import PlanarFace
from mooring.cad.surfaces.sphere import SphericalFace, join_spheres

Surface = PlanarFace | CylindricalFace | ConicalFace | SphericalFace

__all__ = [
    "FULL_ENOUGH",
    "ConicalFace",
    "CylindricalFace",
    "PlanarFace",
    "SphericalFace",
    "Surface",
    "coaxial",
    "join_cones",
    "join_cylinders",
    "join_spheres",
    "on_an_axis",
]
