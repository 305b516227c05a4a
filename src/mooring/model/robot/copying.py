"""Robots made from others: copied, freed from their CAD, mirrored."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from mooring.geometry import mirror_across
from mooring.model.definition.described import Described
from mooring.model.definition.markers import Geometric
from mooring.model.definition.walking import DESCEND, rebuilt
from mooring.model.placement import Placement
from mooring.model.registry import KINDS

if TYPE_CHECKING:
    from mooring.model.robot.robot import Robot


def copied(robot: Robot) -> Robot:
    """A robot of its own with equal items; CAD parts are shared."""
    result = type(robot)(robot.name)
    result.base, result.checks = robot.base, robot.checks.copied()
    result.head.vendor = robot.head.vendor
    for kind in KINDS.values():
        result.section(kind.name).replace_all(
            {
                key: item.copied() if isinstance(item, Described) else item
                for key, item in robot.section(kind.name).items()
            }
        )
    result.places = dict(robot.places)
    result.assemblies = list(robot.assemblies)
    result.unused = list(robot.unused)
    result.notes = list(robot.notes)
    result.note_change()
    return result


def on_links(robot: Robot) -> Robot:
    """A robot whose placements are all measured from links, and none from its CAD.

    Raises:
        UnsoundRobotError: the robot is no tree.
    """
    frames = robot.link_frames()
    result = copied(robot)
    # Its parts are no longer those of an assembly; what it left over is known now.
    result.assemblies, result.unused = [], robot.leftover_parts()
    for kind in KINDS.values():
        for item in result.section(kind.name).values():
            carrier = item.placed_on() if isinstance(item, Described) else None
            if carrier is None:
                continue
            home = frames[carrier]
            if kind.name == "link":
                home = home if item.cad_frame is None else item.cad_frame
                item.__dict__["cad_frame"] = home
            item.__dict__.update(rebuilt(type(item), item, _measured_from(home)).__dict__)
    result.note_change()
    return result


def _measured_from(frame: Any) -> Any:
    def change(marker: Any, value: Any) -> Any:
        if isinstance(marker, Geometric) and marker.what == "placement":
            return Placement(value.in_link(frame))
        return DESCEND

    return change


def mirrored(robot: Robot, axis: str) -> Robot:
    """The mirror image of a robot in the plane through its root's origin across x, y or z.

    With equal positions it stands as the mirror image, so limits, couplings, postures and motions
    stay what they are: axes of sliding are mirrored, and axes of turning are turned round as well.

    Raises:
        UnsoundRobotError: the robot is no tree.
    """
    mirror = mirror_across(axis)
    result = on_links(robot)

    def change(marker: Any, value: Any) -> Any:
        return value.mirrored(mirror) if hasattr(marker, "mirrored") else DESCEND

    for kind in KINDS.values():
        section = result.section(kind.name)
        section.replace_all({k: rebuilt(kind.type, item, change) for k, item in section.items()})
    result.note_change()
    return result


def resolved(robot: Robot) -> Robot:
    """The robot with nothing left to be computed or looked up: measured from links, masses given.

    Raises:
        UnsoundRobotError: the robot is no tree.
    """
    result = on_links(robot)
    for kind in KINDS.values():
        section = result.section(kind.name)
        section.replace_all(
            {
                name: item.resolved(robot) if isinstance(item, Described) else item
                for name, item in section.items()
            }
        )
    result.note_change()
    return result
