"""Convex hulls, and hulls made smaller."""

from __future__ import annotations

import numpy as np
from scipy.spatial import ConvexHull, HalfspaceIntersection, QhullError

from mooring.cad.mesh import Mesh
from mooring.errors import ModelError
from mooring.geometry import Array
from mooring.units import show


def hull_mesh(points: Array) -> Mesh:
    """The convex hull of points (n, 3) [m] as a closed mesh.

    Raises:
        ModelError: they lie in a plane.
    """
    try:
        hull = ConvexHull(points)
    except (QhullError, ValueError):
        raise ModelError("the parts are flat and have no hull with a volume") from None
    number = np.full(len(points), -1)
    number[hull.vertices] = np.arange(len(hull.vertices))
    corners = points[hull.simplices]
    normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    inward = np.einsum("ij,ij->i", normals, hull.equations[:, :3]) < 0
    faces = number[hull.simplices]
    faces[inward] = faces[inward][:, ::-1]
    return Mesh(points[hull.vertices], faces.astype(np.int64))


def shrunk_hull(mesh: Mesh, clearance: float) -> Mesh:
    """A convex mesh with every face moved inwards by a distance [m].

    Raises:
        ModelError: nothing would be left.
    """
    hull = ConvexHull(mesh.vertices)
    planes = hull.equations.copy()
    planes[:, 3] += clearance
    centre = mesh.solid.centroid
    if (planes[:, :3] @ centre + planes[:, 3] >= 0).any():
        raise ModelError(f"a clearance of {show(clearance, 'length')} leaves nothing of the hull")
    return hull_mesh(HalfspaceIntersection(planes, centre).intersections)
