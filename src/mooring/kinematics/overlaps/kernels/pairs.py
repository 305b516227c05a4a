"""Distances between many pairs of bodies, at many positions."""

from __future__ import annotations

from math import sqrt

import numpy as np

from mooring.compiling import entry, kernel
from mooring.kinematics.kernels.poses import world_frames
from mooring.kinematics.overlaps.kernels.distance import new_scratch, signed_distance
from mooring.tree.kernels.vectors import forward


@kernel
def place_shapes(shapes, rotation, translation, turns, places, middles):
    """Where the shapes are, and the middles of the balls around them, in the world."""
    for s in range(shapes.body.shape[0]):
        body = shapes.body[s]
        turn, own = rotation[body], shapes.rotation[s]
        for j in range(3):
            for k in range(3):
                turns[s, j, k] = (
                    turn[j, 0] * own[0, k] + turn[j, 1] * own[1, k] + turn[j, 2] * own[2, k]
                )
        at = shapes.translation[s]
        x, y, z = forward(turn, at[0], at[1], at[2])
        places[s, 0] = x + translation[body, 0]
        places[s, 1] = y + translation[body, 1]
        places[s, 2] = z + translation[body, 2]
        at = shapes.ball[s]
        x, y, z = forward(turns[s], at[0], at[1], at[2])
        middles[s, 0] = x + places[s, 0]
        middles[s, 1] = y + places[s, 1]
        middles[s, 2] = z + places[s, 2]


@kernel
def pair_distance(shapes, first, second, turns, places, middles, beyond, work, trial, found):
    """The least signed distance between the shapes of two bodies, no more than `beyond`.

    Shapes of a body lie next to each other: `first` and `second` are (2,), from and to.
    """
    least = beyond
    for a in range(first[0], first[1]):
        for b in range(second[0], second[1]):
            dx = middles[a, 0] - middles[b, 0]
            dy = middles[a, 1] - middles[b, 1]
            dz = middles[a, 2] - middles[b, 2]
            gap = sqrt(dx * dx + dy * dy + dz * dz) - shapes.ball[a, 3] - shapes.ball[b, 3]
            if gap >= least:
                continue
            distance = signed_distance(
                shapes, a, turns[a], places[a], b, turns[b], places[b], work, trial
            )
            if distance < least:
                least = distance
                found[:] = trial
    return least


@entry
def batch_pair_distances(tree, shapes, pairs, q, beyond, distances, contacts):
    """Signed distances (b, p) of pairs of bodies (p, 4: from and to of each) at positions (b, n).

    `contacts` (b, p, 9) gets the nearest points and the normal where the distance is less than
    `beyond`.
    """
    bodies = tree.parent.shape[0]
    count = shapes.body.shape[0]
    rotation = np.empty((bodies, 3, 3))
    translation = np.empty((bodies, 3))
    turns = np.empty((count, 3, 3))
    places = np.empty((count, 3))
    middles = np.empty((count, 3))
    work = new_scratch()
    trial = np.zeros(9)
    for b in range(q.shape[0]):
        world_frames(tree, q[b], rotation, translation)
        place_shapes(shapes, rotation, translation, turns, places, middles)
        for p in range(pairs.shape[0]):
            distances[b, p] = pair_distance(
                shapes, pairs[p, 0:2], pairs[p, 2:4], turns, places, middles, beyond, work, trial,
                contacts[b, p],
            )  # fmt: skip
