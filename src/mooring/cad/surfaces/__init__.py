"""The simple surfaces that a part's faces are made of: planes, cylinders, cones and spheres."""

from mooring.cad.surfaces.cone import Cone, join_cones
from mooring.cad.surfaces.cylinder import FULL_ENOUGH, Cylinder, coaxial, join_cylinders
from mooring.cad.surfaces.plane import Plane
from mooring.cad.surfaces.sphere import Sphere, join_spheres

Surface = Plane | Cylinder | Cone | Sphere

__all__ = [
    "FULL_ENOUGH",
    "Cone",
    "Cylinder",
    "Plane",
    "Sphere",
    "Surface",
    "coaxial",
    "join_cones",
    "join_cylinders",
    "join_spheres",
]
