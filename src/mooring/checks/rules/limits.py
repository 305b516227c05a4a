"""Rules on the limits of joints."""

from __future__ import annotations

import math
from collections.abc import Iterator

from mooring.checks.fix import Edit
from mooring.checks.rule import Found, rule
from mooring.checks.subject import Subject
from mooring.model import Joint, Robot
from mooring.units import show

# Two turns either way: no cable goes along with more, and degrees taken for radians give more.
_SUSPICIOUS_ANGLE = 4 * math.pi
# A slide of 20 m either way; millimetres taken for metres give more.
_SUSPICIOUS_WAY = 20.0


def _limited(robot: Robot) -> Iterator[Joint]:
    return (joint for joint in robot.joints.values() if joint.kind.ends)


def _where(joint: Joint) -> tuple[str, ...]:
    return ("joints", joint.name, "limits")


def _shown(joint: Joint, value: float) -> str:
    return show(value, "angle" if joint.motion == "rotation" else "length")


@rule("limits-missing", "error")
def limits_missing(subject: Subject) -> Iterator[Found]:
    """Revolute and prismatic joints have a lower and an upper limit."""
    robot = subject.robot
    for joint in _limited(robot):
        missing = [side for side in ("lower", "upper") if getattr(joint.limits, side) is None]
        # A planar joint slides as far as it likes, and is made of simple ones.
        ends = [robot.links.get(joint.parent), robot.links.get(joint.child)]
        free = len(missing) == 2 and any(link is not None and link.carrier for link in ends)
        if missing and not free:
            other = "; a joint that turns without end is continuous"
            yield Found(
                _where(joint),
                f"the {joint.type} joint {joint.name!r} has no {' and no '.join(missing)} limit",
                f"give limits: lower and upper{other if joint.turns else ''}",
            )


@rule("limits-inverted", "error")
def limits_inverted(subject: Subject) -> Iterator[Found]:
    """The lower limit is below the upper one."""
    robot = subject.robot
    for joint in _limited(robot):
        lower, upper = joint.limits.lower, joint.limits.upper
        if lower is not None and upper is not None and lower > upper:
            yield Found(
                _where(joint),
                f"joint {joint.name!r}: the lower limit {_shown(joint, lower)} is above the upper "
                f"limit {_shown(joint, upper)}",
                "exchange them",
                (Edit("exchange", (*_where(joint), "lower"), (*_where(joint), "upper")),),
            )


@rule("limits-closed", "warning")
def limits_closed(subject: Subject) -> Iterator[Found]:
    """The limits leave some travel."""
    robot = subject.robot
    for joint in _limited(robot):
        lower, upper = joint.limits.lower, joint.limits.upper
        if lower is not None and lower == upper:
            yield Found(
                _where(joint),
                f"joint {joint.name!r}: both limits are {_shown(joint, lower)}, so it cannot move",
                "widen them, or make the joint fixed",
            )


@rule("limits-unlikely", "warning")
def limits_unlikely(subject: Subject) -> Iterator[Found]:
    """Limits are not so wide that another unit must be meant."""
    robot = subject.robot
    for joint in _limited(robot):
        turns = joint.motion == "rotation"
        threshold = _SUSPICIOUS_ANGLE if turns else _SUSPICIOUS_WAY
        wide = {
            side: value
            for side in ("lower", "upper")
            if (value := getattr(joint.limits, side)) is not None and abs(value) > threshold
        }
        if not wide:
            continue
        side, value = next(iter(wide.items()))
        said = " and ".join(f"the {s} limit is {v:g} {'rad' if turns else 'm'}" for s, v in
                            wide.items())  # fmt: skip
        meant = f"{value:g} deg" if turns else f"{value:g} mm"
        here = f"{math.radians(value):.6g}" if turns else f"{value / 1000:g}"
        yield Found(
            (*_where(joint), side),
            f"joint {joint.name!r}: {said}"
            + (f", {abs(value) / math.tau:.3g} turns" if turns else ""),
            f"if '{meant}' is meant, write it so; a plain number is in {'rad' if turns else 'm'}",
            in_urdf=f"if {meant} is meant, write {here}: URDF has radians and metres",
        )


@rule("limits-on-continuous", "warning")
def limits_on_continuous(subject: Subject) -> Iterator[Found]:
    """A joint that turns without end has no ends."""
    robot = subject.robot
    for joint in robot.joints.values():
        limits = joint.limits
        if joint.endless and (limits.lower is not None or limits.upper is not None):
            yield Found(
                _where(joint),
                f"the continuous joint {joint.name!r} has position limits, which do not apply",
                "make it revolute, or take the limits away",
                tuple(
                    Edit("remove", (*_where(joint), side))
                    for side in ("lower", "upper")
                    if getattr(limits, side) is not None
                ),
            )


@rule("limits-zero", "error")
def limits_zero(subject: Subject) -> Iterator[Found]:
    """Speed and effort limits are greater than zero."""
    robot = subject.robot
    followers = set(robot.couplings)
    for joint in robot.joints.values():
        for quantity in ("velocity", "effort"):
            value = getattr(joint.limits, quantity)
            # What follows another needs no drive of its own.
            if value is not None and (value < 0 or (value == 0 and joint.name not in followers)):
                yield Found(
                    (*_where(joint), quantity),
                    f"joint {joint.name!r}: the {quantity} limit is {value:g}, so nothing can "
                    "move it",
                    f"give the {quantity} its drive is capable of, or leave it out",
                    in_urdf=f"give the {quantity} its drive is capable of",
                )


@rule("limits-neutral", "warning")
def limits_neutral(subject: Subject) -> Iterator[Found]:
    """Zero, where the CAD has a joint, is within its limits."""
    robot = subject.robot
    for joint in _limited(robot):
        ends = [robot.links.get(name) for name in (joint.parent, joint.child)]
        if not any(link is not None and link.parts for link in ends):
            continue
        lower, upper = joint.limits.lower, joint.limits.upper
        low, high = lower is not None and lower > 0, upper is not None and upper < 0
        if low or high:
            bound = lower if low else upper
            assert bound is not None
            yield Found(
                _where(joint),
                f"joint {joint.name!r}: zero, where the CAD has it, is outside its limits; "
                f"the {'lower' if low else 'upper'} limit is {_shown(joint, bound)}",
                "check the direction of the axis, or count from where the CAD has it",
            )


@rule("limits-unstated", "note")
def limits_unstated(subject: Subject) -> Iterator[Found]:
    """Motors push against a stated effort limit and a stated speed limit."""
    robot = subject.robot
    driven = {motor.joint for motor in robot.motors.values()}
    for joint in robot.joints.values():
        missing = [q for q in ("velocity", "effort") if getattr(joint.limits, q) is None]
        if joint.name in driven and missing:
            yield Found(
                _where(joint),
                f"joint {joint.name!r} has a motor and no {' or '.join(missing)} limit, so its "
                "motor is as strong and fast as it likes",
                f"give limits: {', '.join(missing)}",
            )
