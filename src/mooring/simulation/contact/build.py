"""From a robot and the ground to what contact kernels need."""

from __future__ import annotations

from typing import TypeVar

import numpy as np
from numpy.typing import NDArray

from mooring.kinematics.overlaps.pairs import pairs_of
from mooring.model import Material, Robot
from mooring.model.material import common_material
from mooring.model.scene import Ground
from mooring.simulation.contact.arrays import (
    LEVEL_GROUND,
    NO_GROUND,
    UNEVEN_GROUND,
    ContactArrays,
    ContactState,
)
from mooring.simulation.contact.shapes import contact_shapes
from mooring.tree import Tree

_PLAIN = Material(name="plain", density=1000.0)
Number = TypeVar("Number", np.float64, np.int64)
FIRST_ROOM = 64
"""Contacts there is room for at first."""


def contact_arrays(robot: Robot, tree: Tree, ground: Ground | None, touch: bool) -> ContactArrays:
    """Shapes, surfaces, the pairs that may touch, and the ground.

    Args:
        robot, tree: all that there is.
        ground: what they stand on.
        touch: False lets everything pass through everything.
    """
    shapes = contact_shapes(robot, tree)
    count = len(shapes.body) - 1
    of_link: dict[str, list[int]] = {name: [] for name in tree.links}
    for shape, body in enumerate(shapes.body[:-1]):
        of_link[tree.links[body]].append(shape)
    pairs = [
        (a, b)
        for first, second in (pairs_of(robot).judged if touch else ())
        for a in of_link[first]
        for b in of_link[second]
    ]
    surfaces = [_surface(robot, tree.links[body]) for body in shapes.body[:-1]]
    floor = (ground.material and _material(robot, ground.material)) if ground else None
    surfaces += [_PLAIN.surface, (floor or _PLAIN).surface]
    moved = [s for s in range(count) if tree.arrays.tip[shapes.body[s]] >= 0]
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
        pairs=np.array(pairs, dtype=np.int64).reshape(-1, 2),
        grounded=np.array(moved, dtype=np.int64),
        ground=kind,
        level=float(level),
        heights=heights,
        grid=np.array([corner[0], corner[1], cell, cell], dtype=float),
    )


def contact_state(contact: ContactArrays, room: int = FIRST_ROOM) -> ContactState:
    """Nothing known yet of what touches what, with room for so many contacts."""
    shapes, pairs = len(contact.shapes.body), len(contact.pairs)
    return ContactState(
        path=np.zeros(shapes),
        free_until=np.full(pairs, -np.inf),
        apart=np.zeros((pairs, 3)),
        used=np.zeros(1, dtype=np.int64),
        which=np.zeros((room, 3), dtype=np.int64),
        where=np.zeros((room, 11)),
        before=np.zeros(room, dtype=np.int64),
        impulses=np.zeros((room, 6)),
        before_used=np.zeros(1, dtype=np.int64),
    )


def _surface(robot: Robot, link: str) -> tuple[float, float, float, float]:
    of = robot.links[link]
    name = of.surface or of.material
    material = None if name is None else _material(robot, name)
    return (material or _PLAIN).surface


def _material(robot: Robot, name: str) -> Material | None:
    return robot.materials.get(name) or common_material(name)


def wider(state: ContactState) -> ContactState:
    """The same state with room for twice as many contacts."""

    def grown(array: NDArray[Number]) -> NDArray[Number]:
        return np.concatenate([array, np.zeros_like(array)])

    return state._replace(
        which=grown(state.which),
        where=grown(state.where),
        before=grown(state.before),
        impulses=grown(state.impulses),
    )
