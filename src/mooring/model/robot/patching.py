"""A robot that is no tree, patched up so that it can be looked at."""

from __future__ import annotations

from difflib import get_close_matches
from typing import TYPE_CHECKING, Any

from mooring.model.joint import Joint
from mooring.model.link import Link
from mooring.model.robot.copying import copied
from mooring.model.robot.editing import drop_items, needing
from mooring.model.structure import Fault, count_below, faults, roots

if TYPE_CHECKING:
    from mooring.model.robot.robot import Robot


def as_tree(robot: Robot) -> tuple[Robot, list[str]]:
    """A robot of which a tree can be made, for pictures alone.

    Joints whose links are not there go; of two joints to one link the first stays; a ring is opened
    where it is told; what hangs on nothing stands where the root does.

    Returns:
        The robot itself where it is a tree, else another; and what was done, a sentence each.
    """
    found = faults(robot)
    if not found:
        return robot, []
    patched, told = copied(robot), []
    if not patched.links:
        patched.links.put("nothing", Link(name="nothing"))
        told.append("there are no links; an empty one is shown")
    for _ in range(len(robot.joints) + 1):
        left = [fault for fault in faults(patched) if fault.kind != "several-roots"]
        if not left:
            break
        told.append(f"{left[0].message}: {_patch(patched, left[0])}")
    main, *others = sorted(roots(patched), key=lambda name: -count_below(patched, name))
    for root in others:
        entry: dict[str, Any] = {"type": "fixed", "parent": main, "child": root}
        name = f"{root} (not connected)"
        patched.joints.put(name, Joint(name=name, **entry))
        told.append(f"link {root!r} hangs on nothing: shown where {main!r} is")
    patched.note_change()
    return patched, told


def _patch(robot: Robot, fault: Fault) -> str:
    """Let a joint hold the link that must be meant, or take it away; says what was done."""
    name = fault.item[1]
    if fault.kind == "missing-link":
        end = fault.item[2]
        # Only what hangs on nothing so far can be what a joint was to carry.
        others = roots(robot) if end == "child" else list(robot.links)
        meant = get_close_matches(getattr(robot.joints[name], end), others, n=1, cutoff=0.8)
        if meant and meant[0] not in (robot.joints[name].parent, robot.joints[name].child):
            robot.joints[name].__dict__[end] = meant[0]
            robot.note_change()
            return f"shown as if {meant[0]!r} were meant"
    _drop_joint(robot, fault)
    return f"shown without joint {name!r}"


def _drop_joint(robot: Robot, fault: Fault) -> None:
    """Take a joint away, and what moves with it, but not the link that it carries."""
    gone = [item for item in needing(robot, ("joint", fault.item[1])) if item[0] != "link"]
    kept = {("joint", fault.item[1]), *(item for item in gone if item[0] != "joint")}
    drop_items(robot, kept)
    robot.note_change()
