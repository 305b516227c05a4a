"""What the CAD was when a document was drafted, kept in a file beside it."""

from __future__ import annotations

import json
from collections.abc import Sequence
from dataclasses import asdict, dataclass
from pathlib import Path
from typing import Any

import numpy as np

from mooring.cad import Assembly, Part
from mooring.cad.proposing import Proposal
from mooring.errors import InputError
from mooring.files import write_text
from mooring.geometry import Array

_VERSION = 1


@dataclass(frozen=True)
class PartPrint:
    """What tells a part from others, whatever it is called.

    Attributes:
        name: in its assembly.
        volume: [m^3].
        centre: of volume, in CAD coordinates, (3,) [m].
        inertia: about it, of unit density, in CAD axes, (3, 3) as nine numbers [m^5].
        size: diagonal of its box [m].
    """

    name: str
    volume: float
    centre: tuple[float, ...]
    inertia: tuple[float, ...]
    size: float

    @property
    def moments(self) -> Array:
        """The principal moments, which do not change with its place, (3,) [m^5]."""
        return np.asarray(np.linalg.eigvalsh(np.reshape(self.inertia, (3, 3))))


@dataclass(frozen=True)
class JointPrint:
    """A joint as it was drafted.

    Attributes:
        name: in the document.
        origin, axis: in CAD coordinates, (3,) [m].
        travel: the ends of its travel [rad or m].
    """

    name: str
    origin: tuple[float, ...]
    axis: tuple[float, ...]
    travel: tuple[float, float]


@dataclass(frozen=True)
class Remembered:
    """The parts and joints of a draft."""

    parts: tuple[PartPrint, ...]
    joints: tuple[JointPrint, ...]


def print_of(part: Part) -> PartPrint:
    """A part's print; closed or not, its triangles and solids give the same."""
    solid = part.solid
    return PartPrint(
        part.name,
        float(solid.volume),
        tuple(map(float, solid.centroid)),
        tuple(map(float, solid.inertia.ravel())),
        float(np.linalg.norm(np.ptp(part.vertices, axis=0))),
    )


def file_beside(document: Path) -> Path:
    """Where it is kept."""
    return document.with_suffix(".drafted.json")


def remember(document: Path, assembly: Assembly, proposal: Proposal) -> None:
    """Keep what was drafted into a document."""
    joints = [
        JointPrint(j.name, tuple(map(float, j.origin)), tuple(map(float, j.axis)), j.travel)
        for j in proposal.joints
    ]
    write_text(file_beside(document), _text([print_of(p) for p in assembly.parts], joints))


def recall(document: Path) -> Remembered | None:
    """What was kept; None where nothing was.

    Raises:
        InputError: the file is damaged.
    """
    file = file_beside(document)
    if not file.is_file():
        return None
    try:
        told: dict[str, Any] = json.loads(file.read_text(encoding="utf-8"))
        if told["version"] != _VERSION:
            raise ValueError(f"version {told['version']}")
        return Remembered(
            tuple(PartPrint(**entry) for entry in told["parts"]),
            tuple(JointPrint(**entry) for entry in told["joints"]),
        )
    except (OSError, ValueError, KeyError, TypeError) as error:
        raise InputError(f"{file}: cannot be read ({error}); delete it to go by names") from None


def _text(parts: Sequence[PartPrint], joints: Sequence[JointPrint]) -> str:
    """A part a line, so that versions of it can be compared."""

    def lines(items: Sequence[Any]) -> str:
        return ",\n".join(f"  {json.dumps(asdict(item), ensure_ascii=False)}" for item in items)

    return (
        f'{{"version": {_VERSION},\n"parts": [\n{lines(parts)}\n],\n'
        f'"joints": [\n{lines(joints)}\n]}}\n'
    )
