"""What differs between two values, by their type."""

from __future__ import annotations

import types
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field
from typing import Annotated, Any, NamedTuple, Union, get_args, get_origin

import numpy as np

from mooring.geometry import Array
from mooring.model.comparing.difference import (
    MOVED,
    TURNED,
    angle_between,
    angle_words,
    differ,
    length_words,
)
from mooring.model.definition.described import Described
from mooring.model.definition.fields import Motion, dimension_of
from mooring.model.definition.markers import Geometric, JointQuantity, Quantity, Ref
from mooring.model.definition.walking import Path, alternative, fields_of
from mooring.model.placement import Placement
from mooring.units import show


class ValueChange(NamedTuple):
    """Something that is not the same.

    Attributes:
        path: keys on the way to it; placements end in `position` or `orientation`.
        words: what has become of it.
        before, after: the values.
    """

    path: Path
    words: str
    before: Any
    after: Any


@dataclass(frozen=True)
class Sides:
    """What the two values belong to.

    Attributes:
        frames: of the links that placements are measured on, (4, 4), before and after.
        motions: of joints by name, for what is measured by joint.
    """

    frames: tuple[Array, Array] | None = None
    motions: Mapping[str, Motion] = field(default_factory=dict)


def changes(
    hint: Any, one: Any, two: Any, sides: Sides, motion: Motion = "rotation", path: Path = ()
) -> Iterator[ValueChange]:
    """Everything that differs between two values.

    Args:
        hint: their type.
        one, two: a definition, or what a field holds.
        sides: what they belong to.
        motion: whether what is measured by a joint turns or slides.
        path: to them.
    """
    origin = get_origin(hint)
    if origin is Annotated:
        base, *extras = get_args(hint)
        marker = next((e for e in extras if isinstance(e, (Quantity, JointQuantity))), None)
        if any(isinstance(e, Geometric) and e.what == "placement" for e in extras):
            yield from _places(one, two, sides, path)
        elif marker is None:
            yield from changes(base, one, two, sides, motion, path)
        elif _unlike(one, two):
            name = marker.dimension if isinstance(marker, Quantity) else ""
            dimension = name or dimension_of(marker.name, motion)  # type: ignore[union-attr]
            words = _both(one, two, dimension)
            yield ValueChange(path, words, plain(one), plain(two))
    elif origin in (Union, types.UnionType):
        if one is None or two is None or type(one) is not type(two):
            yield from _replaced(hint, one, two, sides, motion, path)
        else:
            yield from changes(alternative(hint, one), one, two, sides, motion, path)
    elif isinstance(one, Described) and type(one) is type(two):
        motion = getattr(one, "motion", motion)
        for name, inner in fields_of(type(one)).items():
            old, new = getattr(one, name), getattr(two, name)
            yield from changes(inner, old, new, sides, motion, (*path, name))
    elif origin is dict:
        yield from _entries(hint, one, two, sides, motion, path)
    elif origin in (tuple, list) and len(one) == len(two):
        inner = get_args(hint)
        each = [inner[0]] * len(one) if inner[-1] is Ellipsis or origin is list else inner
        if not any(isinstance(item, Described) for item in one):
            if _unlike(one, two):
                yield ValueChange(path, f"{_said(one)} -> {_said(two)}", plain(one), plain(two))
            return
        for number, (kind, old, new) in enumerate(zip(each, one, two, strict=True)):
            yield from changes(kind, old, new, sides, motion, (*path, number))
    elif _unlike(one, two):
        yield ValueChange(path, f"{_said(one)} -> {_said(two)}", plain(one), plain(two))


def _replaced(
    hint: Any, one: Any, two: Any, sides: Sides, motion: Motion, path: Path
) -> Iterator[ValueChange]:
    """One of two is none, or of another sort."""
    if one is None and two is None:
        return
    there = two if one is None else one
    kind = alternative(hint, there)
    if get_origin(kind) is Annotated and (one is None or two is None):
        # With its unit, which the type tells.
        yield from changes(kind, one, two, sides, motion, path)
    elif _unlike(one, two):
        yield ValueChange(path, f"{_said(one)} -> {_said(two)}", plain(one), plain(two))


