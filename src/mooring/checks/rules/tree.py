"""Rules on the shape of the kinematic tree."""

from __future__ import annotations

from collections.abc import Iterator

from mooring.checks.rule import Found, rule
from mooring.checks.subject import Subject
from mooring.model import Robot
from mooring.model.structure import FaultKind, faults


def _of_kind(robot: Robot, kind: FaultKind) -> Iterator[Found]:
    return (Found(f.item, f.message, f.remedy) for f in faults(robot) if f.kind == kind)


@rule("no-links", "error")
def no_links(subject: Subject) -> Iterator[Found]:
    """A robot has at least one link."""
    robot = subject.robot
    return _of_kind(robot, "no-links")


@rule("missing-link", "error")
def missing_link(subject: Subject) -> Iterator[Found]:
    """Parent and child of every joint exist."""
    robot = subject.robot
    return _of_kind(robot, "missing-link")


@rule("two-parents", "error")
def two_parents(subject: Subject) -> Iterator[Found]:
    """A link is the child of one joint only."""
    robot = subject.robot
    return _of_kind(robot, "two-parents")


@rule("cycle", "error")
def cycle(subject: Subject) -> Iterator[Found]:
    """Following parents never leads back."""
    robot = subject.robot
    return _of_kind(robot, "cycle")


@rule("several-roots", "error")
def several_roots(subject: Subject) -> Iterator[Found]:
    """Everything hangs together."""
    robot = subject.robot
    return _of_kind(robot, "several-roots")
