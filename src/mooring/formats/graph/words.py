"""What is written on the nodes and edges of a drawn tree."""

from __future__ import annotations

from mooring.model import Joint, Robot
from mooring.units import show


def link_words(robot: Robot, name: str) -> str:
    """A link's mass, or that it has none."""
    inertia = robot.inertia(name)
    return "no mass" if inertia is None else show(inertia.mass, "mass")


def joint_words(joint: Joint) -> str:
    """A joint's type and travel."""
    limits = joint.limits
    if limits.lower is None or limits.upper is None or joint.endless:
        return joint.type
    kind = "angle" if joint.motion == "rotation" else "length"
    return f"{joint.type}, {show(limits.lower, kind, 3)} .. {show(limits.upper, kind, 3)}"


LOST = ["a drawing of the tree holds no geometry, places, axes or inertias"]
