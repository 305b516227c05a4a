"""The rules by which a link gets its collision shapes."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import cached_property, lru_cache
from typing import TYPE_CHECKING, Any

import numpy as np

from mooring.cad import Part
from mooring.errors import ModelError, did_you_mean
from mooring.geometry import Array
from mooring.model.collision import memory
from mooring.model.collision.definition import CollisionRule
from mooring.model.placement import Placement
from mooring.model.shapes import Hull, MeshShape, PlacedShape, Shape

if TYPE_CHECKING:
    from mooring.model.collision.judge import Judgement

_BY_COST = ("sphere", "capsule", "box", "cylinder", "hull", "pieces")
_OVERHANG = 0.1
"""Share of the parts' size that a shape may stand out from them, where nothing is said."""


@dataclass(frozen=True)
class Fit:
    """Shapes fitted around parts.

    Attributes:
        rule: the rule that was followed; for auto the one that was chosen.
        shapes: in CAD coordinates.
        parts: what they cover.
    """

    rule: str
    shapes: tuple[PlacedShape, ...]
    parts: tuple[Part, ...]

    @cached_property
    def judgement(self) -> Judgement:
        """How well they fit; found when first asked for, which takes a moment."""
        from mooring.model.collision.judge import judge

        return judge(self.shapes, self.parts)


def chosen_parts(rule: CollisionRule, parts: tuple[Part, ...]) -> tuple[Part, ...]:
    """The parts a rule is about.

    Raises:
        ModelError: there are none.
    """
    if not parts:
        raise ModelError(f"collision: {rule.fit} needs parts to be fitted around")
    if not rule.parts:
        return parts
    for pattern in rule.parts:
        if not any(part.matches(pattern) for part in parts):
            hint = did_you_mean(pattern, [part.name for part in parts])
            raise ModelError(f"collision: no part of the link matches {pattern!r}{hint}")
    return tuple(p for p in parts if any(p.matches(pattern) for pattern in rule.parts))


@lru_cache(maxsize=4096)
def fit(rule: CollisionRule, parts: tuple[Part, ...]) -> Fit:
    """Collision shapes for parts, in CAD coordinates.

    Args:
        rule: what to fit.
        parts: what to cover. Links that share their parts share what was fitted.

    Raises:
        ModelError: nothing to cover, or nothing left after shrinking.
    """
    parts = chosen_parts(rule, parts)
    key = memory.key_of(rule, parts)
    kept = memory.recall(key)
    if kept is not None:
        return Fit(*kept, parts)
    if rule.fit == "auto":
        found = _cheapest(rule, parts)
    else:
        shapes = tuple(
            replace(placed, shape=_shrunk(placed.shape, rule.clearance))
            for placed in _fitted(rule.fit, rule, parts)
        )
        found = Fit(rule.fit, shapes, parts)
    memory.remember(key, found.rule, found.shapes)
    return found


def _cheapest(rule: CollisionRule, parts: tuple[Part, ...]) -> Fit:
    """The first by cost that is close enough; convex pieces where nothing is."""
    points = np.concatenate([part.vertices for part in parts])
    size = float(np.linalg.norm(np.ptp(points, axis=0)))
    most = _OVERHANG * size if rule.overhang is None else rule.overhang
    found = None
    for name in _BY_COST:
        found = fit(rule.with_fields(fit=name), parts)
        if found.judgement.excess <= rule.excess and found.judgement.overhang <= most:
            break
    assert found is not None
    return found


def _fitted(name: str, rule: CollisionRule, parts: tuple[Part, ...]) -> list[PlacedShape]:
    from mooring.model.collision import smallest
    from mooring.model.collision.pieces import convex_pieces
    from mooring.model.shapes.hulls import hull_mesh

    in_cad = Placement(np.eye(4), "cad")
    label = parts[0].geometry.name or parts[0].name
    if name == "mesh":
        return [
            PlacedShape(MeshShape(p.mesh, p.geometry.name or p.name), Placement(p.placement, "cad"))
            for p in parts
        ]
    points = np.concatenate([part.vertices for part in parts])
    if name == "hull":
        return [PlacedShape(Hull(hull_mesh(points), f"{label}_hull"), in_cad)]
    if name == "pieces":
        bodies = [part.corners for part in parts]
        meshes = convex_pieces(bodies, rule.pieces, rule.error)
        return [
            PlacedShape(Hull(mesh, f"{label}_piece_{number}"), in_cad)
            for number, mesh in enumerate(meshes, start=1)
        ]
    by_rule = {
        "box": smallest.fit_box,
        "cylinder": smallest.fit_cylinder,
        "capsule": smallest.fit_capsule,
        "sphere": smallest.fit_sphere,
    }
    axes: list[Array] = [face.direction for part in parts for face in part.cylinders]
    shape, place = by_rule[name](points, axes)
    return [PlacedShape(_to_the_nanometre(shape), Placement(place, "cad"))]


def _shrunk(shape: Shape, clearance: float) -> Shape:
    try:
        return shape if clearance == 0 else shape.shrunk(clearance)
    except ModelError as error:
        raise ModelError(f"collision: {error}") from None


def _to_the_nanometre(shape: Shape) -> Shape:
    """The same shape without the last bits of rounding error, which read badly in files."""
    values: dict[str, Any] = {
        name: tuple(round(v, 9) for v in value) if isinstance(value, tuple) else round(value, 9)
        for name, value in vars(shape).items()
    }
    return type(shape)(**values)
