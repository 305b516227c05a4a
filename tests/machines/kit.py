"""What the machines are made with: lengths in millimetres."""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import dataclass, field
from itertools import pairwise
from pathlib import Path
from typing import Any

import numpy as np

from mooring.demo.modelling import box, cut, cylinder, fuse, prism
from mooring.demo.step_writer import Group, Product, write_step

STEEL = ("steel", 7850.0)
BRASS = ("brass", 8500.0)


@dataclass
class Item:
    """A part: links it may belong to (`"arm|fork"` where nobody can tell), and its place."""

    name: str
    product: Product
    link: str
    at: tuple[float, float, float]
    turn: tuple[str, float] | None


@dataclass
class TrueJoint:
    """What a person sees who looks at the machine."""

    kind: str
    point: tuple[float, float, float]
    axis: tuple[float, float, float]
    links: tuple[str, str]


@dataclass
class Machine:
    """A machine and the truth about it."""

    name: str
    items: list[Item] = field(default_factory=list)
    joints: list[TrueJoint] = field(default_factory=list)

    def part(
        self,
        link: str,
        name: str,
        solid: Any,
        *places: tuple[float, float, float],
        turn: tuple[str, float] | None = None,
        made_of: tuple[str, float] | None = STEEL,
    ) -> Machine:
        """Add a part to a link, once or at several places."""
        material, density = made_of or ("", 0.0)
        product = Product(name, solid, "#8090a0", material, density)
        for number, at in enumerate(places or ((0, 0, 0),), start=1):
            own = name if len(places) < 2 else f"{name}_{number}"
            self.items.append(Item(own, product, link, at, turn))
        return self

    def joint(self, kind: str, point: Any, axis: str, one: str, other: str) -> Machine:
        """Add a true joint; the axis is x, y or z, or three numbers."""
        way = {"x": (1.0, 0, 0), "y": (0, 1.0, 0), "z": (0, 0, 1.0)}.get(axis, axis)
        self.joints.append(TrueJoint(kind, tuple(point), way, (one, other)))  # type: ignore[arg-type]
        return self

    def sorted_by(self, how: str) -> dict[str, list[Item]]:
        """The parts by sub-assembly: `links` (one a link), `flat`, `one` or `odd`."""
        groups: dict[str, list[Item]] = {}
        for number, item in enumerate(self.items):
            label = {
                "links": item.link.split("|")[0],
                "flat": "",
                "one": "everything",
                "odd": f"drawer_{number % 3}",
            }[how]
            groups.setdefault(label, []).append(item)
        return groups

    def in_file(self, how: str) -> list[Item]:
        """The parts in the order in which the file has them."""
        return [item for group in self.sorted_by(how).values() for item in group]

    def tree(self, how: str) -> Group:
        """As a CAD tree."""
        root = Group(self.name)
        for label, items in self.sorted_by(how).items():
            group = root
            if label:
                group = Group(label)
                root.place(group)
            for item in items:
                group.place(item.product, item.at, item.turn, item.name)
        return root

    def write(self, folder: Path, how: str = "links") -> Path:
        """As a STEP file."""
        file = folder / f"{self.name}_{how}.step"
        write_step(self.tree(how), file)
        return file


def rod(along: str, span: tuple[float, float], d: float, at: Any = (0, 0, 0)) -> Any:
    return cylinder(along, span, d, at)


def bar(
    ends: Iterable[tuple[float, float]], z: tuple[float, float], width: float, hole: float
) -> Any:
    """A flat bar through points of the x, y plane, with a hole at each."""
    points = list(ends)
    pieces = []
    for (ax, ay), (bx, by) in pairwise(points):
        along = np.array([bx - ax, by - ay]) / math.dist((ax, ay), (bx, by))
        side = np.array([-along[1], along[0]]) * width / 2
        start, end = np.array([ax, ay]), np.array([bx, by])
        corners = [start + side, end + side, end - side, start - side]
        outline = [(float(x), float(y), z[0]) for x, y in corners]
        pieces.append(prism(outline, (0, 0, z[1] - z[0])))
    eyes = [rod("z", z, width, (x, y, 0)) for x, y in points]
    holes = [rod("z", (z[0] - 1, z[1] + 1), hole, (x, y, 0)) for x, y in points]
    return cut(fuse(*pieces, *eyes), *holes)


def headed_pin(z: tuple[float, float], d: float) -> Any:
    """Along z from its origin, with a head under z[0]."""
    return fuse(rod("z", z, d), rod("z", (z[0] - 0.4 * d, z[0]), 1.6 * d))


def tube(
    along: str, span: tuple[float, float], outer: float, inner: float, at: Any = (0, 0, 0)
) -> Any:
    return cut(rod(along, span, outer, at), rod(along, (span[0] - 1, span[1] + 1), inner, at))


def gear(teeth: int, module: float, z: tuple[float, float], hole: float, phase: float = 0) -> Any:
    """Straight-flanked teeth of the usual height, with some backlash."""
    pitch = module * teeth / 2
    outline = []
    for k in range(teeth):
        for share, height in ((-0.36, -1.2), (-0.15, 0.95), (0.15, 0.95), (0.36, -1.2)):
            angle = 2 * math.pi * (k + share + phase) / teeth
            r = pitch + height * module
            outline.append((r * math.cos(angle), r * math.sin(angle), z[0]))
    blank = prism(outline, (0, 0, z[1] - z[0]))
    return cut(blank, rod("z", (z[0] - 1, z[1] + 1), hole)) if hole else blank


def screw(thread: float, length: float) -> Any:
    """A socket-head cap screw: under its head at z = 0, the shank down."""
    corners = [
        (
            0.45 * thread * math.cos(k * math.pi / 3),
            0.45 * thread * math.sin(k * math.pi / 3),
            thread / 2,
        )
        for k in range(6)
    ]
    head = cut(rod("z", (0, thread), 1.5 * thread), prism(corners, (0, 0, thread)))
    return fuse(head, rod("z", (-length, 0), thread))


__all__ = [
    "BRASS",
    "STEEL",
    "Machine",
    "bar",
    "box",
    "cut",
    "fuse",
    "gear",
    "headed_pin",
    "prism",
    "rod",
    "screw",
    "tube",
]
