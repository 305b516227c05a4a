"""Rules on named postures."""

from __future__ import annotations

from collections.abc import Iterator

from mooring.checks.rule import Found, rule
from mooring.checks.subject import Subject
from mooring.errors import RunError
from mooring.kinematics import configuration
from mooring.units import show

_SLACK = 1e-9


@rule("posture-outside-limits", "warning")
def posture_outside_limits(subject: Subject) -> Iterator[Found]:
    """Postures stay within the limits of the joints they name."""
    robot = subject.robot
    for name, positions in robot.postures.items():
        for joint_name, value in positions.items():
            joint = robot.joints[joint_name]
            dimension = "angle" if joint.motion == "rotation" else "length"
            for side, sign in (("lower", -1), ("upper", 1)):
                limit = getattr(joint.limits, side)
                if limit is not None and sign * (value - limit) > _SLACK:
                    yield Found(
                        ("postures", name, joint_name),
                        f"posture {name!r} puts {joint_name} at {show(value, dimension)}, beyond "
                        f"its {side} limit of {show(limit, dimension)}",
                        "bring the position within the limits, or widen them",
                    )


@rule("posture-open-loop", "error", needs_tree=True)
def posture_open_loop(subject: Subject) -> Iterator[Found]:
    """The loops of the robot close in every posture."""
    robot = subject.robot
    if not (robot.closures or robot.couplings):
        return
    tree = subject.tree
    for name in robot.postures:
        try:
            configuration(robot, name, tree)
        except RunError as error:
            yield Found(
                ("postures", name), str(error), "name positions that the mechanism can reach"
            )
