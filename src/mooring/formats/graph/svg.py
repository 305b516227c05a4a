"""The tree as a drawing (SVG): the root to the left, every branch to its right."""

from __future__ import annotations

from pathlib import Path

from lxml import etree

from mooring.files import write_whole
from mooring.formats.graph.words import LOST, joint_words, link_words
from mooring.model import Robot
from mooring.model.structure import roots

_BOX = (170, 40)
_STEP = (375, 62)
_MARGIN = 24
_INK, _EDGE, _LOOP, _FILL = "#1f2a33", "#5c6972", "#7a4fa3", "#eef2f4"


def write_svg(robot: Robot, file: Path) -> list[str]:
    """Draw the tree: links as boxes, joints on the lines between, what closes loops dashed.

    Returns:
        What the format cannot carry, a sentence each.

    Raises:
        UnsoundRobotError: the robot is no tree.
    """
    robot.link_frames()  # refuses what is no tree
    places, rows = _lay_out(robot)
    depth = max(x for x, _ in places.values())
    width = 2 * _MARGIN + _BOX[0] + depth * _STEP[0]
    height = 2 * _MARGIN + (rows - 1) * _STEP[1] + _BOX[1] + 16
    svg = etree.Element(
        "svg",
        xmlns="http://www.w3.org/2000/svg",
        viewBox=f"0 0 {width:g} {height:g}",
        width=f"{width:g}",
        height=f"{height:g}",
    )
    svg.set("font-family", "sans-serif")
    etree.SubElement(svg, "title").text = robot.name
    etree.SubElement(svg, "rect", width="100%", height="100%", fill="white")
    at = {name: (_MARGIN + x * _STEP[0], _MARGIN + y * _STEP[1]) for name, (x, y) in places.items()}
    for joint in robot.joints.values():
        (x, y), (u, v) = at[joint.parent], at[joint.child]
        start, end = (x + _BOX[0], y + _BOX[1] / 2), (u, v + _BOX[1] / 2)
        bend = start[0] + 18
        path = f"M {start[0]} {start[1]} H {bend} V {end[1]} H {end[0]}"
        _line(svg, path, _EDGE, False)
        _text(svg, bend + 8, end[1] - 5, joint.name, 12, _INK)
        _text(svg, bend + 8, end[1] + 13, joint_words(joint), 10.5, _EDGE)
    for closure in robot.closures.values():
        (x, y), (u, v) = (at[end] for end in closure.between)
        # Along the free space before the next column, so that no box is crossed.
        left, right, gap = x + _BOX[0] - 24, u + _BOX[0] / 2, x + _STEP[0] - 12
        low = v + _BOX[1] + 9
        path = f"M {left} {y + _BOX[1]} v 9 H {gap} V {low} H {right} V {v + _BOX[1]}"
        _line(svg, path, _LOOP, True)
        label = f"{closure.name}, {closure.kind}"
        _text(svg, min(gap, right) + 4, low + 12, label, 10.5, _LOOP)
    for name, (x, y) in at.items():
        box = etree.SubElement(svg, "rect", x=f"{x:g}", y=f"{y:g}", rx="5", fill=_FILL)
        box.set("width", str(_BOX[0]))
        box.set("height", str(_BOX[1]))
        box.set("stroke", _INK)
        _text(svg, x + 10, y + 17, name, 13, _INK)
        _text(svg, x + 10, y + 32, link_words(robot, name), 10.5, _EDGE)
    etree.indent(svg)
    with write_whole(file) as stream:
        stream.write(etree.tostring(svg, xml_declaration=True, encoding="utf-8"))
    return list(LOST)


def _lay_out(robot: Robot) -> tuple[dict[str, tuple[float, float]], float]:
    """Where each link goes: its depth, and its row; and how many rows there are."""
    below: dict[str, list[str]] = {name: [] for name in robot.links}
    for joint in robot.joints.values():
        below[joint.parent].append(joint.child)
    places: dict[str, tuple[float, float]] = {}
    free = 0.0
    waiting = [(roots(robot)[0], 0)]
    while waiting:
        link, depth = waiting.pop()
        # The first on a branch goes on in its row, the others come below all of it.
        places[link] = (depth, free)
        waiting += [(child, depth + 1) for child in reversed(below[link])]
        free += not below[link]
    return places, free


def _line(svg: etree._Element, path: str, color: str, dashed: bool) -> None:
    line = etree.SubElement(svg, "path", d=path, fill="none", stroke=color)
    line.set("stroke-width", "1.4")
    if dashed:
        line.set("stroke-dasharray", "5 4")


def _text(svg: etree._Element, x: float, y: float, words: str, size: float, color: str) -> None:
    text = etree.SubElement(svg, "text", x=f"{x:g}", y=f"{y:g}", fill=color)
    text.set("font-size", f"{size:g}")
    text.text = words
