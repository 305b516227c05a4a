"""Links that are made of plain shapes: seen, touched, and weighed by them."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from typing import Any

from mooring.cad.solid import sum_of_solids
from mooring.model.definition.context import Context
from mooring.model.definition.mirroring import moments_of
from mooring.model.definition.problems import EntryError
from mooring.model.material import common_material
from mooring.model.robot import Robot
from mooring.model.shapes import SHAPES, PlacedShape
from mooring.model.shapes.placed import read_shape_with
from mooring.units import to_si


def add_shaped_link(robot: Robot, name: str, entry: Mapping[str, Any], context: Context) -> None:
    """Add a link; plain shapes that are given are what is seen, touched and weighed.

    Args:
        robot: to add it to.
        name: a new name.
        entry: the fields of `Link`; instead of parts, `box`, `sphere`, `cylinder` or `capsule`,
            with a `color`, or `shapes`: a list of such, each with its place `at`.
        context: to read it with.

    Raises:
        ModelError: the name is taken, or a value is wrong.
    """
    link = {key: value for key, value in entry.items() if value is not None}
    single = {key: link.pop(key) for key in (*SHAPES, "color") if key in link}
    said = list(link.pop("shapes", ()))
    shapes = [read_shape_with(single, context)] if single else []
    for number, one in enumerate(said):
        try:
            shapes.append(read_shape_with(one, context))
        except EntryError as error:
            raise error.inside("shapes", number, what=f"body {name!r}") from None
    if shapes:
        known = robot.materials.get(link.get("material") or "")
        if known is not None:
            shapes = [one if one.color else replace(one, color=known.color) for one in shapes]
        if "inertia" not in link:
            link |= _weighed(robot, link, shapes)
        link = {"collision": shapes, "visuals": shapes, **link}
    robot.add("link", name, link, context=context)


def _weighed(robot: Robot, link: dict[str, Any], shapes: list[PlacedShape]) -> dict[str, Any]:
    """Mass, centre and inertia by density, or by a mass spread evenly; empty without either."""
    solid = sum_of_solids([one.shape.solid.placed(one.placement.matrix) for one in shapes])
    name = link.get("material") or ""
    known = robot.materials.get(name) or common_material(name)
    try:
        if link.get("mass") is not None:
            density = to_si(link["mass"], "mass") / solid.volume
        elif link.get("density") is not None:
            density = to_si(link["density"], "density")
        elif known is not None:
            density = known.density
        else:
            return {}
    except ValueError:
        # Told where the link is read.
        return {}
    link.pop("density", None)
    return {
        "mass": density * solid.volume,
        "centre": solid.centroid.tolist(),
        "inertia": moments_of(density * solid.inertia),
    }
