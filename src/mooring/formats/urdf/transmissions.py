"""The transmissions of URDF, which are motors here."""

from __future__ import annotations

from typing import Any

from lxml import etree

from mooring.errors import ModelError
from mooring.formats.urdf.told import Told
from mooring.model import Motor, Robot
from mooring.model.vendor import element_of

_CARRIED = ("name", "joint", "motion", "mode", "gear_ratio", "vendor")


def read_transmission(robot: Robot, told: Told, element: etree._Element) -> bool:
    """Read what drives a joint: a motor that is told its effort, for URDF gives no gains.

    Returns:
        Whether it could be read as one.
    """
    name = element.get("name") or "transmission"
    driven = [e.get("name", "?") for e in element.findall("joint")]
    actuators = [e.get("name") or name for e in element.findall("actuator")]
    if len(driven) != 1 or len(actuators) != 1:
        told.note(
            element,
            f"transmission {name!r} is kept, and not used: it drives "
            f"{', '.join(driven) or 'no joint'} by {', '.join(actuators) or 'no actuator'}, "
            "and a motor drives one joint",
        )
        return False
    texts = [e.text or "" for e in element.iter("mechanicalReduction")]
    entry: dict[str, Any] = {
        "joint": driven[0], "mode": "effort",
        "vendor": [etree.tostring(element, encoding="unicode", with_tail=False)],
    }  # fmt: skip
    try:
        ratio = abs(float(texts[0])) if texts and texts[0].strip() else 1.0
        robot.add("motor", actuators[0], entry | {"gear_ratio": ratio})
    except (ValueError, ModelError) as error:
        why = str(error) if isinstance(error, ModelError) else f"{texts[0]!r} is no number"
        told.note(
            element, f"transmission {name!r} is kept, and not used: {why}",
            code="value-unreadable", remedy="mend it, or take it away",
        )  # fmt: skip
        return False
    robot.places["motors", actuators[0]] = told.place(element)
    told.note(
        element,
        f"transmission {name!r} is read as motor {actuators[0]!r}, told its effort: URDF gives "
        "no gains",
    )
    return True


def transmission(motor: Motor, losses: list[str]) -> etree._Element:
    """A motor as a transmission: the one it was read from, or a new one.

    Args:
        motor: which.
        losses: what URDF cannot carry of it is added here.
    """
    lost = sorted(
        field
        for field in motor.model_fields_set
        if field not in _CARRIED
        and getattr(motor, field) != type(motor).model_fields[field].default
    )
    if not motor.control.open_loop:
        lost.insert(0, f"mode {motor.mode}")
    if lost:
        losses.append(f"motor {motor.name!r} is written as a transmission; lost: {', '.join(lost)}")
    element = element_of(motor.vendor[0]) if motor.vendor else _new(motor)
    for joint in element.findall("joint"):
        joint.set("name", motor.joint)
    for actuator in element.findall("actuator"):
        actuator.set("name", motor.name)
    reductions = list(element.iter("mechanicalReduction"))
    if reductions and abs(float(reductions[0].text or 1)) != motor.gear_ratio:
        reductions[0].text = f"{motor.gear_ratio:g}"
    return element


def _new(motor: Motor) -> etree._Element:
    element = etree.Element("transmission", name=f"{motor.name}_transmission")
    etree.SubElement(element, "joint", name=motor.joint)
    actuator = etree.SubElement(element, "actuator", name=motor.name)
    etree.SubElement(actuator, "mechanicalReduction").text = "1"
    return element
