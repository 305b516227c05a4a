"""Meshes of simple bodies."""

from __future__ import annotations

from functools import cache

import numpy as np

from mooring.cad import Mesh
from mooring.cad.mesh import weld
from mooring.geometry import Array

_AROUND = 48


@cache
def box(size: tuple[float, float, float]) -> Mesh:
    """A block about its middle."""
    corners = np.array([[x, y, z] for x in (-0.5, 0.5) for y in (-0.5, 0.5) for z in (-0.5, 0.5)])
    quads = [(0, 1, 3, 2), (4, 6, 7, 5), (0, 4, 5, 1), (2, 3, 7, 6), (0, 2, 6, 4), (1, 5, 7, 3)]
    faces = [f for a, b, c, d in quads for f in ((a, b, c), (a, c, d))]
    return Mesh(corners * np.array(size), np.array(faces, dtype=np.int64))


@cache
def cylinder(radius: float, length: float) -> Mesh:
    """A round bar along z about its middle."""
    half = length / 2
    return turned(np.array([[0.0, -half], [radius, -half], [radius, half], [0.0, half]]))


@cache
def arrow(length: float, thickness: float) -> Mesh:
    """An arrow along z from the origin."""
    head = 3.2 * thickness
    neck = length - 2.2 * head
    profile = [(0.0, 0.0), (thickness, 0.0), (thickness, neck), (head, neck), (0.0, length)]
    return turned(np.array(profile))


@cache
def ball(radius: float) -> Mesh:
    """A ball about the origin."""
    return turned(arc(radius, 0.0, -90, 90))


@cache
def rod(radius: float, length: float) -> Mesh:
    """A round bar along z about its middle, with half-balls beyond its ends."""
    lower = arc(radius, -length / 2, -90, 0)
    return turned(np.vstack([lower, arc(radius, length / 2, 0, 90)]))


def turned(profile: Array) -> Mesh:
    """A solid of revolution about z; profile points are (radius, z), from the bottom up."""
    angles = np.linspace(0, 2 * np.pi, _AROUND, endpoint=False)
    rings = np.stack(
        [
            np.outer(profile[:, 0], np.cos(angles)),
            np.outer(profile[:, 0], np.sin(angles)),
            np.repeat(profile[:, 1:], _AROUND, axis=1),
        ],
        axis=2,
    )
    faces = []
    for ring in range(len(profile) - 1):
        for k in range(_AROUND):
            a, b = ring * _AROUND + k, ring * _AROUND + (k + 1) % _AROUND
            c, d = a + _AROUND, b + _AROUND
            if profile[ring, 0] > 0:
                faces.append((a, b, d))
            if profile[ring + 1, 0] > 0:
                faces.append((a, d, c))
    return weld(rings.reshape(-1, 3), np.array(faces, dtype=np.int64), tolerance=1e-9)


def arc(radius: float, centre: float, start: float, end: float) -> Array:
    """Points (radius, z) on a circle about the z axis, from one angle to another [deg], (n, 2)."""
    angles = np.radians(np.linspace(start, end, 25 if end - start > 90 else 13))
    profile = np.stack([radius * np.cos(angles), centre + radius * np.sin(angles)], axis=1)
    profile[np.abs(profile[:, 0]) < 1e-12 * radius, 0] = 0.0
    return profile
