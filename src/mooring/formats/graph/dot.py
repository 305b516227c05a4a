"""The tree as text for graph drawing programs (DOT)."""

from __future__ import annotations

import json
from pathlib import Path

from mooring.files import write_text
from mooring.formats.graph.words import LOST, joint_words, link_words
from mooring.model import Robot


def write_dot(robot: Robot, file: Path) -> list[str]:
    """Write the tree as DOT: links as nodes, joints as edges, what closes loops dashed.

    Returns:
        What the format cannot carry, a sentence each.

    Raises:
        UnsoundRobotError: the robot is no tree.
    """

    def text(value: str) -> str:
        return json.dumps(value, ensure_ascii=False)

    lines = [f"digraph {text(robot.name)} {{", "  node [shape=box];"]
    for name in robot.link_frames():
        label = text(f"{name}\n{link_words(robot, name)}")
        lines.append(f"  {text(name)} [label={label}];")
    for joint in robot.joints.values():
        label = text(f"{joint.name}\n{joint_words(joint)}")
        lines.append(f"  {text(joint.parent)} -> {text(joint.child)} [label={label}];")
    for closure in robot.closures.values():
        one, two = (text(end) for end in closure.between)
        label = text(f"{closure.name}\n{closure.kind}")
        lines.append(f"  {one} -> {two} [label={label}, style=dashed, dir=none];")
    write_text(file, "\n".join([*lines, "}"]) + "\n")
    return list(LOST)
