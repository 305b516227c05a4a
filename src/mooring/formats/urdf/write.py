"""From a robot to a URDF file, with its meshes beside it."""

from __future__ import annotations

from pathlib import Path

import numpy as np
from lxml import etree

from mooring.formats.scenes.beside import MeshesBeside
from mooring.formats.scenes.stl import write_stl
from mooring.formats.urdf.finding import is_file, tries
from mooring.formats.urdf.joints import NO_LIMIT
from mooring.formats.urdf.numbers import number_text, numbers_text
from mooring.formats.urdf.transmissions import transmission
from mooring.formats.urdf.vocabulary import as_text, merge_vendor
from mooring.geometry import Array, rpy_from_rotation
from mooring.model import (
    Inertia,
    Joint,
    MeshShape,
    PlacedShape,
    Robot,
)
from mooring.model.registry import KINDS
from mooring.model.shapes import Shape

_WRITTEN = ("link", "joint", "coupling", "frame", "material", "motor")
"""Kinds of item that have a place in URDF, if a poorer one."""


def write_urdf(robot: Robot, file: Path) -> list[str]:
    """Write a robot as URDF.

    Meshes that were read from files are named as they were, with their scale; all others go to a
    folder beside the file, in metres.

    Returns:
        What URDF cannot carry, a sentence each.

    Raises:
        UnsoundRobotError: the robot is no tree.
    """
    return _Writer(robot, file).write()


