"""From a robot and the ground to what contact needs."""

from __future__ import annotations

import numpy as np

from mooring.kinematics.overlaps.pairs import pair_rules
from mooring.model import Material, Robot
from mooring.model.material import common_material
from mooring.model.scene import Ground
from mooring.simulation.contact.arrays import (
    LEVEL_GROUND,
    NO_GROUND,
    UNEVEN_GROUND,
    ContactArrays,
)
from mooring.simulation.contact.shapes import contact_shapes
from mooring.tree import Tree

_PLAIN = Material(name="plain", density=1000.0)


def contact_arrays(robot: Robot, tree: Tree, ground: Ground | None, touch: bool) -> ContactArrays:
    """Shapes, surfaces, the pairs that may touch, and the ground.

    Args:
        robot, tree: all that there is.
        ground: what they stand on.
        touch: False lets everything pass through everything.
    """
    shapes = contact_shapes(robot, tree)
    rules = pair_rules(robot)
    number = {name: k for k, name in enumerate(tree.links)}
    apart = [(number[a], number[b]) for a, b in (*rules.allowed, *map(tuple, rules.joined))]
    surfaces = [_surface(robot, tree.links[body]) for body in shapes.body[:-1]]
    floor = (ground.material and _material(robot, ground.material)) if ground else None
    surfaces += [_PLAIN.surface, (floor or _PLAIN).surface]
    kind, heights = NO_GROUND, np.zeros((2, 2))
    if ground is not None and touch:
        kind = LEVEL_GROUND if ground.heights is None else UNEVEN_GROUND
    corner, cell, level = (0.0, 0.0), 1.0, 0.0
    if ground is not None:
        level = ground.height
        if ground.heights is not None:
            heights = np.ascontiguousarray(ground.surface())
            corner, cell = ground.corner, ground.cell
    return ContactArrays(
        shapes=shapes,
        surface=np.array(surfaces, dtype=float),
        group=np.array([number[rules.group[name]] for name in tree.links], dtype=np.int64),
        apart=np.array(apart, dtype=np.int64).reshape(-1, 2),
        touches=touch,
        ground=kind,
        level=float(level),
        heights=heights,
        grid=np.array([corner[0], corner[1], cell, cell], dtype=float),
    )


def _surface(robot: Robot, link: str) -> tuple[float, ...]:
    of = robot.links[link]
    name = of.surface or of.material
    material = None if name is None else _material(robot, name)
    return (material or _PLAIN).surface


def _material(robot: Robot, name: str) -> Material | None:
    return robot.materials.get(name) or common_material(name)
