"""Motors as the transmissions of URDF."""

from __future__ import annotations

from lxml import etree

from mooring.model import Motor
from mooring.model.vendor import element_of

_CARRIED = ("name", "joint", "motion", "mode", "gear_ratio", "vendor")


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
    if motor.mode != "effort":
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