class _Writer:
    def __init__(self, robot: Robot, file: Path) -> None:
        self.robot = robot
        self.file = file
        self.frames = robot.link_frames()
        self.losses: list[str] = []
        self.meshes = MeshesBeside(file, ".stl")
        self.looks: dict[str, PlacedShape] = {}

    def write(self) -> list[str]:
        root = etree.Element("robot", name=self.robot.name)
        for name in self.frames:
            self._link(root, name)
        for joint in self.robot.joints.values():
            self._joint(root, joint)
        self._frames(root)
        for motor in self.robot.motors.values():
            root.append(transmission(motor, self.losses))
        for position, (name, shape) in enumerate(self.looks.items()):
            root.insert(position, _material(name, shape))
        merge_vendor(root, self.robot.head.vendor)
        self._what_urdf_cannot_hold()
        etree.indent(root, space="  ")
        self.meshes.write(write_stl, f"{as_text(root)}\n")
        return list(dict.fromkeys(self.losses))

    def _link(self, root: etree._Element, name: str) -> None:
        link = self.robot.links[name]
        element = etree.SubElement(root, "link", name=name)
        inertia = self.robot.inertia(name)
        if inertia is not None:
            _inertial(element, inertia)
        for shape in link.shown(self.robot.materials):
            self._shapes(element, "visual", name, shape)
        for shape in link.collisions:
            self._shapes(element, "collision", name, shape)
        merge_vendor(element, link.vendor)

    def _frames(self, root: etree._Element) -> None:
        """URDF has links and joints only: a frame is a link without mass on a fixed joint."""
        taken = {*self.robot.links, *self.robot.joints}
        for name, frame in self.robot.frames.items():
            if name in taken:
                self.losses.append(f"frame {name!r} is left out: a link or joint has that name")
                continue
            etree.SubElement(root, "link", name=name)
            element = etree.SubElement(root, "joint", name=f"{name}_frame", type="fixed")
            _origin(element, frame.at.in_link(self.frames[frame.link]))
            etree.SubElement(element, "parent", link=frame.link)
            etree.SubElement(element, "child", link=name)
            self.losses.append(
                f"frame {name!r} is written as a link without mass; its role is lost"
            )

    def _urdf_pieces(self, link: str, shape: Shape) -> list[tuple[Shape, Array]]:
        """The shape itself, or the same surface made of what URDF has."""
        if shape.of_triangles or shape.urdf is not None:
            return [(shape, np.eye(4))]
        pieces = shape.pieces()
        if pieces is None:
            self.losses.append(
                f"link {link!r}: URDF has no {shape.kind}; written as a mesh of its surface"
            )
            return [(MeshShape(shape.mesh, f"{link}_{shape.kind}"), np.eye(4))]
        kinds = [piece.kind for piece, _ in pieces]
        made_of = ", ".join(f"{kinds.count(k)} {k}" for k in dict.fromkeys(kinds))
        self.losses.append(
            f"link {link!r}: URDF has no {shape.kind}; written as {made_of}, which cover the same "
            "space"
        )
        return pieces

    def _shapes(self, link: etree._Element, tag: str, name: str, placed: PlacedShape) -> None:
        for shape, inside in self._urdf_pieces(name, placed.shape):
            element = etree.SubElement(link, tag)
            if placed.name:
                element.set("name", placed.name)
            _origin(element, placed.in_link(self.frames[name]) @ inside)
            geometry = etree.SubElement(element, "geometry")
            word, attributes = _element(shape, self.meshes)
            self._look_whether_found(attributes.get("filename", ""))
            etree.SubElement(geometry, word, attributes)
            if tag == "visual" and (placed.color is not None or placed.texture or placed.finish):
                etree.SubElement(element, "material", name=self._look(placed))
            merge_vendor(element, placed.vendor)

    def _look_whether_found(self, address: str) -> None:
        """Meshes that are named by package must be found from where the file is now, too."""
        if address.startswith("package:") and not any(map(is_file, tries(address, self.file))):
            package = address.removeprefix("package://").partition("/")[0]
            self.losses.append(
                f"meshes stay in the package {package!r}, as they were named; from here they are "
                "found with --search FOLDER, or take --copy-meshes"
            )

    def _look(self, placed: PlacedShape) -> str:
        """The name under which a shape's color and texture stand at the top of the file."""
        bare = f"color_{(placed.color or '').lstrip('#')}"
        if placed.opacity < 1:
            bare += f"_{round(255 * placed.opacity):02x}"
        wanted, number = placed.finish or bare, 1
        name = wanted
        while name in self.looks and not _same_look(self.looks[name], placed):
            number += 1
            name = f"{wanted}_{number}"
        self.looks.setdefault(name, placed)
        return name

    def _joint(self, root: etree._Element, joint: Joint) -> None:
        limits = joint.limits
        kind = joint.kind.urdf
        if kind == "revolute" and limits.lower is None and limits.upper is None:
            kind = "continuous"
            self.losses.append(
                f"joint {joint.name!r} has no position limits; written as continuous"
            )
        elif kind != joint.type:
            self.losses.append(
                f"joint {joint.name!r}: URDF has no {joint.type} joint; written as {kind}"
            )
        element = etree.SubElement(root, "joint", name=joint.name, type=kind)
        _origin(element, joint.at.in_link(self.frames[joint.parent]))
        etree.SubElement(element, "parent", link=joint.parent)
        etree.SubElement(element, "child", link=joint.child)
        if not joint.has_axis:
            merge_vendor(element, joint.vendor)
            return
        etree.SubElement(element, "axis", xyz=numbers_text(joint.axis))
        self._limits(element, joint, kind)
        if joint.calibration is not None:
            given = joint.calibration.model_dump(exclude_none=True)
            values = {key: number_text(value) for key, value in given.items()}
            etree.SubElement(element, "calibration", attrib=values)
        if joint.damping or joint.friction:
            etree.SubElement(
                element,
                "dynamics",
                damping=number_text(joint.damping),
                friction=number_text(joint.friction),
            )
        soft = limits.soft
        if soft is not None:
            safety = etree.SubElement(
                element,
                "safety_controller",
                k_position=number_text(soft.position_gain),
                k_velocity=number_text(soft.velocity_gain),
            )
            for side, value in (("lower", soft.lower), ("upper", soft.upper)):
                if value is not None:
                    safety.set(f"soft_{side}_limit", number_text(value))
        if joint.stiffness or joint.rotor_inertia:
            self.losses.append(
                f"joint {joint.name!r}: URDF has no joint springs and no rotor inertia; left out"
            )
        coupling = self.robot.couplings.get(joint.name)
        if coupling is not None and coupling.also:
            self.losses.append(
                f"joint {joint.name!r} follows several joints, which URDF cannot say; it was "
                "written as if it followed none"
            )
        elif coupling is not None:
            etree.SubElement(
                element,
                "mimic",
                joint=coupling.follows,
                multiplier=number_text(coupling.ratio),
                offset=number_text(coupling.offset),
            )
        merge_vendor(element, joint.vendor)

    def _limits(self, element: etree._Element, joint: Joint, kind: str) -> None:
        limits = joint.limits
        if kind == "continuous" and limits.velocity is None and limits.effort is None:
            return
        limit = etree.SubElement(element, "limit")
        if joint.endless and (limits.lower, limits.upper) != (None, None):
            self.losses.append(
                f"joint {joint.name!r} is continuous; its position limits were left out"
            )
        if kind != "continuous":
            for side, value, far in (
                ("lower", limits.lower, -NO_LIMIT),
                ("upper", limits.upper, NO_LIMIT),
            ):
                if value is None:
                    self._made_up(joint, f"{side} limit", far)
                limit.set(side, number_text(far if value is None else value))
        for quantity, value in (("effort", limits.effort), ("velocity", limits.velocity)):
            if value is None:
                self._made_up(joint, f"{quantity} limit", NO_LIMIT)
            limit.set(quantity, number_text(NO_LIMIT if value is None else value))
        if limits.acceleration is not None:
            limit.set("acceleration", number_text(limits.acceleration))

    def _made_up(self, joint: Joint, what: str, value: float) -> None:
        self.losses.append(
            f"joint {joint.name!r} has no {what}, which URDF requires; written as {value:g}, "
            "which is read as none"
        )

    def _what_urdf_cannot_hold(self) -> None:
        robot = self.robot
        for kind in KINDS.values():
            names = [" with ".join(k) if isinstance(k, tuple) else k
                     for k in robot.section(kind.name)]  # fmt: skip
            if names and kind.name not in _WRITTEN:
                self.losses.append(f"URDF has no {kind.section}; left out: {', '.join(names)}")
        if robot.base == "floating":
            self.losses.append("URDF does not say how the root is held; that it floats is left out")


