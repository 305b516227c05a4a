"""Meshes of links: fewer triangles, another unit."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import TYPE_CHECKING, TypeGuard

import numpy as np

from mooring.cad.part import Geometry
from mooring.errors import ModelError, did_you_mean
from mooring.model.link import Link
from mooring.model.robot.references import matching
from mooring.model.shapes import MeshShape, PlacedShape, Shape
from mooring.units import show, to_si

if TYPE_CHECKING:
    from mooring.model.robot.robot import Robot

_FIELDS = ("visuals", "shapes", "collision")


def set_mesh_unit(robot: Robot, pattern: str, unit: str) -> list[str]:
    """See `Robot.set_mesh_unit`."""
    factor = to_si(f"1 {unit}", "length")

    def scaled(shape: MeshShape) -> MeshShape:
        file = shape.file
        old = (1.0, 1.0, 1.0) if file is None else file.scale
        signs = tuple(float(np.copysign(factor, one)) for one in old)
        ratio = [new / one for new, one in zip(signs, old, strict=True)]
        x, y, z = signs
        origin = None if file is None else replace(file, scale=(x, y, z))
        return replace(shape, mesh=shape.mesh.scaled(ratio), file=origin)

    told = []
    for name in _with_meshes(robot, pattern):
        before = _size(robot.links[name])
        _change_meshes(robot.links[name], scaled)
        told.append(
            f"link {name!r}: its meshes are in {unit}: {show(before, 'length', 3)} -> "
            f"{show(_size(robot.links[name]), 'length', 3)}"
        )
    return told


def simplify(
    robot: Robot, pattern: str, triangles: int | None, tolerance: float | str | None
) -> list[str]:
    """See `Robot.simplify`."""
    from mooring.cad.tidying.simplify import Ladder, tolerance_for

    if (triangles is None) == (tolerance is None):
        raise ModelError("simplify takes either triangles= or tolerance=")
    within = None if tolerance is None else to_si(tolerance, "length")
    if (triangles is not None and triangles <= 0) or (within is not None and within <= 0):
        raise ModelError("what a mesh is simplified to must be greater than zero")
    done: dict[int, MeshShape] = {}
    told: list[str] = []

    def simpler(shape: MeshShape) -> MeshShape:
        key = id(shape.mesh)
        if key not in done:
            mesh = shape.mesh
            geometry = Geometry(shape.name, mesh, mesh.solid, "mesh", closed=mesh.closed)
            ladder = Ladder(geometry)
            limit = tolerance_for([ladder], [1], triangles) if triangles is not None else within
            found, words = ladder.simplified(limit if limit is not None else 0.0)
            same = found.mesh is mesh
            done[key] = shape if same else replace(shape, mesh=found.mesh, file=None)
            if triangles is not None and len(found.mesh.faces) > triangles:
                told.append(f"{words}; {triangles:,} cannot be reached without ruining its shape")
            else:
                told.append(str(words))
        kept = done[key]
        return replace(shape, mesh=kept.mesh, file=kept.file)

    for name in _with_meshes(robot, pattern):
        _change_meshes(robot.links[name], simpler)
    return told


def _with_meshes(robot: Robot, pattern: str) -> list[str]:
    """Links of a pattern that have meshes.

    Raises:
        ModelError: none has.
    """
    names = matching(robot, "link", pattern)
    if not names:
        raise ModelError(f"no link matches {pattern!r}{did_you_mean(pattern, list(robot.links))}")
    found = [name for name in names if any(_meshes(robot.links[name]))]
    if not found:
        raise ModelError(f"no link that matches {pattern!r} has a mesh")
    return found


def _meshes(link: Link) -> list[MeshShape]:
    placed = [*link.visuals, *link.shapes, *(link.collision or ())]
    return [one.shape for one in placed if isinstance(one, PlacedShape) and _is_mesh(one.shape)]


def _is_mesh(shape: Shape) -> TypeGuard[MeshShape]:
    return shape.of_triangles and not shape.convex


def _size(link: Link) -> float:
    return max(float(np.ptp(shape.mesh.vertices, axis=0).max()) for shape in _meshes(link))


def _change_meshes(link: Link, change: Callable[[MeshShape], MeshShape]) -> None:
    fields = {}
    for name in _FIELDS:
        held = getattr(link, name)
        if held is None:
            continue
        fields[name] = tuple(
            replace(one, shape=change(one.shape))
            if isinstance(one, PlacedShape) and _is_mesh(one.shape)
            else one
            for one in held
        )
    link.change(**{key: value for key, value in fields.items() if value})
