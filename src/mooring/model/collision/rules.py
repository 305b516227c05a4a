"""The rules by which a link gets its collision shapes."""

from __future__ import annotations

from collections.abc import Sequence
from functools import lru_cache
from typing import Any

import numpy as np

from mooring.cad import Part
from mooring.errors import ModelError, did_you_mean
from mooring.model.placement import Placement
from mooring.model.shapes import PlacedShape, Primitive

RULES = ("box", "cylinder", "capsule", "sphere", "none")


def refuse_unfit(rule: str, parts: Sequence[Part]) -> None:
    """Refuse a rule that cannot be followed.

    Raises:
        ModelError: an unknown rule, or nothing to fit a shape around.
    """
    if rule not in RULES:
        raise ModelError(f"unknown collision rule {rule!r}{did_you_mean(rule, RULES)}")
    if rule != "none" and not parts:
        raise ModelError(f"collision: {rule} needs parts to be fitted around")


@lru_cache(maxsize=256)
def fit(rule: str, parts: tuple[Part, ...]) -> tuple[PlacedShape, ...]:
    """Collision shapes for parts, in CAD coordinates.

    Args:
        rule: one of `RULES`; the smallest such shape in any orientation, or none.
        parts: what to cover. Links that share their parts share what was fitted.

    Raises:
        ModelError: an unknown rule, or nothing to cover.
    """
    refuse_unfit(rule, parts)
    if rule == "none":
        return ()
    from mooring.model.collision import smallest

    by_rule = {
        "box": smallest.fit_box,
        "cylinder": smallest.fit_cylinder,
        "capsule": smallest.fit_capsule,
        "sphere": smallest.fit_sphere,
    }
    points = np.concatenate([part.vertices for part in parts])
    axes = [cylinder.direction for part in parts for cylinder in part.cylinders]
    shape, place = by_rule[rule](points, axes)
    return (PlacedShape(_to_the_nanometre(shape), Placement(place, "cad")),)


def _to_the_nanometre(shape: Primitive) -> Primitive:
    """The same shape without the last bits of rounding error, which read badly in files."""
    values: dict[str, Any] = {
        name: tuple(round(v, 9) for v in value) if isinstance(value, tuple) else round(value, 9)
        for name, value in vars(shape).items()
    }
    return type(shape)(**values)
