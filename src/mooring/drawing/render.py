"""The renderer: pieces and a camera in, an image out. No screen and no graphics card needed."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from mooring._native.drawing import draw_picture, rasterise
from mooring.drawing.camera import Camera, Triple, triple
from mooring.drawing.palette import LIGHT, Theme, rgb
from mooring.drawing.pieces import Layer, Piece
from mooring.geometry import Array
from mooring.threads import most_threads
from mooring.tree.arrays import Indices

_OVERSAMPLING = 2
_SHADOW_CELLS = 1536
_LIGHT = np.array([0.35, -0.50, 0.79])
_GLASS = 0.45
FAR = 1e4
"""Parallel views measure nearness from here [m]."""

Image = NDArray[np.uint8]


class Shadow(NamedTuple):
    """What the light sees, for the compiled renderer."""

    light: Triple
    right: Triple
    up: Triple
    centre: Triple
    cell: float
    far: float
    depth: NDArray[np.float32]
    drawn: tuple[float, float, float, float]
    """the part of the map that anything is in: lowest and highest x, then y [cells]"""


class SeenGround(NamedTuple):
    """The ground, for the compiled renderer."""

    shown: bool
    height: float
    centre: Triple
    radius: float
    spacing: float
    color: Triple
    sky: Triple
    haze: Triple


@dataclass(frozen=True)
class LevelGround:
    """A level ground: its height [m], and the distance of its grid's lines [m]."""

    height: float
    spacing: float


class _Triangles(NamedTuple):
    """Pieces of one layer as flat arrays."""

    vertices: Array
    faces: Indices
    normals: Array
    color: Array
    piece: Indices


def render(
    pieces: Sequence[Piece],
    camera: Camera,
    size: tuple[int, int],
    ground: LevelGround | None,
    theme: Theme = LIGHT,
) -> Image:
    """Draw pieces.

    Args:
        pieces: what to draw.
        camera: from where.
        size: width and height [pixels].
        ground: what it stands on, or None.
        theme: the colors around it.

    Returns:
        (height, width, 3), 8 bits.
    """
    width, height = size[0] * _OVERSAMPLING, size[1] * _OVERSAMPLING
    solid = _flatten([p for p in pieces if p.layer is Layer.SOLID])
    glass = _flatten([p for p in pieces if p.layer is Layer.GLASS])
    on_top = _flatten([p for p in pieces if p.layer is Layer.ON_TOP])
    everything = np.concatenate([solid.vertices, glass.vertices, on_top.vertices])
    shadow = _shadow(solid if len(solid.faces) else glass, everything, ground)
    image = np.empty((size[1], size[0], 3), dtype=np.uint8)
    solid_, glass_, on_top_ = (
        _Layer(
            camera.project(triangles.vertices, width, height, FAR),
            triangles.faces, triangles.normals, triangles.color, triangles.piece,
        )
        for triangles in (solid, glass, on_top)
    )  # fmt: skip
    draw_picture(
        solid_, glass_, on_top_, camera.arrays(width, height, FAR), shadow,
        _seen_ground(everything, ground, theme), rgb(theme.edge), _GLASS, _OVERSAMPLING,
        most_threads(),
        image,
    )  # fmt: skip
    return image


class _Layer(NamedTuple):
    """Triangles, and where their vertices are on the picture, for the compiled renderer."""

    screen: Array
    faces: Indices
    normals: Array
    colors: Array
    pieces: Indices


def _flatten(pieces: Sequence[Piece]) -> _Triangles:
    vertices, faces, normals, colors, owners = [], [], [], [], []
    offset = 0
    for number, piece in enumerate(pieces):
        vertices.append(piece.vertices)
        faces.append(piece.mesh.faces + offset)
        normals.append(piece.normals)
        count = len(piece.mesh.faces)
        colors.append(piece.colors)
        owners.append(np.full(count, number, dtype=np.int64))
        offset += len(piece.mesh.vertices)
    if not pieces:
        none = np.zeros((0, 3))
        return _Triangles(
            none, np.zeros((0, 3), np.int64), np.zeros((0, 3, 3)), none, np.zeros(0, np.int64)
        )
    return _Triangles(
        np.concatenate(vertices),
        np.ascontiguousarray(np.concatenate(faces), dtype=np.int64),
        np.ascontiguousarray(np.concatenate(normals)),
        np.concatenate(colors),
        np.concatenate(owners),
    )


def _shadow(triangles: _Triangles, everything: Array, ground: LevelGround | None) -> Shadow:
    """The depth map as the light sees it, parallel rays."""
    light = _LIGHT / np.linalg.norm(_LIGHT)
    right = np.cross([0.0, 0.0, 1.0], light)
    right /= np.linalg.norm(right)
    up = np.cross(light, right)
    low, high = everything.min(axis=0), everything.max(axis=0)
    centre = (low + high) / 2
    radius = float(np.linalg.norm(high - low)) / 2 + 1e-6
    cell = 2.05 * radius / _SHADOW_CELLS
    far = 4 * radius + (abs(centre[2] - ground.height) if ground else 0.0)
    sees = Camera(centre + far * light, right, up, light, 1.025 * radius, False)
    depth = np.zeros((_SHADOW_CELLS, _SHADOW_CELLS), dtype=np.float32)
    owner = np.full(depth.shape, -1, dtype=np.int32)
    screen = sees.project(triangles.vertices, _SHADOW_CELLS, _SHADOW_CELLS, 2 * far)
    rasterise(screen, triangles.faces, 0, depth, owner)
    drawn = (0.0, 0.0, 0.0, 0.0)
    if len(screen):
        low, high = screen[:, :2].min(axis=0) - 3, screen[:, :2].max(axis=0) + 3
        drawn = (float(low[0]), float(high[0]), float(low[1]), float(high[1]))
    return Shadow(triple(light), triple(right), triple(up), triple(centre), cell, far, depth, drawn)


def _seen_ground(everything: Array, ground: LevelGround | None, theme: Theme) -> SeenGround:
    low, high = everything.min(axis=0), everything.max(axis=0)
    reach = float(np.linalg.norm(high - low)) * 1.1
    return SeenGround(
        ground is not None,
        ground.height if ground else 0.0,
        triple((low + high) / 2),
        reach,
        ground.spacing if ground else 1.0,
        rgb(theme.quay),
        rgb(theme.sky),
        rgb(theme.haze),
    )
