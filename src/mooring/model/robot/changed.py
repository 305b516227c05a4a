"""Robots made from others: renamed, freed from their CAD, mirrored."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import replace
from typing import TYPE_CHECKING, Any

import numpy as np

from mooring.cad import Part
from mooring.geometry import Array, mirror_across
from mooring.model.joint import Joint
from mooring.model.link import Link
from mooring.model.mass import PointMass
from mooring.model.placement import Placement
from mooring.model.shapes import Hull, MeshShape, PlacedShape

if TYPE_CHECKING:
    from mooring.model.robot.robot import Robot

Rename = Callable[[str], str]
KINDS = (
    "link", "joint", "closure", "spring", "motor", "sensor", "frame", "posture", "motion",
    "material",
)  # fmt: skip
"""What a robot's items can be; each kind has its own names."""


def renamed(robot: Robot, names: Mapping[str, Rename]) -> Robot:
    """A robot with other names; every reference follows.

    Args:
        robot: stays as it is.
        names: by kind, from the old name to the new; kinds not given keep their names.
    """

    def same(name: str) -> str:
        return name

    link, joint, closure, spring, motor, sensor, frame, posture, motion, material = (
        names.get(kind, same) for kind in KINDS
    )
    result = type(robot)(robot.name)
    result.base = robot.base
    for name, old_link in robot.links.items():
        made_of = _material(robot, old_link.material, material)
        surface = _material(robot, old_link.surface, material)
        per_part = tuple(
            (pattern, material(m) if m in robot.materials else m)
            for pattern, m in old_link.part_materials
        )
        result.links[link(name)] = replace(
            old_link, name=link(name), material=made_of, part_materials=per_part, surface=surface
        )
    for name, j in robot.joints.items():
        update = {"name": joint(name), "parent": link(j.parent), "child": link(j.child)}
        result.joints[joint(name)] = j.model_copy(update=update)
    for name, coupling in robot.couplings.items():
        update = {"joint": joint(name), "follows": joint(coupling.follows)}
        result.couplings[joint(name)] = coupling.model_copy(update=update)
    for name, c in robot.closures.items():
        between = tuple(link(end) for end in c.between)
        result.closures[closure(name)] = c.model_copy(
            update={"name": closure(name), "between": between}
        )
    for name, tie in robot.springs.items():
        ends = tuple(frame(end) for end in tie.between)
        result.springs[spring(name)] = tie.model_copy(
            update={"name": spring(name), "between": ends}
        )
    for (one, other), why in robot.allowances.items():
        a, b = sorted((link(one), link(other)))
        result.allowances[a, b] = why
    for name, m in robot.motors.items():
        result.motors[motor(name)] = m.model_copy(
            update={"name": motor(name), "joint": joint(m.joint)}
        )
    for name, s in robot.sensors.items():
        refers = {"link": link, "frame": frame, "joint": joint}
        update = {k: change(v) for k, change in refers.items() if (v := getattr(s, k, None))}
        result.sensors[sensor(name)] = s.model_copy(update={"name": sensor(name), **update})
    for name, f in robot.frames.items():
        result.frames[frame(name)] = f.model_copy(
            update={"name": frame(name), "link": link(f.link)}
        )
    for name, positions in robot.postures.items():
        result.postures[posture(name)] = {joint(j): q for j, q in positions.items()}
    for name, steps in robot.motions.items():
        result.motions[motion(name)] = tuple(
            step.renamed(posture, joint, frame, link) for step in steps
        )
    for name, stuff in robot.materials.items():
        result.materials[material(name)] = stuff.model_copy(update={"name": material(name)})
    by_section = {f"{kind}s": names.get(kind, same) for kind in KINDS} | {"couplings": joint}
    for path, place in robot.places.items():
        rename = by_section.get(path[0]) if len(path) > 1 else None
        new = path if rename is None else (path[0], rename(path[1]), *path[2:])
        result.places[new] = place
    result.assemblies = list(robot.assemblies)
    result.unused = list(robot.unused)
    result.notes = list(robot.notes)
    result.checks = robot.checks
    result.missing_meshes = [(link(name), file) for name, file in robot.missing_meshes]
    return result


def _material(robot: Robot, name: str | None, rename: Rename) -> str | None:
    """A material of the built-in table keeps its name."""
    return rename(name) if name is not None and name in robot.materials else name


