"""All points of contact of a state.

A pair of shapes that was found apart is not looked at again until both have moved as far as they
were apart: nothing in between can have made them touch.
"""

from __future__ import annotations

from math import sqrt

import numpy as np

from mooring.compiling import kernel
from mooring.kinematics.overlaps.kernels.distance import new_scratch, signed_distance
from mooring.kinematics.overlaps.kernels.support import POINTS
from mooring.simulation.contact.arrays import LEVEL_GROUND, NO_GROUND
from mooring.simulation.contact.kernels.faces import MOST_CORNERS, side_towards
from mooring.simulation.contact.kernels.ground import uneven_contacts
from mooring.simulation.contact.kernels.manifold import MOST_POINTS, keep_spread, manifold
from mooring.simulation.contact.kernels.segments import segment_distance

_NEAR = 0.002
"""Contacts with gaps up to this are kept ready, besides those that could close in a step [m]."""
FULL = -1


@kernel
def new_places(count):
    """Turns, places and middles of shapes, and the speed bound of each."""
    return (
        np.zeros((count, 3, 3)),
        np.zeros((count, 3)),
        np.zeros((count, 3)),
        np.zeros(count),
    )


@kernel
def new_contact_scratch():
    return (
        new_scratch(),
        (
            np.zeros((MOST_CORNERS, 3)), np.zeros((MOST_CORNERS, 3)), np.zeros((MOST_CORNERS, 3)),
            np.zeros((2 * MOST_CORNERS, 4)), np.zeros((2 * MOST_CORNERS, 2)),
        ),
        np.zeros((MOST_POINTS, 4)),
        np.zeros(9),
        np.zeros((4 * MOST_CORNERS, 7)),
        np.zeros(3),
    )  # fmt: skip


@kernel
def place_shapes(shapes, rows, step, placed, path):
    """Where shapes are, from the bodies' rows, and how far each moves at most in a step."""
    turns, places, middles, speeds = placed
    for s in range(shapes.body.shape[0]):
        i = shapes.body[s]
        r0, r1, r2, r3, r4, r5, r6, r7, r8 = (
            rows[i, 0], rows[i, 1], rows[i, 2], rows[i, 3], rows[i, 4], rows[i, 5], rows[i, 6],
            rows[i, 7], rows[i, 8],
        )  # fmt: skip
        for k in range(3):
            a, b, c = (
                shapes.rotation[s, 0, k],
                shapes.rotation[s, 1, k],
                shapes.rotation[s, 2, k],
            )
            turns[s, 0, k] = r0 * a + r1 * b + r2 * c
            turns[s, 1, k] = r3 * a + r4 * b + r5 * c
            turns[s, 2, k] = r6 * a + r7 * b + r8 * c
        a, b, c = shapes.translation[s, 0], shapes.translation[s, 1], shapes.translation[s, 2]
        x = rows[i, 9] + r0 * a + r1 * b + r2 * c
        y = rows[i, 10] + r3 * a + r4 * b + r5 * c
        z = rows[i, 11] + r6 * a + r7 * b + r8 * c
        places[s, 0], places[s, 1], places[s, 2] = x, y, z
        a, b, c = shapes.ball[s, 0], shapes.ball[s, 1], shapes.ball[s, 2]
        x += turns[s, 0, 0] * a + turns[s, 0, 1] * b + turns[s, 0, 2] * c
        y += turns[s, 1, 0] * a + turns[s, 1, 1] * b + turns[s, 1, 2] * c
        z += turns[s, 2, 0] * a + turns[s, 2, 1] * b + turns[s, 2, 2] * c
        middles[s, 0], middles[s, 1], middles[s, 2] = x, y, z
        wx, wy, wz = rows[i, 12], rows[i, 13], rows[i, 14]
        vx = rows[i, 15] + wy * z - wz * y
        vy = rows[i, 16] + wz * x - wx * z
        vz = rows[i, 17] + wx * y - wy * x
        spin = sqrt(wx * wx + wy * wy + wz * wz)
        speeds[s] = sqrt(vx * vx + vy * vy + vz * vz) + spin * shapes.ball[s, 3]
        # Gravity and motors may add to it within the step.
        path[s] += step * (1.1 * speeds[s] + 20.0 * step)


