"""The simple surfaces of a mesh: smooth regions whose corners lie on one of them."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from mooring.cad.features.cones import fit_cone
from mooring.cad.features.cylinders import fit_cylinder
from mooring.cad.features.patch import Patch
from mooring.cad.features.planes import fit_plane
from mooring.cad.features.regions import Folds, Indices
from mooring.cad.features.spheres import fit_sphere
from mooring.cad.mesh import Mesh
from mooring.cad.surfaces import Surface
from mooring.cad.surfaces.joined import joined_surfaces

# Neighbouring facets of a round face fold by less than this; most programs stay below 25 degrees.
_CREASE = float(np.radians(28))
_COPLANAR = float(np.radians(0.3))
_FEWEST_TRIANGLES = 6
# Of a region that is no one surface, the flat pieces this much larger than its usual facet.
_MUCH_LARGER = 4.0
# Flat pieces smaller than this share of the whole are facets of something else.
_SMALLEST = 1e-5


def find_surfaces(mesh: Mesh) -> tuple[Surface, ...]:
    """The flat, cylindrical, conical and spherical faces of a mesh, each with its residual.

    Regions are bounded by creases. A region that is no one surface, as where rounded edges run
    smoothly into flat faces, is taken apart into its flat pieces and what is left between them.
    Tori, free-form surfaces and what runs smoothly into them are not found.
    """
    if len(mesh.faces) < 2:
        return ()
    folds = Folds(mesh)
    smallest = _SMALLEST * float(folds.areas.sum())
    found = list(_found(folds, folds.regions(_CREASE), smallest))
    return joined_surfaces(found, mesh)


def fit_face(face: Mesh) -> Surface | None:
    """The simple surface on which all corners of one face lie, or None."""
    folds = Folds(face)
    return _fit(Patch(folds, np.arange(len(face.faces)))) if len(face.faces) else None


def _found(folds: Folds, regions: list[Indices], smallest: float) -> Iterator[Surface]:
    for region in regions:
        if folds.areas[region].sum() < smallest:
            continue
        patch = Patch(folds, region)
        face = _fit(patch)
        if face is not None:
            yield face
        elif len(region) >= _FEWEST_TRIANGLES:
            yield from _pieces(folds, region, smallest)


def _fit(patch: Patch) -> Surface | None:
    plane = fit_plane(patch)
    if plane is not None or len(patch.corners) < _FEWEST_TRIANGLES:
        return plane
    return fit_cylinder(patch) or fit_cone(patch) or fit_sphere(patch)


def _pieces(folds: Folds, region: Indices, smallest: float) -> Iterator[Surface]:
    """The flat pieces of a region, and the surfaces between them."""
    flats = folds.regions(_COPLANAR, region)
    areas = np.array([folds.areas[flat].sum() for flat in flats])
    large = areas > max(_MUCH_LARGER * float(np.median(areas)), smallest)
    if not large.any():
        return
    for flat, is_large in zip(flats, large, strict=True):
        plane = fit_plane(Patch(folds, flat)) if is_large else None
        if plane is not None:
            yield plane
    rest = np.concatenate([flat for flat, chosen in zip(flats, large, strict=True) if not chosen])
    for piece in folds.regions(_CREASE, np.sort(rest)):
        if len(piece) >= _FEWEST_TRIANGLES and folds.areas[piece].sum() >= smallest:
            patch = Patch(folds, piece)
            face = fit_cylinder(patch) or fit_cone(patch) or fit_sphere(patch)
            if face is not None:
                yield face
