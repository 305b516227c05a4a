"""The narrowest places of a body."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.optimize import minimize

from mooring.cad.hierarchy import Boxes
from mooring.cad.mesh import Mesh
from mooring.cad.spreading import evenly, spread_over
from mooring.cad.tidying.cutting.sections import Loop, loops_of
from mooring.cad.touching.inside import inside
from mooring.geometry import Array, frame_along

_FINE, _COARSE = 80, 24
_PLACES = 60
_FOR_SHIFTING = 0.02
"""By so much the section must shrink for a shift by its radius, or the place asked for is kept."""


@dataclass(frozen=True, eq=False)
class Section:
    """A plane that cuts a body in one place.

    Attributes:
        through: a point of it inside the body, (3,) [m].
        normal: (3,)
        area: of the body there [m^2].
    """

    through: Array
    normal: Array
    area: float


def narrowest_near(mesh: Mesh, point: Array) -> Section:
    """The plane with the least section near a point.

    From planes in all directions through the middle of the body there, the best three are turned
    and shifted, at most by the radius of the section, as long as it gets smaller (Nelder and Mead,
    "A Simplex Method for Function Minimization", 1965).

    Args:
        mesh: closed.
        point: in it or near it, (3,) [m].
    """
    middle = _middle(mesh, Boxes(mesh.corners), point)
    return min(
        (_slid(mesh, start) for start in _through(mesh, middle, _FINE)[:3]), key=lambda s: s.area
    )


def necks(mesh: Mesh) -> list[Section]:
    """Candidates for the narrowest place of a whole body: the least section at many places."""
    boxes = Boxes(mesh.corners)
    points, _ = spread_over(mesh, _PLACES)
    return [_through(mesh, _middle(mesh, boxes, point), _COARSE)[0] for point in points]


def _middle(mesh: Mesh, boxes: Boxes, point: Array) -> Array:
    """A point deep inside the body, where a straight line through it from the point is halfway."""
    if inside(mesh.corners, point[None])[0]:
        return point
    _, (nearest,) = boxes.nearest(point[None])
    a, b, c = mesh.corners[nearest]
    normal = np.cross(b - a, c - a)
    normal /= np.linalg.norm(normal)
    start = point - normal * (
        (point - a) @ normal + 1e-6 * float(np.ptp(mesh.bounds, axis=0).max())
    )
    depth = float(boxes.hits(start[None], -normal[None])[0])
    return np.asarray(start - normal * (depth / 2 if np.isfinite(depth) else 0.0))


def _through(mesh: Mesh, middle: Array, directions: int) -> list[Section]:
    """Planes through a point in all directions, the least section first."""
    half = evenly(2 * directions)[:directions]
    found = [_section(mesh, middle, normal) for normal in np.vstack([np.eye(3), half])]
    return sorted(found, key=lambda section: section.area)


def _slid(mesh: Mesh, start: Section) -> Section:
    sideways = frame_along(start.normal)
    reach = float(np.sqrt(start.area / np.pi)) if np.isfinite(start.area) else 0.0

    def at(values: Array) -> Section:
        shift, a, b = values
        normal = start.normal + a * sideways[:, 0] + b * sideways[:, 1]
        normal = normal / np.linalg.norm(normal)
        if abs(shift) > 1:
            return Section(start.through, normal, np.inf)
        return _section(mesh, start.through + shift * reach * start.normal, normal)

    if reach == 0.0:
        return start
    simplex = np.vstack([np.zeros(3), np.diag([0.4, 0.15, 0.15])])

    def cost(values: Array) -> float:
        return at(values).area / start.area + _FOR_SHIFTING * float(values[0]) ** 2

    best = minimize(
        cost,
        np.zeros(3),
        method="Nelder-Mead",
        options={"initial_simplex": simplex, "xatol": 1e-4, "fatol": 1e-5, "maxfev": 250},
    )
    return min(start, at(best.x), key=lambda section: section.area)


def _section(mesh: Mesh, through: Array, normal: Array) -> Section:
    around = [loop for loop in loops_of(mesh, through, normal) if _encloses(loop, through, normal)]
    area = min((loop.area for loop in around), default=np.inf)
    return Section(through, normal, area)


def _encloses(loop: Loop, point: Array, normal: Array) -> bool:
    """Whether a loop goes round a point in its plane once: the angles of its pieces add up."""
    x, y, _ = frame_along(normal).T
    first, second = loop.starts - point, loop.ends - point
    a, b = first @ x + 1j * (first @ y), second @ x + 1j * (second @ y)
    return abs(float(np.angle(b * a.conj()).sum())) > np.pi
