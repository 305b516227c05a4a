"""What the CAD was when a document was drafted, kept in a file beside it."""

from __future__ import annotations

import json
from collections.abc import Sequence
from dataclasses import asdict, dataclass, replace
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
        kind, reason, confidence, alternatives: as they were proposed.
        accepted: whether somebody has looked at it and said that it is right.
    """

    name: str
    origin: tuple[float, ...]
    axis: tuple[float, ...]
    travel: tuple[float, float]
    kind: str = ""
    reason: str = ""
    confidence: str = ""
    alternatives: tuple[str, ...] = ()
    accepted: bool = False


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
    """Keep what was drafted into a document, and of what was accepted that it was."""
    try:
        before = recall(document)
    except InputError:
        before = None
    accepted = set() if before is None else {j.name for j in before.joints if j.accepted}
    joints = [
        JointPrint(
            joint.name,
            tuple(map(float, joint.origin)),
            tuple(map(float, joint.axis)),
            joint.travel,
            joint.kind,
            joint.reason,
            joint.confidence,
            joint.alternatives,
            joint.name in accepted,
        )
        for joint in proposal.joints
    ]
    _write(document, [print_of(p) for p in assembly.parts], joints)


def accept(document: Path, joint: str, accepted: bool) -> None:
    """Keep that a joint was looked at.

    Raises:
        InputError: nothing is kept beside the document, or no such joint.
    """
    kept = recall(document)
    if kept is None or joint not in {one.name for one in kept.joints}:
        raise InputError(f"{joint!r} was not drafted into {document.name}")
    joints = [replace(j, accepted=accepted) if j.name == joint else j for j in kept.joints]
    _write(document, kept.parts, joints)


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


def _write(document: Path, parts: Sequence[PartPrint], joints: Sequence[JointPrint]) -> None:
    """A part a line, so that versions of it can be compared."""

    def lines(items: Sequence[Any]) -> str:
        return ",\n".join(f"  {json.dumps(asdict(item), ensure_ascii=False)}" for item in items)

    text = (
        f'{{"version": {_VERSION},\n"parts": [\n{lines(parts)}\n],\n'
        f'"joints": [\n{lines(joints)}\n]}}\n'
    )
    write_text(file_beside(document), text)