def on_links(robot: Robot) -> Robot:
    """A robot whose placements are all measured from links, and none from its CAD.

    Raises:
        UnsoundRobotError: the robot is no tree.
    """
    frames = robot.link_frames()
    result = renamed(robot, {})
    # Its parts are no longer those of an assembly; what it left over is known now.
    result.assemblies, result.unused = [], robot.leftover_parts()
    for name, link in result.links.items():
        home = frames[name] if link.cad_frame is None else link.cad_frame
        result.links[name] = replace(
            link,
            cad_frame=home,
            extra_visuals=[_on_link(shape, home) for shape in link.extra_visuals],
            given_collisions=[_on_link(shape, home) for shape in link.given_collisions],
        )
    for name, joint in result.joints.items():
        place = Placement(joint.at.in_link(frames[joint.parent]))
        result.joints[name] = joint.model_copy(update={"at": place})
    for name, closure in result.closures.items():
        place = Placement(closure.at.in_link(frames[closure.between[0]]))
        result.closures[name] = closure.model_copy(update={"at": place})
    for name, frame in result.frames.items():
        place = Placement(frame.at.in_link(frames[frame.link]))
        result.frames[name] = frame.model_copy(update={"at": place})
    return result


def _on_link(shape: PlacedShape, frame: Array) -> PlacedShape:
    return replace(shape, placement=Placement(shape.placement.in_link(frame)))


def mirrored(robot: Robot, axis: str) -> Robot:
    """The mirror image of a robot in the plane through its root's origin across x, y or z.

    With equal positions it stands as the mirror image, so limits, couplings, postures and motions
    stay what they are: axes of sliding are mirrored, and axes of turning are turned round as well.

    Raises:
        UnsoundRobotError: the robot is no tree.
    """
    mirror = mirror_across(axis)
    result = on_links(robot)
    for name, link in result.links.items():
        result.links[name] = _mirrored_link(link, axis, mirror)
    for name, joint in result.joints.items():
        update = {"at": _mirrored_place(joint.at, mirror), "axis": _mirrored_axis(joint, mirror)}
        result.joints[name] = joint.model_copy(update=update)
    for name, closure in result.closures.items():
        direction = tuple(float(v) for v in mirror[:3, :3] @ closure.axis)
        update = {"at": _mirrored_place(closure.at, mirror), "axis": direction}
        result.closures[name] = closure.model_copy(update=update)
    for name, frame in result.frames.items():
        update = {"at": _mirrored_place(frame.at, mirror)}
        result.frames[name] = frame.model_copy(update=update)
    for name, steps in result.motions.items():
        result.motions[name] = tuple(step.mirrored(mirror) for step in steps)
    return result


def _mirrored_axis(joint: Joint, mirror: Array) -> tuple[float, ...]:
    direction = mirror[:3, :3] @ np.array(joint.axis)
    if joint.motion == "rotation":
        # What turns to the left turns to the right in the mirror.
        direction = -direction
    return tuple(float(v) + 0.0 for v in direction)


def _mirrored_place(place: Placement, mirror: Array) -> Placement:
    # Mirrored on both sides a right-handed frame stays right-handed.
    return Placement(mirror @ place.matrix @ mirror, place.relative_to)


def _mirrored_link(link: Link, axis: str, mirror: Array) -> Link:
    def part(old: Part) -> Part:
        return replace(
            old,
            placement=mirror @ old.placement @ mirror,
            geometry=old.geometry.mirrored(axis),
        )

    def shape(old: PlacedShape) -> PlacedShape:
        what: Any = old.shape
        if isinstance(what, MeshShape | Hull):
            faces = np.ascontiguousarray(what.mesh.faces[:, ::-1])
            vertices = what.mesh.vertices @ mirror[:3, :3].T
            what = replace(what, mesh=replace(what.mesh, vertices=vertices, faces=faces))
        # Boxes, bars and balls look the same in the mirror.
        return replace(old, shape=what, placement=_mirrored_place(old.placement, mirror))

    given = link.given_inertia
    assert link.cad_frame is not None
    return replace(
        link,
        parts=tuple(part(old) for old in link.parts),
        given_inertia=None if given is None else given.placed(mirror),
        points=tuple(
            PointMass(mass=p.mass, at=mirror[:3, :3] @ np.array(p.at)) for p in link.points
        ),
        extra_visuals=[shape(old) for old in link.extra_visuals],
        given_collisions=[shape(old) for old in link.given_collisions],
        cad_frame=mirror @ link.cad_frame @ mirror,
    )