@kernel
def collect(contact, state, placed, step, scratch):
    """Fill `state.which`, `state.where` and `state.used`; FULL when there are too many to hold."""
    shapes, pairs = contact.shapes, contact.pairs
    turns, places, middles, speeds = placed
    distance_work, manifold_work, points, found, many, spot = scratch
    path, free_until, apart = state.path, state.free_until, state.apart
    most = state.which.shape[0]
    total = 0
    for p in range(pairs.shape[0]):
        a, b = pairs[p, 0], pairs[p, 1]
        if path[a] + path[b] < free_until[p]:
            continue
        dx = middles[b, 0] - middles[a, 0]
        dy = middles[b, 1] - middles[a, 1]
        dz = middles[b, 2] - middles[a, 2]
        margin = _NEAR + 2.0 * step * (speeds[a] + speeds[b])
        reach = shapes.ball[a, 3] + shapes.ball[b, 3]
        squared = dx * dx + dy * dy + dz * dz
        far = reach + 10.0 * margin
        if squared > far * far:
            free_until[p] = path[a] + path[b] + sqrt(squared) - reach - margin
            continue
        distance = _distance(shapes, a, b, turns, places, apart, p, distance_work, found)
        for k in range(3):
            apart[p, k] = found[6 + k]
        if distance > margin:
            free_until[p] = path[a] + path[b] + distance - margin
            continue
        count = manifold(
            shapes, a, turns[a], places[a], b, turns[b], places[b], found, distance, margin,
            manifold_work, points,
        )  # fmt: skip
        if total + count > most:
            return FULL
        for k in range(count):
            _note(
                contact.surface, state.which, state.where, total, p, shapes.body[a],
                shapes.body[b], a, b, points, k, found[6], found[7], found[8],
            )  # fmt: skip
            total += 1
    if contact.ground != NO_GROUND:
        ground = shapes.body.shape[0]
        for s in contact.grounded:
            margin = _NEAR + 2.0 * step * speeds[s]
            if contact.ground == LEVEL_GROUND:
                if middles[s, 2] - shapes.ball[s, 3] - contact.level > margin:
                    continue
                first, last = shapes.first[s], shapes.last[s]
                if shapes.kind[s] == POINTS and last - first <= 2:
                    count = _round_on_level(
                        shapes.points, first, last, shapes.radius[s], s, turns, places,
                        contact.level, margin, many,
                    )  # fmt: skip
                else:
                    count = _level_contacts(
                        shapes, s, turns[s], places[s], contact.level, margin, manifold_work, many
                    )
            else:
                count = uneven_contacts(
                    contact, s, turns[s], places[s], middles[s], margin, distance_work,
                    manifold_work, found, spot, many,
                )  # fmt: skip
            if total + count > most:
                return FULL
            for k in range(count):
                _note(
                    contact.surface, state.which, state.where, total, pairs.shape[0] + s, -1,
                    shapes.body[s], ground, s, many, k, many[k, 4], many[k, 5], many[k, 6],
                )  # fmt: skip
                total += 1
    state.used[0] = total
    return total


@kernel
def _distance(shapes, a, b, turns, places, apart, p, work, found):
    """The distance between two shapes, by formula where both are balls or capsules."""
    if shapes.kind[a] == POINTS and shapes.kind[b] == POINTS:
        size_a, size_b = shapes.last[a] - shapes.first[a], shapes.last[b] - shapes.first[b]
        if size_a <= 2 and size_b <= 2:
            distance = segment_distance(
                shapes, a, turns[a], places[a], b, turns[b], places[b], found
            )
            if distance > -1e290:
                return distance
    way = work[7]
    for k in range(3):
        way[3 + k] = apart[p, k]
    return signed_distance(shapes, a, turns[a], places[a], b, turns[b], places[b], work, found)


@kernel
def _round_on_level(points, first, last, radius, s, turns, places, level, margin, out):
    """As `_level_contacts`, of balls and capsules, without looking for a side."""
    kept = 0
    for k in range(first, last):
        a, b, c = points[k, 0], points[k, 1], points[k, 2]
        z = places[s, 2] + turns[s, 2, 0] * a + turns[s, 2, 1] * b + turns[s, 2, 2] * c
        gap = z - radius - level
        if gap < margin:
            out[kept, 0] = (
                places[s, 0] + turns[s, 0, 0] * a + turns[s, 0, 1] * b + turns[s, 0, 2] * c
            )
            out[kept, 1] = (
                places[s, 1] + turns[s, 1, 0] * a + turns[s, 1, 1] * b + turns[s, 1, 2] * c
            )
            out[kept, 2], out[kept, 3] = level + 0.5 * gap, gap
            out[kept, 4], out[kept, 5], out[kept, 6] = 0.0, 0.0, 1.0
            kept += 1
    return kept


@kernel
def _level_contacts(shapes, s, turn, place, level, margin, work, out):
    """Points (n, 7) of a shape on level ground: where, gap, normal."""
    count = side_towards(shapes, s, turn, place, 0.0, 0.0, -1.0, work[0], work[1])
    side = work[1]
    kept = 0
    for k in range(count):
        gap = side[k, 2] - level
        if gap < margin:
            out[kept, 0], out[kept, 1], out[kept, 2] = side[k, 0], side[k, 1], level + 0.5 * gap
            out[kept, 3], out[kept, 4], out[kept, 5], out[kept, 6] = gap, 0.0, 0.0, 1.0
            kept += 1
    return keep_spread(out, kept, MOST_POINTS)


@kernel
def _note(surface, which, where, c, pair, body_a, body_b, a, b, points, k, nx, ny, nz):
    which[c, 0], which[c, 1], which[c, 2] = pair, body_a, body_b
    for j in range(3):
        where[c, j] = points[k, j]
    where[c, 3], where[c, 4], where[c, 5], where[c, 6] = nx, ny, nz, points[k, 3]
    where[c, 7] = sqrt(surface[a, 0] * surface[b, 0])
    where[c, 8] = max(surface[a, 1], surface[b, 1])
    where[c, 9] = max(surface[a, 2], surface[b, 2])
    where[c, 10] = max(surface[a, 3], surface[b, 3])
