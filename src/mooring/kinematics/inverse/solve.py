"""`solve_ik`: from a target to joint positions."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import NamedTuple

import numpy as np
from numpy.typing import ArrayLike

from mooring._native import kinematics as kernels
from mooring.arguments import proven
from mooring.errors import ModelError, RunError, told
from mooring.geometry import Array, placement
from mooring.kinematics.configuration import configuration
from mooring.kinematics.inverse.solution import IkSolution
from mooring.kinematics.loops import LOOP_TOLERANCE, loop_freedoms
from mooring.kinematics.on_links import place_on
from mooring.kinematics.poses import link_poses
from mooring.model import Placement, Robot
from mooring.tree import Tree
from mooring.tree.arrays import FLOATING, Indices

Target = ArrayLike | Placement | Mapping[str, object]
_AT_LIMIT = 1e-6
_MOST_STEPS = 80
"""From one start."""


class Task(NamedTuple):
    """What is to be solved, for the kernel."""

    body: int
    on_body: Array
    goal: Array
    weights: Array
    chosen: Indices
    lower: Array
    upper: Array
    length: float
    angle: float
    loop_tolerance: float


@proven
def solve_ik(
    robot: Robot,
    frame: str,
    target: Target,
    *,
    at: ArrayLike = (0.0, 0.0, 0.0),
    near: str | Mapping[str, float | str] | ArrayLike | None = None,
    nearest: bool = False,
    weights: Sequence[float] | None = None,
    joints: Sequence[str] | None = None,
    tolerance: tuple[float, float] = (1e-6, 1e-6),
    starts: int = 100,
    seed: int = 0,
    tree: Tree | None = None,
) -> IkSolution:
    """Bring a frame to a target, within limits, with couplings and closures kept.

    Args:
        robot: whose joints are to be found.
        frame: name of a frame, or of a link.
        target: in world coordinates: a position (3,) [m], an orientation (3, 3), both (4, 4), or a
            mapping with xyz, rpy or both; what it leaves out may be anything.
        at: the point of the frame that is brought there, (3,) [m], in the frame's coordinates.
        near: where to start: a posture's name, positions by joint, or q; the neutral posture if
            not given.
        nearest: look for the solution nearest to there, from all starts; otherwise the first is
            taken.
        weights: of turning about x, y, z and moving along x, y, z of the target; 0 does not
            matter. What the target does not say has no weight. By default a radian counts as
            much as the robot's reach.
        joints: those that may move; all that move the frame, or are tied to these, if not given. A
            floating base moves only if named, as `"base"`.
        tolerance: of position [m] and of angle [rad].
        starts: at most so many; the first from `near`, the others random.
        seed: of these; the same seed gives the same answer.
        tree: `robot.tree()`, if it is at hand.

    Returns:
        The solution; where the target is out of reach, the best that was found, and why.

    Raises:
        ModelError: nothing has such a name, or a value makes no sense.
        UnsoundRobotError: the robot is no tree.
        RunError: the loops do not close in `near`.

    Example:
        >>> from mooring import demo, read
        >>> tender = read(demo.LINE_TENDER.document)
        >>> found = solve_ik(tender, "grip", (2.0, 1.0, 2.5))
        >>> found.reached
        True
    """
    tree = tree or robot.tree()
    body, on_body = place_on(tree, frame)
    on_body = on_body @ placement(_spot(at))
    goal, said = _goal(target)
    first = _first(robot, tree, near)
    chosen = _chosen(tree, body, joints)
    if not len(chosen):
        raise ModelError(f"no joint that may move moves {frame!r}")
    reach = max(1e-3, float(np.linalg.norm(tree.arrays.translation, axis=1).sum()))
    if weights is None:
        given = np.array([reach] * 3 + [1.0] * 3) / reach
    else:
        given = np.asarray(weights, dtype=float)
        if given.shape != (6,) or not np.isfinite(given).all() or (given < 0).any():
            raise ModelError(f"weights must be six numbers, zero or more, got {told(weights)}")
    if starts < 1 or min(tolerance) <= 0:
        raise ModelError("starts must be at least 1, and tolerances greater than zero")
    effective = np.where(said, given, 0.0)
    if not effective.any():
        raise ModelError("every weight of the target is zero, so there is nothing to solve")
    task = Task(
        body, np.ascontiguousarray(on_body), goal, effective, chosen, tree.joints.lower,
        tree.joints.upper, float(tolerance[0]), float(tolerance[1]), LOOP_TOLERANCE,
    )  # fmt: skip
    q = first.copy()
    reached, used, _ = kernels.solve_ik(
        tree.native, task, first, starts, _MOST_STEPS, seed, nearest, q
    )
    return _solution(tree, task, frame, q, reached, used)


def _goal(target: Target) -> tuple[Array, Array]:
    """The target as (4, 4), and which of its six components it says something of."""
    both = np.ones(6, dtype=bool)
    if isinstance(target, Placement | Mapping):
        if isinstance(target, Mapping):
            both = np.repeat(["rpy" in target, "xyz" in target], 3)
        try:
            return np.ascontiguousarray(Placement.of(target).matrix), both
        except ValueError as error:
            raise ModelError(f"the target: {error}") from None
    try:
        value = np.asarray(target, dtype=float)
    except (TypeError, ValueError):
        raise ModelError(
            f"the target is a point [m], a rotation, a pose or a placement, got {told(target)}"
        ) from None
    if not np.isfinite(value).all():
        raise ModelError("the target holds values that are not finite")
    goal = np.eye(4)
    turns, ways = np.repeat([True, False], 3), np.repeat([False, True], 3)
    if value.shape == (3,):
        goal[:3, 3] = value
        return goal, ways
    if value.shape == (3, 3):
        goal[:3, :3] = value
    elif value.shape == (4, 4):
        goal = np.ascontiguousarray(value)
    else:
        raise ModelError(f"the target has shape {value.shape}; it must be (3,), (3, 3) or (4, 4)")
    try:
        Placement.of(goal)
    except ValueError as error:
        raise ModelError(f"the target: {error}") from None
    return goal, both if value.shape == (4, 4) else turns


def _spot(at: ArrayLike) -> Array:
    spot = np.asarray(at, dtype=float)
    if spot.shape != (3,) or not np.isfinite(spot).all():
        raise ModelError(f"at is a point, three numbers, got {told(at)}")
    return spot


def _first(
    robot: Robot, tree: Tree, near: str | Mapping[str, float | str] | ArrayLike | None
) -> Array:
    if near is None or isinstance(near, str | Mapping):
        try:
            return configuration(robot, near, tree)
        except RunError:
            if near is not None:
                raise
            return tree.neutral()
    q = np.array(near, dtype=float)
    if q.shape != (len(tree.coordinates),):
        raise ModelError(f"near has shape {q.shape}; it must be ({len(tree.coordinates)},)")
    return q


def _chosen(tree: Tree, body: int, joints: Sequence[str] | None) -> Indices:
    """The freedoms that may move."""
    moves = np.zeros(len(tree.freedoms), dtype=bool)
    here = body
    while here >= 0:
        first = int(tree.arrays.freedom[here])
        if first >= 0:
            floats = tree.arrays.kind[here] == FLOATING
            # The base stays where it is unless it is named.
            moves[first : first + (6 if floats else 1)] = here > 0
        here = int(tree.arrays.parent[here])
    tied = loop_freedoms(tree)
    if (moves & tied).any():
        moves |= tied
    if joints is None:
        return np.flatnonzero(moves)
    named = np.zeros(len(tree.freedoms), dtype=bool)
    for name in joints:
        ends = [k for k, freedom in enumerate(tree.freedoms) if freedom.startswith(f"{name}.w")
                or freedom.startswith(f"{name}.v")]  # fmt: skip
        named[ends or tree.freedom(name)] = True
    return np.flatnonzero(named)


def _solution(
    tree: Tree, task: Task, frame: str, q: Array, reached: bool, starts: int
) -> IkSolution:
    actual = link_poses(tree, q)[task.body] @ task.on_body
    off = task.goal[:3, :3].T @ (actual[:3, 3] - task.goal[:3, 3])
    between = actual[:3, :3].T @ task.goal[:3, :3]
    sine = np.linalg.norm(between - between.T) / (2 * np.sqrt(2))
    angle = float(np.arctan2(sine, (np.trace(between) - 1) / 2))
    limits = {}
    for c in task.chosen:
        at = tree.arrays.position[c]
        if at >= 0 and q[at] <= tree.joints.lower[c] + _AT_LIMIT:
            limits[tree.freedoms[c]] = "lower"
        elif at >= 0 and q[at] >= tree.joints.upper[c] - _AT_LIMIT:
            limits[tree.freedoms[c]] = "upper"
    return IkSolution(
        reached,
        q,
        dict(zip(tree.coordinates, q.tolist(), strict=True)),
        frame,
        float(np.linalg.norm(off[task.weights[3:] > 0])),
        angle if task.weights[:3].all() else 0.0,
        limits,
        starts,
    )
