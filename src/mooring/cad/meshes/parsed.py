"""What the parsers of all mesh formats give: nodes, and the shapes they carry."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from mooring.cad.paint import Paint
from mooring.geometry import Array


@dataclass(frozen=True, eq=False)
class RawShape:
    """Triangles as the file has them: its own unit, nothing checked.

    Attributes:
        vertices: (n, 3).
        faces: (m, 3).
        color: "#rrggbb", or None.
        paint: the triangles with colors of their own, or None.
    """

    vertices: Array
    faces: NDArray[np.int64]
    color: str | None = None
    paint: Paint | None = None


@dataclass(frozen=True, eq=False)
class RawNode:
    """One node of the file's tree.

    Attributes:
        name: as the file has it; empty where it has none.
        path: names from the root down to it.
        transform: from its coordinates to the file's, (4, 4), scales included.
        shape: the name of the shape it carries; None for an empty node.
    """

    name: str
    path: tuple[str, ...]
    transform: Array
    shape: str | None


@dataclass(eq=False)
class RawScene:
    """A parsed file.

    Attributes:
        nodes: in the file's order.
        shapes: by name.
        unit: as the file states it, where the format has it in its header.
        notes: what the parser could not understand and left out.
    """

    nodes: list[RawNode] = field(default_factory=list)
    shapes: dict[str, RawShape] = field(default_factory=dict)
    unit: str | None = None
    notes: list[str] = field(default_factory=list)


def hex_color(color: object, linear: bool = False) -> str | None:
    """A color of three or four values, 0 to 1 or 0 to 255, as "#rrggbb".

    Args:
        color: the values.
        linear: whether they stand for amounts of light, as in glTF, and not for sRGB
            (IEC 61966-2-1).
    """

    if color is None:
        return None
    values = np.asarray(color)
    if values.ndim != 1 or len(values) < 3 or values.dtype.kind not in "fiu":
        return None
    rgb = values[:3].astype(float)
    if values.dtype.kind == "f" and rgb.max() <= 1.0:
        rgb = rgb * 255
    if not np.isfinite(rgb).all():
        return None
    if linear:
        light = np.clip(rgb, 0, 255) / 255
        rgb = 255 * np.where(light <= 0.0031308, 12.92 * light, 1.055 * light ** (1 / 2.4) - 0.055)
    return "#" + "".join(f"{round(float(v)):02x}" for v in np.clip(rgb, 0, 255))
