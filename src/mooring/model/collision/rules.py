"""The rules by which a link gets its collision shapes."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import cached_property
from typing import TYPE_CHECKING, Any

import numpy as np

from mooring.cad import Part
from mooring.errors import ModelError, did_you_mean
from mooring.geometry import Array
from mooring.keeping import kept_with
from mooring.model.collision import memory
from mooring.model.collision.definition import CollisionRule, Line
from mooring.model.placement import Placement
from mooring.model.shapes import Hull, MeshShape, PlacedShape, Shape

if TYPE_CHECKING:
    from mooring.model.collision.judge import Judgement

_BY_COST = ("sphere", "capsule", "box", "cylinder", "hull")
_ABOUT = ("capsule", "cylinder")
_OVERHANG = 0.1
"""Share of the parts' size that a shape may stand out from them, where nothing is said."""
_EXACT = 0.05
"""What is larger than the hull by less than this share is the shape itself, but for triangles."""
_PIECES = {"pieces": 8, "auto": 24}


@dataclass(frozen=True)
class Fit:
    """Shapes fitted around parts.

    Attributes:
        rule: the rule that was followed; for auto the one that was chosen.
        shapes: in CAD coordinates.
        parts: what they cover.
        key: under which it is remembered.
        allowed: how far they were to stand out at most [m]; None where nothing was asked.
    """

    rule: str
    shapes: tuple[PlacedShape, ...]
    parts: tuple[Part, ...]
    key: str
    allowed: float | None = None

    @cached_property
    def judgement(self) -> Judgement:
        """How well they fit; found when first asked for, which takes a moment."""
        from mooring.model.collision.judge import Judgement, judge

        kept = memory.recall_judgement(self.key)
        if kept is not None:
            return Judgement(*kept)
        found = judge(self.shapes, self.parts)
        memory.remember_judgement(self.key, (found.excess, found.overhang))
        return found


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


def fit(rule: CollisionRule, parts: tuple[Part, ...], about: Line | None = None) -> Fit:
    """Collision shapes for parts, in CAD coordinates.

    Args:
        rule: what to fit.
        parts: what to cover. Links that share their parts share what was fitted.
        about: the axis of the joint, where the rule asks for that.

    Raises:
        ModelError: nothing to cover, or nothing left after shrinking.
    """
    owner = chosen_parts(rule, parts)[0]
    return kept_with(owner, (rule, parts, about), lambda: _fit(rule, parts, about))


def _fit(rule: CollisionRule, parts: tuple[Part, ...], about: Line | None) -> Fit:
    parts = chosen_parts(rule, parts)
    allowed = rule.error if rule.fit == "pieces" else None
    if rule.fit == "auto":
        points = np.concatenate([part.vertices for part in parts])
        size = float(np.linalg.norm(np.ptp(points, axis=0)))
        allowed = _OVERHANG * size if rule.overhang is None else rule.overhang
    key = memory.key_of(rule, parts, about)
    kept = memory.recall(key)
    if kept is not None:
        return Fit(*kept, parts, key, allowed)
    if allowed is not None and rule.fit == "auto":
        found = replace(_cheapest(rule, parts, allowed, about), key=key, allowed=allowed)
    else:
        shapes = tuple(
            replace(placed, shape=_shrunk(placed.shape, rule.clearance))
            for placed in _fitted(rule.fit, rule, parts, about)
        )
        found = Fit(rule.fit, shapes, parts, key, allowed)
    memory.remember(key, found.rule, found.shapes)
    return found


def _cheapest(
    rule: CollisionRule, parts: tuple[Part, ...], allowed: float, about: Line | None
) -> Fit:
    """The one that is the shape itself, or else by cost the first that is close enough.

    Convex pieces where nothing is; they are cut until they are, or there are too many.
    """
    from mooring.model.collision.judge import hull_volume

    around = hull_volume(np.concatenate([part.vertices for part in parts]))
    names = _BY_COST if about is None else ("capsule", "cylinder", "hull")
    near: list[tuple[bool, float, Fit]] = []
    for name in names:
        given = rule.with_fields(fit=name, about=rule.about if name in _ABOUT else None)
        found = fit(given, parts, about if name in _ABOUT else None)
        excess = sum(placed.shape.volume for placed in found.shapes) / max(around, 1e-30) - 1
        if excess <= max(rule.excess, _EXACT):
            exact = name != "hull" and excess <= _EXACT
            near.append((not exact, excess if exact else 0.0, found))
    for _, _, found in sorted(near, key=lambda one: one[:2]):
        judged = found.judgement
        if judged.excess <= rule.excess and judged.overhang <= allowed:
            return found
    pieces = rule.pieces or _PIECES["auto"]
    return fit(rule.with_fields(fit="pieces", pieces=pieces, error=allowed, about=None), parts)


def _fitted(
    name: str, rule: CollisionRule, parts: tuple[Part, ...], about: Line | None
) -> list[PlacedShape]:
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
        meshes = convex_pieces(bodies, rule.pieces or _PIECES["pieces"], rule.error)
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
    if about is not None:
        fitted = smallest.cylinder_about if name == "cylinder" else smallest.capsule_about
        shape, place = fitted(points, about)
        return [PlacedShape(_to_the_nanometre(shape), Placement(place, "cad"))]
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
