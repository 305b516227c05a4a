"""Values that a user gives, read with their units."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from mooring.cad import Axis
from mooring.model.inertia import Inertia
from mooring.model.joint import Joint
from mooring.model.validation import EntryError, define
from mooring.units import to_si


def read_value(what: str, key: str, value: object, dimension: str) -> float:
    try:
        return to_si(value, dimension)
    except ValueError as error:
        raise EntryError(what, [((key,), str(error))]) from None


def axis_on(what: str, found: Axis, wanted: object) -> object:
    """The direction on an axis found in the CAD; the user may say which way is positive."""
    if wanted is None:
        return tuple(found.direction)
    joint = define(Joint, what, {"type": "revolute", "parent": "", "child": "", "axis": wanted},
                   name="")  # fmt: skip
    cosine = float(np.array(joint.axis) @ found.direction)
    if abs(cosine) < np.cos(np.radians(1.0)):
        angle = np.degrees(np.arccos(min(1.0, abs(cosine))))
        raise EntryError(
            what,
            [(("axis",), f"the axis {wanted} is {angle:.3g} deg off the axis found in the CAD "
              f"({found.found}); leave it out, or give the direction that is positive")],
        )  # fmt: skip
    return tuple(found.direction * np.sign(cosine))


def given_inertia(
    what: str,
    mass: float | None,
    centre: Sequence[float | str] | None,
    inertia: Sequence[float | str] | None,
) -> Inertia | None:
    if inertia is None:
        if centre is not None:
            raise EntryError(what, [(("centre",), "a centre of mass needs an inertia beside it")])
        return None
    if mass is None:
        raise EntryError(what, [(("mass",), "an inertia needs a mass beside it")])
    if len(inertia) not in (3, 6):
        text = f"expected three principal moments, or ixx, iyy, izz, ixy, ixz, iyz; got {inertia}"
        raise EntryError(what, [(("inertia",), text)])
    moments = [read_value(what, "inertia", value, "moment of inertia") for value in inertia]
    ixx, iyy, izz, ixy, ixz, iyz = [*moments, 0.0, 0.0, 0.0][:6]
    tensor = np.array([[ixx, ixy, ixz], [ixy, iyy, iyz], [ixz, iyz, izz]])
    where = (0.0, 0.0, 0.0) if centre is None else centre
    point = np.array([read_value(what, "centre", value, "length") for value in where])
    return Inertia(mass, point, tensor, "given", "given in full")