def _entries(
    hint: Any, one: Mapping[str, Any], two: Mapping[str, Any], sides: Sides, motion: Motion,
    path: Path,
) -> Iterator[ValueChange]:  # fmt: skip
    key_type, kind = get_args(hint)
    by_joint = any(
        isinstance(extra, Ref) and "joint" in extra.kinds
        for extra in getattr(key_type, "__metadata__", ())
    )
    for key in dict.fromkeys([*one, *two]):
        old, new = one.get(key), two.get(key)
        measured = sides.motions.get(key, motion) if by_joint else motion
        if key in one and key in two:
            yield from changes(kind, old, new, sides, measured, (*path, key))
        else:
            yield from _replaced(kind | None, old, new, sides, measured, (*path, key))


def _places(one: Placement, two: Placement, sides: Sides, path: Path) -> Iterator[ValueChange]:
    if sides.frames is None:
        old, new = one.matrix, two.matrix
    else:
        old, new = one.in_link(sides.frames[0]), two.in_link(sides.frames[1])
    moved = float(np.linalg.norm(new[:3, 3] - old[:3, 3]))
    if moved > MOVED:
        by = ", ".join(f"{1000 * v + 0.0:.4g}" for v in np.round(new[:3, 3] - old[:3, 3], 9))
        words = f"moved by {length_words(moved)} ({by} mm)"
        yield ValueChange((*path, "position"), words, old[:3, 3].tolist(), new[:3, 3].tolist())
    angle = angle_between(old[:3, :3], new[:3, :3])
    if angle > TURNED:
        words = f"its frame turned by {angle_words(angle)}"
        yield ValueChange((*path, "orientation"), words, old[:3, :3].tolist(), new[:3, :3].tolist())


def _unlike(one: Any, two: Any) -> bool:
    if isinstance(one, float) and isinstance(two, (int, float)):
        return differ(one, float(two))
    if isinstance(one, (tuple, list)) and isinstance(two, (tuple, list)):
        return len(one) != len(two) or any(_unlike(a, b) for a, b in zip(one, two, strict=True))
    return bool(one != two)


def _both(one: Any, two: Any, dimension: str) -> str:
    """Two quantities, with as many digits as it takes to tell them apart."""
    old = new = ""
    for digits in range(4, 13):
        old, new = _shown(one, dimension, digits), _shown(two, dimension, digits)
        if old != new:
            break
    return f"{old} -> {new}"


def _shown(value: Any, dimension: str, digits: int) -> str:
    if value is None:
        return "none"
    if isinstance(value, tuple):
        flat = np.ravel(np.array(value, dtype=float))
        if len(flat) > 6:
            return f"{len(flat)} values"
        return f"[{', '.join(show(float(v), dimension, digits) for v in flat)}]"
    return show(value, dimension, digits)


def _said(value: Any) -> str:
    if value is None:
        return "none"
    if isinstance(value, float):
        return f"{value:g}"
    if isinstance(value, Described):
        inside = ", ".join(f"{k} {_said(v)}" for k, v in plain(value).items())
        return inside if len(inside) <= 60 else f"{inside[:57]}..."
    if isinstance(value, (tuple, list)) and any(isinstance(item, Described) for item in value):
        return f"{len(value)} of them"
    if isinstance(value, (tuple, list)):
        return f"[{', '.join(map(_said, value))}]"
    return str(value)


def plain(value: Any) -> Any:
    """A value as JSON takes it."""
    if isinstance(value, Described):
        fields = {name: getattr(value, name) for name in fields_of(type(value))}
        return {name: plain(held) for name, held in fields.items() if held is not None}
    if isinstance(value, Mapping):
        return {str(key): plain(item) for key, item in value.items()}
    if isinstance(value, (tuple, list)):
        return [plain(item) for item in value]
    if isinstance(value, Placement):
        return value.matrix.tolist()
    if isinstance(value, np.generic):
        return value.item()
    return value
