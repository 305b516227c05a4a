"""The features by which two parts touch: round fits, and patches of surface."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import ConvexHull, QhullError

from mooring.cad.part import Part
from mooring.cad.places.axis import with_usual_sign
from mooring.cad.surfaces import (
    FULL_ENOUGH,
    ConicalFace,
    CylindricalFace,
    PlanarFace,
    SphericalFace,
    coaxial,
)
from mooring.cad.touching.contacts import triangles_within
from mooring.geometry import Array, frame_along

Flags = NDArray[np.bool_]

_COSINE = float(np.cos(np.radians(14)))
"""Facets of one round face lean against each other by no more than this."""
_AROUND = 8
"""Places at each end of a round fit at which it is felt."""
_LEAST_LENGTH = 0.2
"""Share of its radius that a pin must be inside its bore."""
_PRESSED = 0.08
"""Share of its radius by which a pin may be thicker than the bore it was pressed or screwed in."""
_WIDE = 0.06
"""Share of its radius by which a bore may be wider than its pin, where that is more than the
tolerance."""
_MARGINAL = 0.25
"""Share of the area that touches, below which facets of unknown surfaces are left out."""
_CHORD = 0.95
"""Of a round face's radius, how far out the middles of its facets are at least."""
_MOST_SAMPLES = 240


@dataclass(frozen=True, eq=False)
class Fit:
    """A pin in a bore.

    Attributes:
        pin, bore: names of the parts.
        origin: the middle of the stretch where both are, (3,) [m].
        direction: unit vector, (3,).
        radius: of the pin [m].
        clearance: by how much the bore's radius is larger [m]; less than zero when pressed.
        length: of the stretch where both are [m].
        beyond: how far the pin goes on past the bore, at the end where it does less and at the
            other; less than zero where it ends inside [m].
        blind: whether the bore has a bottom.
        sure: how well the clearance is known [m].
        rolls: whether balls or rollers run between the two.
    """

    pin: str
    bore: str
    origin: Array
    direction: Array
    radius: float
    clearance: float
    length: float
    beyond: tuple[float, float]
    blind: bool
    sure: float
    rolls: bool = False

    @property
    def pressed(self) -> bool:
        """Whether the pin is thicker than its bore."""
        return self.clearance < -self.sure

    @property
    def runs(self) -> bool:
        """Whether there is room between the two."""
        return self.clearance > self.sure


@dataclass(frozen=True, eq=False)
class Meeting:
    """How two parts touch.

    Attributes:
        first, second: names of the parts.
        fits: pins of one in bores of the other.
        points: where else they touch, (k, 3) [m].
        normals: there, out of the first, (k, 3).
        area: about how much of them lies against each other besides the fits [m^2].
        loose: whether some normals are those of facets of an unknown surface.
        crossing: whether they touch or cross without any face of one lying against the other.
        gap: the largest distance between flat faces that lie against each other [m].
        ball: centre and radius of a ball in a socket.
    """

    first: str
    second: str
    fits: tuple[Fit, ...]
    points: Array
    normals: Array
    area: float
    loose: bool
    crossing: bool
    gap: float = 0.0
    ball: tuple[Array, float] | None = None


def meeting_of(one: Part, other: Part, tolerance: float) -> Meeting:
    """The features by which two parts that are near each other touch.

    Args:
        one, other: the parts.
        tolerance: how far apart faces may be and still touch [m].
    """
    fits = [*_fits(one, other, tolerance), *_fits(other, one, tolerance)]
    ours, our_area, our_loose = _lying_against(one, other, tolerance, fits)
    theirs, their_area, their_loose = _lying_against(other, one, tolerance, fits)
    points, normals, gap = _together(ours, theirs)
    # Of a large triangle only a corner may lie against the other part.
    area = min(our_area, their_area)
    return Meeting(
        one.name,
        other.name,
        tuple(fits),
        points,
        normals,
        area,
        our_loose or their_loose,
        not fits and not len(points),
        gap,
        _ball_joint(one, other, tolerance) if len(points) else None,
    )


def _fits(one: Part, other: Part, tolerance: float) -> list[Fit]:
    """Pins of one part in bores of another."""
    found = []
    for pin in one.cylinders:
        if pin.kind != "pin" or pin.coverage < FULL_ENOUGH:
            continue
        for bore in other.cylinders:
            if bore.kind != "bore" or bore.coverage < FULL_ENOUGH:
                continue
            clearance = bore.radius - pin.radius
            room = max(1.2 * tolerance, _WIDE * pin.radius)
            if not -_PRESSED * pin.radius <= clearance <= min(room, 0.2 * pin.radius):
                continue
            if not coaxial(pin, bore, np.radians(0.5), max(1e-4, clearance)):
                continue
            fit = _fit(pin, bore, one.name, other.name)
            if fit.length > _LEAST_LENGTH * pin.radius:
                found.append(fit)
    return found