def _material(name: str, shape: PlacedShape) -> etree._Element:
    material = etree.Element("material", name=name)
    if shape.color is not None:
        rgb = (round(int(shape.color[k : k + 2], 16) / 255, 6) for k in (1, 3, 5))
        etree.SubElement(material, "color", rgba=numbers_text([*rgb, shape.opacity]))
    if shape.texture:
        etree.SubElement(material, "texture", filename=shape.texture)
    return material


def _same_look(one: PlacedShape, other: PlacedShape) -> bool:
    return (one.color, one.opacity, one.texture) == (other.color, other.opacity, other.texture)


def _inertial(link: etree._Element, inertia: Inertia) -> None:
    element = etree.SubElement(link, "inertial")
    etree.SubElement(element, "origin", xyz=numbers_text(inertia.centre))
    etree.SubElement(element, "mass", value=number_text(inertia.mass))
    t = inertia.tensor
    etree.SubElement(
        element,
        "inertia",
        ixx=number_text(t[0, 0]),
        ixy=number_text(t[0, 1]),
        ixz=number_text(t[0, 2]),
        iyy=number_text(t[1, 1]),
        iyz=number_text(t[1, 2]),
        izz=number_text(t[2, 2]),
    )


def _origin(element: etree._Element, place: Array) -> None:
    # Turning numbers into a matrix and back leaves dust in the last digits.
    rpy = rpy_from_rotation(place[:3, :3]).round(14)
    etree.SubElement(element, "origin", xyz=numbers_text(place[:3, 3]), rpy=numbers_text(rpy))


def _element(shape: Shape, meshes: MeshesBeside) -> tuple[str, dict[str, str]]:
    """What stands for a shape that URDF has, or for a mesh."""
    if shape.urdf is not None:
        word, sizes = shape.urdf
        return word, {key: numbers_text(np.atleast_1d(size)) for key, size in sizes.items()}
    file = shape.file
    if file is None or not file.path.is_file():
        return "mesh", {"filename": meshes.path(shape)}
    attributes = {"filename": file.address or meshes.beside(file.path)}
    if file.scale != (1.0, 1.0, 1.0):
        attributes["scale"] = numbers_text(file.scale)
    return "mesh", attributes
