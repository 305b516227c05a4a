"""The physical dimensions that Mooring's quantities have."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Dimension:
    """What a quantity measures.

    Attributes:
        name: the word used in messages.
        si: the unit a plain number is taken to be in.
        example: a string a user might write.
    """

    name: str
    si: str
    example: str


DIMENSIONS: dict[str, Dimension] = {
    dimension.name: dimension
    for dimension in (
        Dimension("length", "m", "25 mm"),
        Dimension("angle", "rad", "-90 deg"),
        Dimension("time", "s", "250 ms"),
        Dimension("mass", "kg", "4.2 kg"),
        Dimension("density", "kg/m^3", "7850 kg/m^3"),
        Dimension("velocity", "m/s", "120 mm/s"),
        Dimension("angular velocity", "rad/s", "12 deg/s"),
        Dimension("acceleration", "m/s^2", "9.81 m/s^2"),
        Dimension("force", "N", "6 kN"),
        Dimension("torque", "N*m", "6 kN*m"),
        Dimension("linear stiffness", "N/m", "9 kN/m"),
        Dimension("angular stiffness", "N*m/rad", "9 kN*m/rad"),
        Dimension("linear damping", "N*s/m", "900 N*s/m"),
        Dimension("angular damping", "N*m*s/rad", "900 N*m*s/rad"),
        Dimension("moment of inertia", "kg*m^2", "0.02 kg*m^2"),
        Dimension("angular acceleration", "rad/s^2", "200 deg/s^2"),
        Dimension("voltage", "V", "48 V"),
        Dimension("current", "A", "600 mA"),
        Dimension("resistance", "ohm", "0.3 ohm"),
        Dimension("torque constant", "N*m/A", "60 mN*m/A"),
        Dimension("power", "W", "2 kW"),
        Dimension("frequency", "Hz", "200 Hz"),
        Dimension("number", "", "0.5"),
    )
}
