"""What each mesh format says, or does not say, about units and which way is up."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from pathlib import Path

import numpy as np

from mooring.errors import InputError
from mooring.geometry import Array, placement, rotation_about
from mooring.units import to_si

UNITLESS = (".stl", ".obj", ".ply", ".off")

# By the 3MF Core Specification 1.3, section 3.4.
_3MF_UNITS = {
    "micron": 1e-6,
    "millimeter": 1e-3,
    "millimeters": 1e-3,
    "centimeter": 1e-2,
    "inch": 0.0254,
    "foot": 0.3048,
    "meter": 1.0,
}
_Y_UP = placement(rotation=rotation_about((1, 0, 0), math.pi / 2).round(12))
_X_UP = placement(rotation=rotation_about((0, 1, 0), -math.pi / 2).round(12))


@dataclass(frozen=True)
class Convention:
    """How the numbers of one file are to be taken.

    Attributes:
        scale: the length of the file's number 1 [m].
        turn: from the file's axes to ours, z up, (4, 4).
        notes: what was assumed or changed.
    """

    scale: float
    turn: Array
    notes: tuple[str, ...] = ()


def convention_of(file: Path, suffix: str, unit: str | None, stated: str | None) -> Convention:
    """The convention of a file.

    Args:
        file: which file.
        suffix: its format.
        unit: what the user says, which goes before what the file says.
        stated: the unit that a 3MF file states.

    Raises:
        InputError: the unit is no length.
    """
    said = None if unit is None else to_si(f"1 {unit}", "length")
    if suffix in UNITLESS:
        return Convention(1.0 if said is None else said, np.eye(4))
    own = _own_convention(file, suffix, stated)
    if said is None or said == own.scale:
        return own
    words = f"{own.scale:g} m" if own.scale != 1 else "metres"
    note = f"the file says its unit is {words}; {unit} taken, as asked"
    return replace(own, scale=said, notes=(*own.notes, note))


def _own_convention(file: Path, suffix: str, stated: str | None) -> Convention:
    if suffix in (".glb", ".gltf"):
        return Convention(1.0, _Y_UP, ("glTF has y up; turned so that z is up",))
    if suffix == ".3mf":
        if stated not in _3MF_UNITS:
            raise InputError(f"{file}: the unit {stated!r} is none of 3MF's")
        return Convention(_3MF_UNITS[stated], np.eye(4))
    return _collada(file)


def _collada(file: Path) -> Convention:
    from lxml import etree

    parser = etree.XMLParser(resolve_entities=False, no_network=True, load_dtd=False, recover=True)
    root = etree.parse(str(file), parser).getroot()
    scale, turn = 1.0, np.eye(4)
    notes: tuple[str, ...] = ()
    if root is None:
        return Convention(scale, turn)
    unit = root.find("{*}asset/{*}unit")
    if unit is not None and unit.get("meter"):
        written = unit.get("meter", "1")
        try:
            # Some exporters write numbers as their user's country does.
            scale = float(written.replace(",", "."))
        except ValueError:
            scale = math.nan
        if not (math.isfinite(scale) and scale > 0):
            raise InputError(f"{file}: the unit of {written!r} metres makes no sense")
        if "," in written:
            notes = (f"its unit of {written} metres is written with a comma; taken as {scale:g}",)
    up = root.find("{*}asset/{*}up_axis")
    axis = "Y_UP" if up is None or not up.text else up.text.strip().upper()
    if axis == "Y_UP":
        # The specification's default, also where the file is silent.
        turn, notes = _Y_UP, (*notes, "the file has y up; turned so that z is up")
    elif axis == "X_UP":
        turn, notes = _X_UP, (*notes, "the file has x up; turned so that z is up")
    return Convention(scale, turn, notes)
