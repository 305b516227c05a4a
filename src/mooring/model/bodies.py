"""Links that are made of plain shapes: seen, touched, and weighed by them."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from typing import Any

import numpy as np

from mooring.cad.solid import SolidProperties, sum_of_solids
from mooring.geometry import Array
from mooring.model.collision.definition import ShapeEntry
from mooring.model.material import common_material
from mooring.model.robot import Robot
from mooring.model.shapes import Box, Capsule, Cylinder, Hull, MeshShape, PlacedShape, Shape, Sphere
from mooring.model.validation import EntryError, define
from mooring.units import to_si

_SHAPES = ("box", "sphere", "cylinder", "capsule")


def add_shaped_link(robot: Robot, name: str, entry: Mapping[str, Any]) -> None:
    """Add a link; plain shapes that are given are what is seen, touched and weighed.

    Args:
        robot: to add it to.
        name: a new name.
        entry: as for `Robot.add_link`; instead of parts, `box`, `sphere`, `cylinder` or `capsule`,
            with a `color`, or `shapes`: a list of such, each with its place `at`.

    Raises:
        ModelError: the name is taken, or a value is wrong.
    """
    what = f"body {name!r}"
    link = dict(entry)
    single = {key: link.pop(key) for key in (*_SHAPES, "color") if key in link}
    said = list(link.pop("shapes", ()))
    if single:
        said.insert(0, single)
    shapes = []
    for number, one in enumerate(said):
        try:
            shapes.append(
                one if isinstance(one, PlacedShape) else define(ShapeEntry, what, one).shape
            )
        except EntryError as error:
            raise error.inside(*(() if single and number == 0 else ("shapes", number))) from None
    if not shapes:
        robot.add_link(name, **link)
        return
    known = robot.materials.get(link.get("material") or "")
    if known is not None:
        shapes = [one if one.color else replace(one, color=known.color) for one in shapes]
    if "inertia" not in link:
        link |= _weighed(robot, link, shapes)
    robot.add_link(name, **{"collision": shapes, "visuals": shapes, **link})


def _weighed(robot: Robot, link: Mapping[str, Any], shapes: list[PlacedShape]) -> dict[str, Any]:
    """Mass, centre and inertia by density, or by a mass spread evenly; empty without either."""
    solid = sum_of_solids([solid_of(one.shape).placed(one.placement.matrix) for one in shapes])
    known = robot.materials.get(link.get("material") or "") or common_material(
        link.get("material") or ""
    )
    if link.get("mass") is not None:
        density = to_si(link["mass"], "mass") / solid.volume
    elif link.get("density") is not None:
        density = to_si(link["density"], "density")
    elif known is not None:
        density = known.density
    else:
        return {}
    t = density * solid.inertia
    return {
        "mass": density * solid.volume,
        "density": None,
        "centre": solid.centroid.tolist(),
        "inertia": [t[0, 0], t[1, 1], t[2, 2], t[0, 1], t[0, 2], t[1, 2]],
    }


def solid_of(shape: Shape) -> SolidProperties:
    """Volume, middle and inertia of a shape; from any table of solids, or from its triangles."""
    if isinstance(shape, Hull | MeshShape):
        return shape.mesh.solid
    volume, middle = shape.volume, np.zeros(3)
    return SolidProperties(volume, middle, np.diag(_moments(shape)))


def _moments(shape: Box | Sphere | Cylinder | Capsule) -> Array:
    """Principal moments about the middle at density 1, (3,) [m^5]."""
    if isinstance(shape, Box):
        x, y, z = (side**2 for side in shape.size)
        return shape.volume / 12 * np.array([y + z, x + z, x + y])
    if isinstance(shape, Sphere):
        return np.full(3, shape.volume * 0.4 * shape.radius**2)
    r, h = shape.radius, shape.length
    bar = np.pi * r**2 * h
    across, along = bar * (3 * r**2 + h**2) / 12, bar * r**2 / 2
    if isinstance(shape, Capsule):
        # Two half-balls, each with its middle 3/8 of the radius beyond the bar.
        ball = 4 / 3 * np.pi * r**3
        across += ball * (0.4 * r**2 + h**2 / 4 + 3 / 8 * h * r)
        along += ball * 0.4 * r**2
    return np.array([across, across, along])
