"""Motors that sit on the axes of joints."""

from __future__ import annotations

import re
from collections.abc import Iterable

from mooring.cad.part import Part
from mooring.cad.proposing.proposal import ProposedJoint
from mooring.cad.surfaces import FULL_ENOUGH
from mooring.cad.touching.lines import Axial, Line, same_axis

_WORDS = re.compile(
    r"(?<![a-z])((gear_?|servo_?|step(per)?_?|bldc_?|getriebe_?|elektro_?|schritt_?)?moto(r|re|ren|rs)"
    r"|servo|stepper|actuator|aktor|antrieb|moteur|actionneur|servomot(or|eur|ore)|attuatore|"
    r"actuador|nema_?\d+|bldc)(?![a-z])|电机|马达|伺服|電機|モータ|サーボ",
    re.IGNORECASE,
)

_NO_MOTOR = re.compile(
    r"bracket|mount|holder|horn|plate|flange|cover|shaft|support|coupling|screw|bolt|cable|"
    r"halter|platte|träger|deckel|welle|flansch|kabel|schraube|bride|vis|soporte|supporto|piastra",
    re.IGNORECASE,
)
"""What belongs to a motor and is named after it."""


def motors_on(
    joints: Iterable[ProposedJoint], parts: Iterable[Part]
) -> tuple[tuple[str, str], ...]:
    """Pairs of a joint and a part that is named a motor and round about the joint's axis.

    Args:
        joints: that were proposed.
        parts: of the assembly.
    """
    named = [part for part in parts if _is_motor(re.sub(r"[ -]", "_", part.name))]
    found = []
    for joint in joints:
        if joint.closes or joint.kind in ("fixed", "spherical"):
            continue
        line = Line(joint.origin, joint.axis)
        for part in named:
            if any(same_axis(line, axis) for axis in _axes(part)):
                found.append((joint.name, part.name))
                break
    return tuple(found)


def _is_motor(name: str) -> bool:
    return bool(_WORDS.search(name)) and not _NO_MOTOR.search(name)


def _axes(part: Part) -> list[Axial]:
    faces = [face for face in part.cylinders if face.coverage >= FULL_ENOUGH]
    return [Line(face.centre, face.direction) for face in faces]
