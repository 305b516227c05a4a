"""What is known of a link or a joint, in rows of words."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np

from mooring.errors import Place
from mooring.geometry import rpy_from_rotation
from mooring.model import Robot
from mooring.model.definition.fields import dimension_of
from mooring.model.joint import Joint
from mooring.units import show

_DUST = 1e-9
"""Smaller is zero [m or rad]."""


@dataclass(frozen=True)
class Row:
    """A name and what stands beside it.

    Attributes:
        name: in words.
        value: in words.
        path: of the value in the document, if it could be changed there.
        dimension: of what is changed; empty where it has none.
    """

    name: str
    value: str
    path: tuple[str, ...] = ()
    dimension: str = ""


def link_rows(robot: Robot, name: str) -> list[Row]:
    """A link: its mass and where that comes from, its parts and shapes."""
    link = robot.links[name]
    found = robot.inertia(name)
    rows = []
    if found is None:
        rows.append(Row("mass", "not known", ("links", name, "mass"), "mass"))
    else:
        mass = show(found.mass, "mass")
        rows.append(Row("mass", mass, ("links", name, "mass"), "mass"))
        detail = f"{found.source}: {found.detail}" if found.detail else found.source
        rows.append(Row("its source", detail))
        rows.append(Row("centre of mass", _three(found.centre, "length")))
        moments = np.linalg.eigvalsh(found.tensor)
        text = ", ".join(f"{v:.4g}" for v in moments)
        rows.append(Row("main inertias", f"{text} kg m^2"))
    rows.append(Row("material", link.material or "none", ("links", name, "material")))
    looks = link.shown(robot.materials)
    rows.append(Row("shapes to see", f"{len(looks)}"))
    if link.parts:
        names = [part.name for part in link.parts]
        more = f" and {len(names) - 4} more" if len(names) > 4 else ""
        rows.append(Row("parts", ", ".join(names[:4]) + more))
    kinds = [type(shape.shape).__name__.lower() for shape in link.collisions]
    rows.append(Row("collision shapes", ", ".join(kinds) or "none"))
    sensors = [s.name for s in robot.sensors.values() if getattr(s, "link", None) == name]
    if sensors:
        rows.append(Row("sensors", ", ".join(sensors)))
    for frame in robot.frames.values():
        if frame.link == name:
            at = _three(frame.at.matrix[:3, 3], "length")
            rows.append(Row(f"frame {frame.name}", at, ("frames", frame.name, "xyz"), "length"))
            rows.append(Row("placed by", "", ("frames", frame.name, "at")))
    rows.append(Row("written in", _where(robot.place(("links", name)))))
    return rows


def joint_rows(robot: Robot, name: str) -> list[Row]:
    """A joint: its type, axis, limits and motor."""
    joint = robot.joints[name]
    rows = [
        Row("type", joint.type),
        Row("between", f"{joint.parent} and {joint.child}"),
    ]
    if joint.has_axis:
        axis = ", ".join(f"{v:.4g}" for v in joint.axis)
        sense = "turns by the right hand about" if joint.motion == "rotation" else "slides along"
        rows.append(Row("axis", axis, ("joints", name, "axis")))
        rows.append(Row("", f"{sense} the arrow in the view"))
        rows += _limits(joint)
    measured = "the CAD" if joint.at.relative_to == "cad" else joint.parent
    rows.append(Row("placed in", measured))
    rows.append(Row("placed by", "", ("joints", name, "at")))
    xyz = _three(joint.at.matrix[:3, 3], "length")
    rpy = _three(rpy_from_rotation(joint.at.matrix[:3, :3]), "angle")
    rows.append(Row("xyz", xyz, ("joints", name, "at", "xyz"), "length"))
    rows.append(Row("rpy", rpy, ("joints", name, "at", "rpy"), "angle"))
    for motor in robot.motors.values():
        if motor.joint == name:
            rows.append(Row("motor", f"{motor.name}, by {motor.mode}"))
            rows += [
                Row(f"its {key}", f"{getattr(motor, key):.6g}", ("motors", motor.name, key))
                for key in ("p", "i", "d")
                if getattr(motor, key)
            ]
    coupling = robot.couplings.get(name)
    if coupling is not None:
        rows.append(Row("follows", str(coupling)))
    rows.append(Row("written in", _where(robot.place(("joints", name)))))
    return rows


def _limits(joint: Joint) -> list[Row]:
    rows = []
    quantities = {"lower": "position", "upper": "position", "velocity": "velocity",
                  "effort": "effort"}  # fmt: skip
    for key, quantity in quantities.items():
        value = getattr(joint.limits, key)
        dimension = dimension_of(quantity, joint.motion)
        text = "none" if value is None else show(value, dimension, 6)
        rows.append(Row(key, text, ("joints", joint.name, "limits", key), dimension))
    for key in ("damping", "friction"):
        dimension = dimension_of("damping" if key == "damping" else "effort", joint.motion)
        text = show(getattr(joint, key), dimension, 6)
        rows.append(Row(key, text, ("joints", joint.name, key), dimension))
    return rows


def _three(values: Iterable[float], dimension: str) -> str:
    """Three quantities, without the dust that arithmetic leaves."""
    return ", ".join(show(v if abs(v) > _DUST else 0.0, dimension, 6) for v in values)


def _where(place: Place | None) -> str:
    return "no file" if place is None else f"{place.file.name}, line {place.line}"
