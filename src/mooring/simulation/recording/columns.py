"""What the columns of a run's tables hold, each with its unit.

A table has the units in `table.attrs["units"]`, by column, and its index's, too; in Parquet files
each field has its own in its metadata.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping
from typing import TYPE_CHECKING

from mooring.model.motor_modes import MOTOR_MODES

if TYPE_CHECKING:
    import pandas as pd

UNITS = "units"
ENERGIES = {
    "kinetic": "kinetic energy",
    "potential": "potential energy, with that of springs",
    "motors": "given by motors so far",
    "damping": "lost to damping and drag so far",
    "friction": "lost to dry friction in joints so far",
    "contact": "lost in contacts and at stops so far",
    "pushes": "given by pushes, rotors and buoyancy so far",
}
CONTACTS = {
    "time": "s", "first": "", "second": "", "x": "m", "y": "m", "z": "m", "fx": "N", "fy": "N",
    "fz": "N", "gap": "m",
}  # fmt: skip
"""Of contacts: when, between which links, where, with which force on the second, how far apart."""


def meaning(column: str, joints: Mapping[str, str], modes: Mapping[str, str]) -> str:
    """What a column of a recording holds, with its unit in brackets at the end.

    Args:
        column: its name.
        joints: the unit of each moving joint's position, rad or m.
        modes: how each motor's joint is driven.
    """
    name, _, end = column.rpartition(".")
    if column == "loops.gap":
        return "how far the worst coupling or closure is open [m or rad]"
    if name == "energy":
        return f"{ENERGIES[end]} [J]"
    if name in joints:
        unit = joints[name]
        effort = "N m" if unit == "rad" else "N"
        goal = (
            f"how fast the motor of {name} is to go [{unit}/s]"
            if name in modes and MOTOR_MODES[modes[name]].tracks_velocity
            else f"where the motor of {name} is to go [{unit}]"
        )
        return {
            "position": f"position of {name} [{unit}]",
            "velocity": f"velocity of {name} [{unit}/s]",
            "target": goal,
            "effort": f"effort of the motor of {name} [{effort}]",
            "integral": f"integral of the position error of {name} [{unit} s]",
        }[end]
    unit = {"x": "m", "y": "m", "z": "m"}.get(end) or (
        "rad/s" if end.startswith("w") else "m/s" if end.startswith("v") else "1"
    )
    kind = {"rad/s": "angular velocity", "m/s": "velocity", "m": "place"}.get(
        unit, "part of the quaternion"
    )
    return f"{kind} of what floats by {name}, {end} [{unit}]"


def unit_in(words: str) -> str:
    """The unit at the end of a column's meaning; of what has none "1"."""
    found = re.search(r"\[([^\]]*)\]$", words)
    return found[1] if found else "1"


def units_of(
    columns: Iterable[str], joints: Mapping[str, str], modes: Mapping[str, str]
) -> dict[str, str]:
    """The units of a recording's columns, by name."""
    return {name: unit_in(meaning(name, joints, modes)) for name in columns}


def in_units(table: pd.DataFrame, units: Mapping[str, str]) -> pd.DataFrame:
    """A table that knows its units; the same object."""
    table.attrs[UNITS] = dict(units)
    return table
