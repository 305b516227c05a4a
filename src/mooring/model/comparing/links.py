"""What differs between two links: by what they weigh, show and touch, whatever it follows from."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import TYPE_CHECKING

import numpy as np

from mooring.cad import Mesh
from mooring.geometry import Array
from mooring.model.comparing.difference import (
    MOVED,
    TURNED,
    Difference,
    angle_between,
    angle_words,
    differ,
    length_words,
)
from mooring.model.comparing.values import Sides, changes, plain
from mooring.model.definition.walking import fields_of
from mooring.model.link import Link
from mooring.model.shapes import PlacedShape, Shape
from mooring.units import show

if TYPE_CHECKING:
    from mooring.model.robot import Robot

_MESH = 1e-5
"""Share of its size within which a mesh is the same: formats keep single precision."""
_COME_TO = ("parts", "shapes", "points", "mass", "centre", "inertia", "assumed", "visuals",
            "collision", "surface")  # fmt: skip
"""Fields that tell by what they come to: a mass, shapes, a surface."""


def link_differences(before: Robot, after: Robot, name: str) -> Iterator[Difference]:
    """What differs between a link of two robots."""
    old, new = before.links[name], after.links[name]
    weighed = list(_mass(before, after, name))
    yield from weighed
    yield from _shapes(name, "visuals", "shows", _seen(before, name), _seen(after, name))
    hits = list(_shapes(name, "collision", "collides as", _hit(before, name), _hit(after, name)))
    yield from hits
    surfaces = [_surface(robot, link) for robot, link in ((before, old), (after, new))]
    if surfaces[0] != surfaces[1]:
        one, two = (surface or "any" for surface in surfaces)
        text = f"link {name!r}: it touches as {two}, it was {one}"
        yield Difference("link", name, "surface", text, *surfaces)
    said = [link.collision is not None or bool(link.shapes) for link in (old, new)]
    if not hits and said[0] != said[1]:
        words = "is said now" if said[1] else "is not said any more"
        text = f"link {name!r}: what it collides with {words}"
        yield Difference("link", name, "collision", text)
    elif not hits and _rules_differ(old, new):
        text = f"link {name!r}: the rules of its collision shapes differ, and come to the same"
        rules = plain(old.collision_rules), plain(new.collision_rules)
        yield Difference("link", name, "collision", text, *rules)
    hints = fields_of(Link)
    for key, hint in hints.items():
        if key in _COME_TO:
            continue
        for change in changes(hint, getattr(old, key), getattr(new, key), Sides(), path=(key,)):
            text = f"link {name!r}: {key} {change.words}"
            yield Difference("link", name, key, text, change.before, change.after)


def _rules_differ(old: Link, new: Link) -> bool:
    """Where one of them has no rules its shapes were written out, which is no difference."""
    both = bool(old.collision_rules) and bool(new.collision_rules)
    return both and old.collision_rules != new.collision_rules


def _surface(robot: Robot, link: Link) -> str | None:
    """By which of the robot's own materials it touches others."""
    touches = link.surface or link.material
    return touches if touches in robot.materials else None


def _mass(before: Robot, after: Robot, name: str) -> Iterator[Difference]:
    old, new = before.inertia(name), after.inertia(name)
    what = f"link {name!r}"
    if old is None or new is None:
        if (old is None) != (new is None):
            words = "has a mass now" if old is None else "has no mass any more"
            yield Difference("link", name, "mass", f"{what} {words}")
        return
    if differ(old.mass, new.mass):
        share = 100 * (new.mass / old.mass - 1) if old.mass else float("inf")
        yield Difference(
            "link", name, "mass",
            f"{what}: {show(old.mass, 'mass')} -> {show(new.mass, 'mass')} ({share:+.3g}%)",
            old.mass, new.mass,
        )  # fmt: skip
    moved = float(np.linalg.norm(new.centre - old.centre))
    if moved > MOVED:
        yield Difference(
            "link", name, "centre", f"{what}: its centre of mass moved by {length_words(moved)}",
            old.centre.tolist(), new.centre.tolist(),
        )  # fmt: skip
    scale = max(float(np.abs(old.tensor).max()), float(np.abs(new.tensor).max()), 1e-30)
    off = float(np.abs(new.tensor - old.tensor).max()) / scale
    # With the mass its inertia changes as well: that is no news.
    expected = abs(new.mass / old.mass - 1) if old.mass else 0.0
    if off > max(1e-7, 1.001 * expected):
        yield Difference(
            "link", name, "inertia",
            f"{what}: its inertia differs by up to {100 * off:.2g}% of the largest moment",
            old.tensor.tolist(), new.tensor.tolist(),
        )  # fmt: skip
    if old.source != new.source:
        yield Difference(
            "link", name, "source", f"{what}: its mass is {new.source}, it was {old.source}",
            old.source, new.source,
        )  # fmt: skip


