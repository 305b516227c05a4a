"""Smallest enclosing circles and balls."""

from __future__ import annotations

from itertools import combinations

import numpy as np

from mooring.geometry import Array

_SLACK = 1e-10


def enclosing_ball(points: Array) -> tuple[Array, float]:
    """Centre (d,) and radius of the smallest ball around points (n, d), d = 2 or 3.

    Grows a support set of at most d + 1 points by the farthest point outside; the radius rises at
    every step, so no set comes back and the search ends (after Welzl, "Smallest enclosing disks
    (balls and ellipsoids)", 1991).

    >>> centre, radius = enclosing_ball(np.array([[0.0, 0.0], [2.0, 0.0], [1.0, 0.5]]))
    >>> centre, radius
    (array([1., 0.]), 1.0)
    """
    centre = points.mean(axis=0)
    support = points[[int(np.argmax(((points - centre) ** 2).sum(axis=1)))]]
    centre, squared = support[0], 0.0
    scale = max(float(np.abs(points - centre).max()), 1e-30)
    for _ in range(1000):
        distances = ((points - centre) ** 2).sum(axis=1)
        farthest = int(np.argmax(distances))
        if distances[farthest] <= squared + _SLACK * scale**2:
            break
        support, centre, squared = _ball_of_few(np.vstack([support, points[farthest]]))
    distances = ((points - centre) ** 2).sum(axis=1)
    return centre, float(np.sqrt(distances.max()))


def _ball_of_few(points: Array) -> tuple[Array, Array, float]:
    """The smallest ball around at most d + 2 points: its support, centre and squared radius."""
    best: tuple[Array, Array, float] | None = None
    for count in range(2, points.shape[1] + 2):
        for chosen in combinations(range(len(points)), count):
            some = points[list(chosen)]
            centre = _circumcentre(some)
            if centre is None:
                continue
            squared = float(((some - centre) ** 2).sum(axis=1).max())
            around = float(((points - centre) ** 2).sum(axis=1).max())
            fits = around <= squared * (1 + 1e-9) + 1e-30
            if fits and (best is None or squared < best[2]):
                best = some, centre, squared
        if best is not None:
            return best
    # Nearly dependent points: a ball about the middle still covers them.
    middle = points.mean(axis=0)
    return points[:1], middle, float(((points - middle) ** 2).sum(axis=1).max())


def _circumcentre(points: Array) -> Array | None:
    """The point of their affine span with equal distance to all; None when they are dependent."""
    edges = points[1:] - points[0]
    gram = edges @ edges.T
    squares = np.diag(gram)
    # The determinant is the squared volume that the edges span.
    if np.linalg.det(gram) <= 1e-13 * squares.prod():
        return None
    weights = np.linalg.solve(gram, 0.5 * squares)
    return np.asarray(points[0] + weights @ edges)
