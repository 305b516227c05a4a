"""Surfaces as plain values, to be written to files."""

from __future__ import annotations

from dataclasses import fields
from typing import Any

import numpy as np

from mooring.cad.surfaces import ConicalFace, CylindricalFace, PlanarFace, SphericalFace, Surface

_KINDS: dict[str, type[Surface]] = {
    kind.__name__: kind for kind in (PlanarFace, CylindricalFace, ConicalFace, SphericalFace)
}


def as_row(surface: Surface) -> list[Any]:
    """The kind of surface, then its fields in order, as JSON takes them."""
    values = (getattr(surface, field.name) for field in fields(surface))
    plain = [value.tolist() if isinstance(value, np.ndarray) else value for value in values]
    return [type(surface).__name__, *plain]


def from_row(row: list[Any]) -> Surface:
    """The surface that `as_row` wrote."""
    kind, *values = row
    return _KINDS[kind](*(_restored(value) for value in values))


def _restored(value: Any) -> Any:
    if isinstance(value, list):
        return np.array(value) if len(value) == 3 else tuple(value)
    return value