Seen = Sequence[tuple[PlacedShape, Array]]
"""Shapes, with their places on the link."""


def _seen(robot: Robot, name: str) -> Seen:
    frame = robot.link_frames()[name]
    return [(s, s.in_link(frame)) for s in robot.links[name].shown(robot.materials)]


def _hit(robot: Robot, name: str) -> Seen:
    frame = robot.link_frames()[name]
    return [(s, s.in_link(frame)) for s in robot.links[name].collisions]


def _shapes(name: str, what: str, verb: str, before: Seen, after: Seen) -> Iterator[Difference]:
    one, two = ([_kind(shape) for shape, _ in shapes] for shapes in (before, after))
    if one != two:
        text = f"link {name!r}: {verb} {_list(two)}, it was {_list(one)}"
        yield Difference("link", name, what, text, one, two)
        return
    for number, ((old, old_place), (new, new_place)) in enumerate(
        zip(before, after, strict=True), start=1
    ):
        said = f"link {name!r}: {what} {number} ({_kind(new)}{new.name and ' ' + new.name})"
        for words, values in _shape_words(old, old_place, new, new_place):
            yield Difference("link", name, what, f"{said}: {words}", *values)


def _shape_words(
    old: PlacedShape, old_place: Array, new: PlacedShape, new_place: Array
) -> Iterator[tuple[str, tuple[object, object]]]:
    yield from _size_words(old.shape, new.shape)
    moved = float(np.linalg.norm(new_place[:3, 3] - old_place[:3, 3]))
    if moved > MOVED:
        values = old_place[:3, 3].tolist(), new_place[:3, 3].tolist()
        yield f"moved by {length_words(moved)}", values
    angle = angle_between(old_place[:3, :3], new_place[:3, :3])
    if angle > TURNED:
        yield f"turned by {angle_words(angle)}", (
            old_place[:3, :3].tolist(), new_place[:3, :3].tolist()
        )  # fmt: skip
    if old.name != new.name:
        yield f"called {new.name!r}, it was {old.name!r}", (old.name, new.name)
    if old.color != new.color:
        one, two = (color or "no color" for color in (old.color, new.color))
        yield f"color {one} -> {two}", (old.color, new.color)
    for key in ("opacity", "texture", "finish", "vendor"):
        before, after = getattr(old, key), getattr(new, key)
        if before != after:
            yield f"{key} {before or 'none'} -> {after or 'none'}", (before, after)


def _size_words(old: Shape, new: Shape) -> Iterator[tuple[str, tuple[object, object]]]:
    if old.of_triangles and new.of_triangles:
        if not _same_mesh(old.mesh, new.mesh):
            yield "its triangles differ", (len(old.mesh.faces), len(new.mesh.faces))
        return
    for key, hint in fields_of(type(old)).items():
        for change in changes(hint, getattr(old, key), getattr(new, key), Sides()):
            yield f"{key} {change.words}", (change.before, change.after)


def _same_mesh(one: Mesh, two: Mesh) -> bool:
    if one is two:
        return True
    size = max(float(np.linalg.norm(np.ptp(one.vertices, axis=0))), 1e-30)
    if np.abs(one.bounds - two.bounds).max() > _MESH * size:
        return False
    if one.vertices.shape == two.vertices.shape and np.array_equal(one.faces, two.faces):
        return bool(np.abs(one.vertices - two.vertices).max() <= _MESH * size)
    if abs(len(one.faces) - len(two.faces)) > 0.01 * len(one.faces):
        return False
    solids = one.solid, two.solid
    return (
        abs(solids[0].volume - solids[1].volume) <= _MESH * size**3
        and bool(np.linalg.norm(_middle(one) - _middle(two)) <= 10 * _MESH * size)
    )  # fmt: skip


def _middle(mesh: Mesh) -> Array:
    """Of the surface, (3,): every triangle counts by its area."""
    corners = mesh.corners
    normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    areas = np.linalg.norm(normals, axis=1)
    middle: Array = (corners.mean(axis=1) * areas[:, None]).sum(axis=0) / max(areas.sum(), 1e-30)
    return middle


def _kind(shape: PlacedShape) -> str:
    return shape.shape.kind


def _list(kinds: list[str]) -> str:
    if len(kinds) > 6:
        return f"{len(kinds)} shapes"
    return ", ".join(kinds) if kinds else "nothing"
