"""Rules on what should be each other's mirror image."""

from __future__ import annotations

from collections.abc import Iterator

from mooring.checks.rule import Found, rule
from mooring.checks.subject import Subject
from mooring.checks.twins import Unlike, mirror_of, twin_names, unlike_joints, unlike_links


@rule(
    "twins-unlike", "warning", needs_tree=True,
    explains=("overlap-in-range", "overlap-neutral", "overlap-at-one-point", "overlap-in-posture"),
)  # fmt: skip
def twins_unlike(subject: Subject) -> Iterator[Found]:
    """What is called left and right is each other's mirror image: places, axes, limits, masses."""
    robot = subject.robot
    joints = twin_names(list(robot.joints))
    pairs = [(robot.joints[one], robot.joints[other]) for one, other in joints]
    mirror = mirror_of(pairs, subject.frames)
    if mirror is None:
        return
    for unlike in unlike_joints(robot, joints, subject.frames, mirror):
        yield _found(subject, unlike)
    for unlike in unlike_links(twin_names(list(robot.links)), subject.own_inertias):
        yield _found(subject, unlike)


def _found(subject: Subject, unlike: Unlike) -> Found:
    section, name, *what = unlike.item
    place = subject.robot.place((section, unlike.twin, *what))
    line = f" (line {place.line})" if place is not None and place.line is not None else ""
    return Found(
        unlike.item,
        f"{section.removesuffix('s')} {name!r}: {unlike.words}",
        f"make both the same{line and f', see {unlike.twin}{line}'}; or accept it, if left and "
        "right are to differ",
    )
