"""Rules on couplings and closures."""

from __future__ import annotations

from collections.abc import Iterator

from mooring.checks.rule import Found, rule
from mooring.checks.subject import Subject
from mooring.errors import RunError
from mooring.kinematics import Mobility
from mooring.kinematics.loops.equations import equations
from mooring.model import Joint
from mooring.model.definition.fields import dimension_of
from mooring.units import show

_OPEN = 1e-6
"""[m or rad]"""
_SLACK = 1e-6


@rule("follower-outside-limits", "warning")
def follower_outside_limits(subject: Subject) -> Iterator[Found]:
    """A joint that follows another stays within its limits."""
    robot = subject.robot
    for name, coupling in robot.couplings.items():
        follower, leaders = robot.joints[name], " and ".join(coupling.ratios)
        reached = [coupling.offset, coupling.offset]
        for joint, ratio in coupling.ratios.items():
            leader = robot.joints[joint]
            limits = leader.limits
            if limits.lower is None or limits.upper is None or leader.endless:
                break
            ends = sorted((ratio * limits.lower, ratio * limits.upper))
            reached = [reached[0] + ends[0], reached[1] + ends[1]]
        else:
            yield from _beyond(name, follower, leaders, reached)


def _beyond(name: str, follower: Joint, leaders: str, reached: list[float]) -> Iterator[Found]:
    """Where a follower would have to go beyond its limits."""
    dimension = dimension_of("position", follower.motion)
    beyond = [
        f"to {show(value, dimension)}, beyond its {side} limit of {show(limit, dimension)}"
        for side, value, sign in (("lower", reached[0], -1), ("upper", reached[1], 1))
        if (limit := getattr(follower.limits, side)) is not None and sign * (value - limit) > _SLACK
    ]
    if beyond:
        yield Found(
            ("couplings", name),
            f"{name} follows {leaders} {', and '.join(beyond)}",
            f"widen the limit, or narrow that of {leaders}",
        )


@rule("loop-open", "error", needs_tree=True)
def loop_open(subject: Subject) -> Iterator[Found]:
    """What follows others with an offset stands off the neutral posture, where the CAD has it."""
    robot, tree = subject.robot, subject.tree
    # Without CAD or loops nothing says that it belongs anywhere else.
    if not robot.couplings or not (robot.closures or any(k.parts for k in robot.links.values())):
        return
    gap = equations(tree, tree.neutral())[0]
    for name, value in zip(robot.couplings, gap, strict=False):
        if abs(value) > _OPEN:
            dimension = dimension_of("position", robot.joints[name].motion)
            yield Found(
                ("couplings", name),
                f"at the neutral posture {name} is {show(abs(float(value)), dimension)} away from "
                f"where it should follow {' and '.join(robot.couplings[name].ratios)}",
                "give the coupling no offset, or move the CAD to where the offset has it",
            )


@rule("closure-one-sided", "warning", needs_tree=True)
def closure_one_sided(subject: Subject) -> Iterator[Found]:
    """Both links of a closure can move against each other without it."""
    robot = subject.robot
    parents = {joint.child: joint for joint in robot.joints.values()}

    def trail(link: str) -> list[str]:
        found = [link]
        while found[-1] in parents:
            found.append(parents[found[-1]].parent)
        return found

    for name, closure in robot.closures.items():
        one, other = (trail(link) for link in closure.between)
        between = set(one) ^ set(other)
        moving = [link for link in between if parents[link].moves]
        if len(moving) <= 1:
            what = "are held together already" if not moving else "have one joint between them"
            yield Found(
                ("closures", name),
                f"closure {name!r}: {closure.between[0]} and {closure.between[1]} {what}, so it "
                "closes no loop",
                "take it away, or name the links where the loop closes",
            )


@rule("loop-stuck", "error", needs_tree=True)
def loop_stuck(subject: Subject) -> Iterator[Found]:
    """A mechanism with loops can move."""
    found = _mobility(subject)
    if found is not None and found.actual == 0:
        yield Found(
            _closures(subject),
            f"the loops of {_names(subject)} leave nothing that can move: {found}",
            "take a closure away, or make it of a kind that holds less, such as ball",
        )


@rule("loop-over-constrained", "note", needs_tree=True)
def loop_over_constrained(subject: Subject) -> Iterator[Found]:
    """No equation of the loops repeats another."""
    found = _mobility(subject)
    if found is not None and found.repeated > 0:
        yield Found(
            _closures(subject),
            f"the loops of {_names(subject)} are over-constrained: {found}",
            "replace a hinge by a ball where the real machine has play, or accept it",
        )


@rule("loop-dead-point", "warning", needs_tree=True)
def loop_dead_point(subject: Subject) -> Iterator[Found]:
    """The neutral posture is no dead point."""
    found = _mobility(subject)
    if found is not None and found.at_dead_point:
        yield Found(
            _closures(subject),
            f"the neutral posture is a dead point, from where the loops of {_names(subject)} may "
            "go on in two ways: "
            f"{found}",
            "move the CAD a little away from it, so that the branch is known",
        )


def _closures(subject: Subject) -> tuple[str, ...]:
    """The path to what closes the loops: one closure, or all."""
    names = list(subject.robot.closures)
    return ("closures", names[0]) if len(names) == 1 else ("closures",)


def _names(subject: Subject) -> str:
    names = list(subject.robot.closures)
    return ", ".join(names[:4]) + (f" and {len(names) - 4} more" if len(names) > 4 else "")


def _mobility(subject: Subject) -> Mobility | None:
    robot = subject.robot
    if not robot.closures:
        return None
    try:
        return subject.mobility
    except RunError:
        return None
