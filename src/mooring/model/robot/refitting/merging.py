"""Links that fixed joints hold together made one."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

import numpy as np

from mooring.errors import ModelError, did_you_mean
from mooring.geometry import Array
from mooring.model.definition.described import Described
from mooring.model.definition.markers import Pattern, Ref
from mooring.model.definition.mirroring import moments_of
from mooring.model.definition.walking import DESCEND, rebuilt
from mooring.model.frame import LinkFrame
from mooring.model.inertia import combined
from mooring.model.joint import Joint
from mooring.model.link import Link
from mooring.model.naming import free_name
from mooring.model.note import Note
from mooring.model.placement import Placement
from mooring.model.registry import KINDS
from mooring.model.robot.copying import on_links
from mooring.model.robot.references import dependents, matching
from mooring.model.robot.refitting.mounted import is_mounted
from mooring.model.robot.refitting.moving import moved_inside
from mooring.model.structure import depth_first

if TYPE_CHECKING:
    from mooring.model.robot.robot import Robot


def merged(robot: Robot, pattern: str) -> Robot:
    """See `Robot.merged`."""
    if not matching(robot, "joint", pattern):
        raise ModelError(f"no joint matches {pattern!r}{did_you_mean(pattern, list(robot.joints))}")
    result = on_links(robot)
    chosen = set(matching(robot, "joint", pattern))
    # From the tips inwards, so that each is merged with what it carries.
    for joint in reversed(depth_first(result)):
        if joint.moves or joint.name not in chosen:
            continue
        needing = [KINDS[kind].called(name) for (kind, name), _ in
                   dependents(result, ("joint", joint.name))]  # fmt: skip
        if needing:
            result.notes.append(Note(f"joint {joint.name!r} stays: {', '.join(needing)} needs it"))
            continue
        _merge(result, joint)
    return result


def _merge(robot: Robot, joint: Joint) -> None:
    parent, child, place = joint.parent, joint.child, joint.at.matrix
    before = [robot.inertia(name) for name in (parent, child)]
    carrier, carried = robot.links[parent], robot.links[child]
    bare = not (carried.parts or carried.shapes or carried.visuals or carried.collision
                or before[1] is not None)  # fmt: skip
    if not bare:
        whole = _one(robot, carrier, carried, place)
        known = [i.placed(p) for i, p in zip(before, (np.eye(4), place), strict=True)
                 if i is not None]  # fmt: skip
        if known:
            source = known[0].source if len(known) == 1 else "given"
            total = combined(known, source, "")
            whole |= {
                "mass": total.mass, "inertia": moments_of(total.tensor),
                "centre": tuple(float(v) for v in total.centre),
                "assumed": any(one.source == "assumed" for one in known),
            }  # fmt: skip
        if None in before and any(before):
            lacks = (parent, child)[before.index(None)]
            robot.notes.append(Note(f"{lacks} had no mass: {parent} weighs what the other did"))
        robot.links.put(parent, Link(name=parent, cad_frame=None, **whole))
    robot.joints.drop(joint.name)
    robot.links.drop(child)
    frame = child if child not in robot.frames else free_name(f"{child}_origin", robot.frames)
    _refer(robot, child, parent, place, frame)
    robot.frames.put(frame, LinkFrame(name=frame, link=parent, at=Placement(place)))
    robot.note_change()


def _one(robot: Robot, carrier: Link, carried: Link, place: Array) -> dict[str, Any]:
    """What is said of both, with everything written out."""
    one, other = carrier.resolved(robot), carried.resolved(robot)
    other = rebuilt(Link, other, moved_inside(place))
    said = [link.collision for link in (one, other) if link.collision is not None]
    surfaces = [link.surface for link in (one, other) if link.surface]
    if len(set(surfaces)) > 1:
        robot.notes.append(
            Note(f"{carried.name} touched as {surfaces[1]}; as part of {carrier.name} as "
                 f"{surfaces[0]}")
        )  # fmt: skip
    return {
        "visuals": (*one.visuals, *other.visuals),
        "collision": tuple(shape for shapes in said for shape in shapes) if said else None,
        "surface": surfaces[0] if surfaces else None,
        "vendor": (*one.vendor, *other.vendor),
        "carrier": one.carrier and other.carrier,
    }


def _refer(robot: Robot, old: str, new: str, place: Array, frame: str) -> None:
    """Let everything that names a link name the one that it is part of now, where it is there."""

    def change(marker: Any, value: Any) -> Any:
        if isinstance(marker, Ref) and value == old and "link" in marker.kinds:
            # What takes frames gets the one that stands where the link was.
            return frame if "frame" in marker.kinds else new
        if isinstance(marker, Pattern) and marker.kind == "link" and value == old:
            return new
        return DESCEND

    for kind in KINDS.values():
        section = robot.section(kind.name)
        for key, item in list(section.items()):
            moved = item
            if is_mounted(item, old):
                item.__dict__.update(link=None, frame=frame)
            if isinstance(item, Described) and old in (
                item.placed_on(),
                getattr(item, "link", None),
            ):
                inside = moved_inside(place, directions=not hasattr(item, "axis"))
                moved = rebuilt(type(item), item, inside)
            moved = rebuilt(kind.type, moved, change)
            new_key = key
            if kind.name == "allowance":
                new_key = tuple(sorted(new if name == old else name for name in key))
                if new_key[0] == new_key[1]:
                    section.drop(key)
                    continue
            if new_key != key:
                section.drop(key)
            if isinstance(item, Described):
                item.__dict__.update(moved.__dict__)
                moved = item
            section.put(new_key, moved)
