"""Rendering."""

from __future__ import annotations

import numpy as np

from benchmarks.timing import best_of
from mooring.drawing.camera import looking_at
from mooring.drawing.pieces import Piece
from mooring.drawing.render import LevelGround, render
from mooring.geometry import placement
from mooring.model.shapes.bodies import turned


def rendering() -> None:
    """A picture of 200,000 triangles against one of 26,000."""
    angles = np.linspace(-np.pi / 2, np.pi / 2, 72)
    profile = np.stack([np.cos(angles), np.sin(angles)], axis=1)
    profile[[0, -1], 0] = 0
    ball = turned(profile)
    spent = []
    for columns in (2, 15):
        pieces = [
            Piece(ball, placement((2.2 * i, 2.2 * j, 1)), "#d9822b")
            for i in range(columns)
            for j in range(2)
        ]
        points = np.concatenate([piece.vertices for piece in pieces])
        camera = looking_at(points, "corner", 1.6)
        ground = LevelGround(0, 1)
        spent.append(best_of(lambda: render(pieces, camera, (1280, 800), ground), 3))
        triangles = sum(len(piece.mesh.faces) for piece in pieces)
        print(
            f"picture of {triangles:,} triangles, 1280 x 800: {spent[-1]:.2f} s, "
            f"{spent[-1] / spent[0]:.2f} of the first"
        )