def _fit(pin: CylindricalFace, bore: CylindricalFace, pin_of: str, bore_of: str) -> Fit:
    shift = float((bore.centre - pin.centre) @ pin.direction)
    low = max(-pin.length / 2, shift - bore.length / 2)
    high = min(pin.length / 2, shift + bore.length / 2)
    beyond = sorted(
        (shift - bore.length / 2 + pin.length / 2, pin.length / 2 - shift - bore.length / 2)
    )
    return Fit(
        pin_of,
        bore_of,
        pin.centre + pin.direction * (low + high) / 2,
        with_usual_sign(pin.direction),
        pin.radius,
        bore.radius - pin.radius,
        high - low,
        (float(beyond[0]), float(beyond[1])),
        bore.open_ends < 2,
        max(2e-6, 2 * (pin.residual + bore.residual), 1e-4 * pin.radius),
    )


def _ball_joint(one: Part, other: Part, tolerance: float) -> tuple[Array, float] | None:
    for a, b in ((one, other), (other, one)):
        for ball in a.spheres:
            for socket in b.spheres:
                apart = float(np.linalg.norm(ball.centre - socket.centre))
                room = max(tolerance, 0.02 * ball.radius)
                if (
                    (ball.kind, socket.kind) == ("ball", "socket")
                    and abs(socket.radius - ball.radius) <= room
                    and apart <= room
                ):
                    return ball.centre, ball.radius
    return None


@dataclass(frozen=True, eq=False)
class _Against:
    """Triangles of one part that lie against the other."""

    corners: Array
    normals: Array
    flat: Flags


def _lying_against(
    one: Part, other: Part, tolerance: float, fits: list[Fit]
) -> tuple[_Against, float, bool]:
    """Those of one part that are on no fit; their area; whether any is loose."""
    low = np.maximum(one.vertices.min(axis=0), other.vertices.min(axis=0)) - tolerance
    high = np.minimum(one.vertices.max(axis=0), other.vertices.max(axis=0)) + tolerance
    near = triangles_within(one, low, high)
    if len(near):
        near = near[other.boxes.facing(near, tolerance, _COSINE)]
    if len(near):
        near = near[~_on_fits(near, fits, tolerance)]
    if not len(near):
        return _Against(np.zeros((0, 3, 3)), np.zeros((0, 3)), np.zeros(0, dtype=bool)), 0.0, False
    cross = np.cross(near[:, 1] - near[:, 0], near[:, 2] - near[:, 0])
    doubled = np.linalg.norm(cross, axis=1)
    normals, flat, known = _exact_normals(one, near, cross / doubled[:, None])
    area = float(doubled.sum()) / 2
    if doubled[~known].sum() < _MARGINAL * doubled.sum():
        # The roundings at the edges of faces that are known say nothing new.
        near, normals, flat = near[known], normals[known], flat[known]
        known = known[known]
    return _Against(near, normals, flat), area, bool((~known).any())


def _on_fits(triangles: Array, fits: list[Fit], tolerance: float) -> Flags:
    """Which triangles are facets of a fit's round faces."""
    on = np.zeros(len(triangles), dtype=bool)
    for fit in fits:
        corners = np.concatenate([triangles, triangles.mean(axis=1)[:, None]], axis=1)
        arms = corners - fit.origin
        aside = arms - (arms @ fit.direction)[..., None] * fit.direction
        radii = np.linalg.norm(aside, axis=2)
        # A flat that is milled into a shaft has its corners on the round, and its middle not.
        deep = radii[:, 3] < _CHORD * fit.radius
        radii = radii[:, :3]
        reach = max(abs(fit.clearance), 0.02 * fit.radius) + tolerance * 0.1
        on |= (
            ~deep
            & (np.abs(radii - fit.radius) < reach).all(axis=1)
            & (np.abs(np.einsum("ij,j->i", _unit_normals(triangles), fit.direction)) < 0.2)
        )
    return on


def _unit_normals(triangles: Array) -> Array:
    cross = np.cross(triangles[:, 1] - triangles[:, 0], triangles[:, 2] - triangles[:, 0])
    return np.asarray(cross / np.maximum(np.linalg.norm(cross, axis=1), 1e-300)[:, None])


def _exact_normals(part: Part, triangles: Array, normals: Array) -> tuple[Array, Flags, Flags]:
    """The true surfaces' normals at the middles of triangles; which are flat; which are known."""
    middles = triangles.mean(axis=1)
    exact, flat = normals.copy(), np.zeros(len(normals), dtype=bool)
    known = np.zeros(len(normals), dtype=bool)
    for face in part.surfaces:
        if isinstance(face, PlanarFace):
            on = (normals @ face.normal > 1 - 1e-6) & (face.distance(middles) < 1e-5)
            flat |= on
            known |= on
            continue
        true = _normal_at(face, middles)
        sign = np.sign(np.einsum("ij,ij->i", true, normals))
        leaning = np.abs(np.einsum("ij,ij->i", true, normals))
        radius = face.radius(face.span[1]) if isinstance(face, ConicalFace) else face.radius
        on = ~known & (leaning > _COSINE) & (face.distance(middles) < 0.05 * radius + 1e-5)
        exact[on] = (true * sign[:, None])[on]
        known |= on
    return exact, flat, known


