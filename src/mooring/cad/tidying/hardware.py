"""Finding screws, nuts, washers and pins, with the reason for each."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from mooring.cad.part import Part
from mooring.cad.surfaces import FULL_ENOUGH, coaxial
from mooring.units import show

_NAME = re.compile(
    r"(?<![a-z])(bolt|screw|nut|washer|rivet|circlip|stud|dowel|din|iso)(?![a-z])|socket_?head|"
    r"hex_?(bolt|nut|screw)|(?<![a-z])m\d{1,2}x\d",
    re.IGNORECASE,
)
_SMALL = 0.08
"""Share of the assembly's size below which a part is small."""
_NOT_LARGE = 0.25
"""The same where name, number and shape all speak for hardware."""
_REPEATED = 3
_LONGEST = 0.25
"""[m]; no bolt of a robot is longer."""


@dataclass(frozen=True, eq=False)
class Hardware:
    """A kind of part that looks like hardware.

    Attributes:
        name: of the product.
        parts: its copies.
        reasons: why it is taken for hardware, in words.
    """

    name: str
    parts: tuple[Part, ...]
    reasons: tuple[str, ...]


def find_hardware(kinds: Sequence[Sequence[Part]], size: float) -> list[Hardware]:
    """The kinds of parts that look like hardware.

    A kind is hardware when it is small and at least two of these hold: its name says so, there are
    several copies, it has the shape of a screw, a nut or a washer. Where all three hold it need not
    be so small.

    Args:
        kinds: the parts grouped by shared geometry.
        size: of the whole assembly [m].
    """
    found = []
    for copies in kinds:
        part = copies[0]
        longest = float(part.size.max())
        if longest > min(_LONGEST, _NOT_LARGE * size):
            continue
        reasons = []
        match = _NAME.search(part.geometry.name) or _NAME.search(part.name)
        if match:
            reasons.append(f"its name says {match[0]!r}")
        if len(copies) >= _REPEATED:
            reasons.append(f"{len(copies)} copies")
        shape = _shape_of(part)
        if shape:
            reasons.append(shape)
        if len(reasons) >= (2 if longest <= _SMALL * size else 3):
            reasons.insert(0, f"small, {show(longest, 'length', 3)}")
            name = part.geometry.name or part.name
            found.append(Hardware(name, tuple(copies), tuple(reasons)))
    return found


def _shape_of(part: Part) -> str | None:
    """What a part looks like to someone who sorts hardware."""
    rounds = [c for c in part.geometry.cylinders if c.coverage >= FULL_ENOUGH]
    pins = [c for c in rounds if c.kind == "pin"]
    bores = [c for c in rounds if c.kind == "bore"]
    size = np.sort(part.size)
    across = float(size[1])
    if len(bores) == 1 and size[0] < 0.5 * across and float(size[2] - size[1]) < 0.4 * across:
        ring = any(coaxial(bores[0], pin) for pin in pins)
        return "shaped like a washer" if ring else "shaped like a nut"
    if len(pins) == 1 and not bores:
        pin = pins[0]
        head = float(size[2]) - pin.length
        # A shank, and a head wider than it at one end.
        wider = float(size[1]) > 2.4 * pin.radius
        if wider and 0.3 * pin.radius < head < 6 * pin.radius:
            return "shaped like a screw"
    if len(pins) == 2 and not bores and coaxial(pins[0], pins[1]):
        thinner, thicker = sorted(pins, key=lambda pin: pin.radius)
        if thicker.radius > 1.3 * thinner.radius and thinner.length > thicker.length:
            return "shaped like a screw"
    return None
