"""The same robot, held at another link."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

import numpy as np

from mooring.errors import ModelError, did_you_mean
from mooring.geometry import Array, inverse
from mooring.model.definition.described import Described
from mooring.model.definition.walking import rebuilt
from mooring.model.frame import LinkFrame
from mooring.model.joint import Joint
from mooring.model.link import Link
from mooring.model.naming import free_name
from mooring.model.note import Note
from mooring.model.placement import Placement
from mooring.model.registry import KINDS
from mooring.model.robot.copying import on_links
from mooring.model.robot.refitting.mounted import is_mounted
from mooring.model.robot.refitting.moving import moved_inside

if TYPE_CHECKING:
    from mooring.model.robot.robot import Robot


def rerooted(robot: Robot, link: str) -> Robot:
    """See `Robot.rerooted`."""
    if link not in robot.links:
        raise ModelError(f"no link is called {link!r}{did_you_mean(link, list(robot.links))}")
    result = on_links(robot)
    held = {joint.child: joint for joint in result.joints.values()}
    way: list[Joint] = []
    here = link
    while here in held:
        way.append(held[here])
        here = held[here].parent
    # The frame of each link on the way becomes that of the joint that carries it now: that of the
    # link from which it is carried, at zero.
    shifts = {joint.parent: joint.at.matrix for joint in way}
    _shift(result, shifts)
    turned: dict[str, Joint] = {}
    for number, joint in enumerate(way):
        # In the new frame of the link that was the child.
        at = np.eye(4) if number == 0 else inverse(shifts[joint.child])
        axis = tuple(-value + 0.0 for value in joint.axis)
        turned[joint.name] = joint.model_copy(
            update={
                "parent": joint.child, "child": joint.parent, "at": Placement(at), "axis": axis,
            }
        )  # fmt: skip
    joints = {name: turned.get(name, joint) for name, joint in result.joints.items()}
    result.joints.replace_all(joints)
    if way:
        names = ", ".join(joint.name for joint in way)
        result.notes.append(
            Note(f"{link} is the root now: {names} are turned round, with equal positions")
        )
    feeling = [sensor.name for sensor in result.sensors.values()
               if sensor.measures_load and sensor.joint_name in turned]  # fmt: skip
    if feeling:
        result.notes.append(
            Note(f"{', '.join(feeling)}: measures what passes to another link, in its frame, now")
        )
    lost = [joint.name for joint in way if joint.vendor or result.links[joint.parent].vendor]
    if lost:
        result.notes.append(
            Note(f"what other programs wrote about {', '.join(lost)} is kept as it was")
        )
    result.note_change()
    return result


def _shift(robot: Robot, shifts: dict[str, Array]) -> None:
    """Give links other frames: by link the new one in the old one, (4, 4)."""
    frames: dict[str, str] = {}

    def origin_of(link: str) -> str:
        """A frame where the link's own was."""
        if link not in frames:
            frames[link] = free_name(f"{link}_origin", robot.frames)
            place = Placement(inverse(shifts[link]))
            robot.frames.put(frames[link], LinkFrame(name=frames[link], link=link, at=place))
        return frames[link]

    there = [(kind, item) for kind in KINDS.values() for item in robot.section(kind.name).values()]
    for kind, item in there:
        if not isinstance(item, Described):
            continue
        carrier = item.placed_on() or getattr(item, "link", None)
        if carrier not in shifts:
            continue
        if isinstance(item, Link) and item.inertia is not None and item.centre is None:
            # Where it is not said it is the link's origin, which will be elsewhere.
            item.__dict__["centre"] = (0.0, 0.0, 0.0)
        if is_mounted(item, carrier):
            item.__dict__.update(link=None, frame=origin_of(carrier))
            continue
        change = moved_inside(inverse(shifts[carrier]), directions=not hasattr(item, "axis"))
        update: dict[str, Any] = dict(rebuilt(type(item), item, change).__dict__)
        if kind.name == "link" and update.get("cad_frame") is not None:
            update["cad_frame"] = update["cad_frame"] @ shifts[carrier]
        item.__dict__.update(update)
