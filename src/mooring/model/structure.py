"""The shape of the kinematic tree: its roots, its order, and what keeps it from being a tree."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import TYPE_CHECKING, Literal

from mooring.errors import did_you_mean

if TYPE_CHECKING:
    from mooring.model.joint import Joint
    from mooring.model.robot import Robot

FaultKind = Literal["no-links", "missing-link", "two-parents", "cycle", "several-roots"]


@dataclass(frozen=True)
class Fault:
    """Something that keeps the robot from being one tree.

    Attributes:
        kind: what sort of fault.
        item: the path of the entry at fault, e.g. `("joints", "slew", "parent")`.
        message: what is wrong, with names.
        remedy: what to do.
    """

    kind: FaultKind
    item: tuple[str, ...]
    message: str
    remedy: str


def roots(robot: Robot) -> list[str]:
    """The links that are no joint's child, in the order they were added."""
    children = {joint.child for joint in robot.joints.values()}
    return [name for name in robot.links if name not in children]


def faults(robot: Robot) -> list[Fault]:
    """Everything that keeps the robot from being one tree; empty for a sound one."""
    if not robot.links:
        return [Fault("no-links", (), f"{robot.name} has no links", "add a link for each body")]
    return [*_missing_links(robot), *_two_parents(robot), *_cycles(robot), *_roots(robot)]


def depth_first(robot: Robot) -> list[Joint]:
    """The joints of a sound tree from the root outwards, each branch to its end."""
    below: dict[str, list[Joint]] = {name: [] for name in robot.links}
    for joint in robot.joints.values():
        below[joint.parent].append(joint)
    ordered: list[Joint] = []
    waiting = list(reversed(below[roots(robot)[0]]))
    while waiting:
        joint = waiting.pop()
        ordered.append(joint)
        waiting.extend(reversed(below[joint.child]))
    return ordered


def _missing_links(robot: Robot) -> list[Fault]:
    known = list(robot.links)
    return [
        Fault(
            "missing-link",
            ("joints", joint.name, end),
            f"joint {joint.name!r} has the {end} {link!r}, and no link has that name",
            f"name one of the links{did_you_mean(link, known)}",
        )
        for joint in robot.joints.values()
        for end, link in (("parent", joint.parent), ("child", joint.child))
        if link not in robot.links
    ]


def _two_parents(robot: Robot) -> list[Fault]:
    holders: dict[str, list[str]] = {}
    for joint in robot.joints.values():
        holders.setdefault(joint.child, []).append(joint.name)
    return [
        Fault(
            "two-parents",
            ("joints", names[1], "child"),
            f"link {child!r} is the child of {len(names)} joints: {', '.join(names)}",
            "keep one of them as a joint, and describe the other as a closure: it closes a loop",
        )
        for child, names in holders.items()
        if len(names) > 1
    ]


def _cycles(robot: Robot) -> list[Fault]:
    holder: Mapping[str, Joint] = {joint.child: joint for joint in robot.joints.values()}
    seen: set[str] = set()
    found = []
    for start in robot.links:
        trail: list[str] = []
        link = start
        while link in holder and link not in seen:
            seen.add(link)
            trail.append(link)
            link = holder[link].parent
        if link in trail:
            loop = trail[trail.index(link) :]
            joints = [holder[name].name for name in loop]
            chain = " -> ".join([*reversed(loop), loop[-1]])
            found.append(
                Fault(
                    "cycle",
                    ("joints", joints[0]),
                    f"the joints {', '.join(reversed(joints))} make a ring: {chain}",
                    "one of these joints must start at a link nearer to the root; a true loop "
                    "in the machine is described as a closure",
                )
            )
    return found


def _roots(robot: Robot) -> list[Fault]:
    found = roots(robot)
    if len(found) <= 1:
        return []
    sizes = {root: count_below(robot, root) for root in found}
    main = max(found, key=lambda root: sizes[root])
    return [
        Fault(
            "several-roots",
            ("links", root),
            f"link {root!r}"
            + (f" and the {sizes[root] - 1} links on it are" if sizes[root] > 1 else " is")
            + f" not connected to {main!r}",
            f"add a joint whose child is {root!r}, or remove the link",
        )
        for root in found
        if root != main
    ]


def count_below(robot: Robot, root: str) -> int:
    """How many links hang on one, itself counted."""
    below: dict[str, list[str]] = {}
    for joint in robot.joints.values():
        below.setdefault(joint.parent, []).append(joint.child)
    reached, waiting = {root}, [root]
    while waiting:
        for child in below.get(waiting.pop(), ()):
            if child not in reached:
                reached.add(child)
                waiting.append(child)
    return len(reached)


def carrier_of(robot: Robot, link: str) -> str:
    """The first link of those that fixed joints hold together with one."""
    parents = {joint.child: joint for joint in robot.joints.values()}
    while link in parents and not parents[link].moves:
        link = parents[link].parent
    return link