def _normal_at(face: CylindricalFace | ConicalFace | SphericalFace, points: Array) -> Array:
    if isinstance(face, SphericalFace):
        arms = points - face.centre
    else:
        start = face.apex if isinstance(face, ConicalFace) else face.centre
        arms = points - start
        along = arms @ face.direction
        arms = arms - along[:, None] * face.direction
        if isinstance(face, ConicalFace):
            size = np.maximum(np.linalg.norm(arms, axis=1), 1e-300)[:, None]
            arms = arms / size - np.tan(face.half_angle) * face.direction
    return np.asarray(arms / np.maximum(np.linalg.norm(arms, axis=1), 1e-300)[:, None])


def _together(ours: _Against, theirs: _Against) -> tuple[Array, Array, float]:
    """Points and normals out of the first part, from the triangles of both sides; and the gap."""
    gap = 0.0
    points: list[Array] = []
    normals: list[Array] = []
    theirs_out = -theirs.normals
    done = np.zeros(len(theirs.normals), dtype=bool)
    for normal, chosen in _levels(ours):
        facing = theirs.flat & (theirs_out @ normal > _COSINE)
        level = float(np.median(ours.corners[chosen].reshape(-1, 3) @ normal))
        heights = np.abs(theirs.corners @ normal - level).min(axis=1)
        facing &= heights < 1e-3
        done |= facing
        gap = max(gap, float(heights[facing].min(initial=np.inf)) if facing.any() else 0.0)
        found = _shared_patch(ours.corners[chosen], theirs.corners[facing], normal)
        points.append(found)
        normals.append(np.tile(normal, (len(found), 1)))
    for side, sign in ((ours, 1.0), (theirs, -1.0)):
        curved = ~side.flat
        points.append(side.corners[curved].mean(axis=1))
        normals.append(sign * side.normals[curved])
    if not any(len(p) for p in points):
        return np.zeros((0, 3)), np.zeros((0, 3)), gap
    all_points, all_normals = np.concatenate(points), np.concatenate(normals)
    if len(all_points) > _MOST_SAMPLES:
        chosen = np.linspace(0, len(all_points) - 1, _MOST_SAMPLES).astype(int)
        all_points, all_normals = all_points[chosen], all_normals[chosen]
    return all_points, all_normals, gap


def _levels(side: _Against) -> list[tuple[Array, Array]]:
    """The flat triangles of one side, by the planes they lie in."""
    flat = np.flatnonzero(side.flat)
    levels: list[tuple[Array, Array]] = []
    left = flat
    while len(left):
        normal = side.normals[left[0]]
        height = side.corners[left, 0] @ normal
        same = (side.normals[left] @ normal > 1 - 1e-6) & (np.abs(height - height[0]) < 1e-5)
        levels.append((normal, left[same]))
        left = left[~same]
    return levels


def _shared_patch(ours: Array, theirs: Array, normal: Array) -> Array:
    """The corners of where the outlines of flat triangles of both sides overlap, (k, 3)."""
    frame = frame_along(normal)[:, :2]
    height = float(np.median(ours.reshape(-1, 3) @ normal))
    outline = _outline(ours.reshape(-1, 3) @ frame)
    if len(theirs):
        shared = _clipped(outline, _outline(theirs.reshape(-1, 3) @ frame))
        outline = shared if len(shared) else outline
    return np.asarray(outline @ frame.T + height * normal)


def _outline(points: Array) -> Array:
    """The convex outline of points of a plane, anticlockwise, (k, 2)."""
    try:
        return np.asarray(points[ConvexHull(points).vertices])
    except QhullError:
        return points


def _clipped(outline: Array, by: Array) -> Array:
    """What of one convex outline is inside another (Sutherland and Hodgman, 1974), (k, 2)."""
    for start, end in zip(by, np.roll(by, -1, axis=0), strict=True):
        if not len(outline):
            break
        edge = end - start
        inside = edge[0] * (outline[:, 1] - start[1]) - edge[1] * (outline[:, 0] - start[0])
        kept: list[Array] = []
        for here, (point, depth) in enumerate(zip(outline, inside, strict=True)):
            before, was = outline[here - 1], inside[here - 1]
            if (depth >= 0) != (was >= 0):
                kept.append(before + (point - before) * was / (was - depth))
            if depth >= 0:
                kept.append(point)
        outline = np.array(kept).reshape(-1, 2)
    return outline


def felt(fit: Fit) -> tuple[Array, Array]:
    """Points and normals at which a round fit is felt, (k, 3) each."""
    frame = frame_along(fit.direction)
    angles = np.arange(_AROUND) * 2 * np.pi / _AROUND
    ring = np.outer(np.cos(angles), frame[:, 0]) + np.outer(np.sin(angles), frame[:, 1])
    half = fit.direction * fit.length / 2
    points = [fit.origin + sign * half + fit.radius * ring for sign in (-1.0, 1.0)]
    return np.concatenate(points), np.concatenate([ring, ring])
