"""Field types that read quantities with units, for the definitions of this room."""

from __future__ import annotations

import re
from collections.abc import Callable, Sequence
from typing import Annotated, Any

import numpy as np
from pydantic import BeforeValidator, ValidationInfo, WithJsonSchema

from mooring.errors import told
from mooring.model.definition.markers import Geometric, JointQuantity, Marker, Quantity
from mooring.tree.arrays import Motion as Motion
from mooring.units import DIMENSIONS, to_si


def _schema(dimension: str) -> WithJsonSchema:
    known = DIMENSIONS[dimension]
    return WithJsonSchema(
        {
            "anyOf": [{"type": "number"}, {"type": "string"}],
            "description": f"{dimension}: a number in {known.si}, or such as '{known.example}'",
        }
    )


def _quantity(dimension: str) -> tuple[Marker, BeforeValidator, WithJsonSchema]:
    read = BeforeValidator(lambda value: to_si(value, dimension))
    return Quantity(dimension), read, _schema(dimension)


Length = Annotated[float, *_quantity("length")]
Angle = Annotated[float, *_quantity("angle")]
Frequency = Annotated[float, *_quantity("frequency")]
Duration = Annotated[float, *_quantity("time")]
Mass = Annotated[float, *_quantity("mass")]
Density = Annotated[float, *_quantity("density")]
Torque = Annotated[float, *_quantity("torque")]
MomentOfInertia = Annotated[float, *_quantity("moment of inertia")]
LinearStiffness = Annotated[float, *_quantity("linear stiffness")]
LinearDamping = Annotated[float, *_quantity("linear damping")]
AngularStiffness = Annotated[float, *_quantity("angular stiffness")]
AngularDamping = Annotated[float, *_quantity("angular damping")]
Speed = Annotated[float, *_quantity("velocity")]
Voltage = Annotated[float, *_quantity("voltage")]
Current = Annotated[float, *_quantity("current")]
Resistance = Annotated[float, *_quantity("resistance")]
TorqueConstant = Annotated[float, *_quantity("torque constant")]
Force = Annotated[float, *_quantity("force")]
TurningSpeed = Annotated[float, *_quantity("angular velocity")]

# The dimension of each quantity that depends on whether a joint turns or slides.
_BY_MOTION: dict[str, dict[Motion, str]] = {
    "position": {"rotation": "angle", "translation": "length"},
    "velocity": {"rotation": "angular velocity", "translation": "velocity"},
    "effort": {"rotation": "torque", "translation": "force"},
    "stiffness": {"rotation": "angular stiffness", "translation": "linear stiffness"},
    "damping": {"rotation": "angular damping", "translation": "linear damping"},
    "acceleration": {"rotation": "angular acceleration", "translation": "acceleration"},
    "inertia": {"rotation": "moment of inertia", "translation": "mass"},
}


def dimension_of(quantity: str, motion: Motion) -> str:
    """The dimension of a joint's `"position"`, `"velocity"`, `"effort"`, ... by its motion."""
    return _BY_MOTION[quantity][motion]


_ANY = WithJsonSchema({"anyOf": [{"type": "number"}, {"type": "string"}]})


def _by_motion(quantity: str) -> tuple[Marker, BeforeValidator, WithJsonSchema]:
    """Reads a quantity of a joint; the definition has a field `motion` before this one."""

    def read(value: Any, info: ValidationInfo) -> Any:
        if value is None:
            return None
        return to_si(value, dimension_of(quantity, info.data.get("motion", "rotation")))

    return JointQuantity(quantity), BeforeValidator(read), _ANY


JointPosition = Annotated[float, *_by_motion("position")]
JointVelocity = Annotated[float, *_by_motion("velocity")]
JointEffort = Annotated[float, *_by_motion("effort")]
JointStiffness = Annotated[float, *_by_motion("stiffness")]
JointDamping = Annotated[float, *_by_motion("damping")]
JointAcceleration = Annotated[float, *_by_motion("acceleration")]
JointInertia = Annotated[float, *_by_motion("inertia")]


def _triple(read: Callable[[Any], float]) -> Callable[[Any], tuple[float, float, float]]:
    def validate(value: Any) -> tuple[float, float, float]:
        if isinstance(value, str) or not isinstance(value, (Sequence, np.ndarray)):
            raise ValueError(f"expected a list of three values, got {told(value)}")
        if len(value) != 3:
            raise ValueError(f"expected three values, got {len(value)}: {list(value)}")
        x, y, z = (read(component) for component in value)
        return x, y, z

    return validate


_NAMED_DIRECTIONS = {"x": (1.0, 0.0, 0.0), "y": (0.0, 1.0, 0.0), "z": (0.0, 0.0, 1.0)}


def read_direction(value: Any) -> tuple[float, float, float]:
    """A unit vector from x, -y, ... or three numbers; raises ValueError for anything else."""
    if isinstance(value, str):
        sign = -1.0 if value.startswith("-") else 1.0
        named = _NAMED_DIRECTIONS.get(value.lstrip("+-"))
        if named is None or len(value) > 2:
            raise ValueError(
                f"{value!r} is no direction; write x, -y, z or a list of three numbers"
            )
        x, y, z = (sign * c + 0.0 for c in named)
        return x, y, z
    triple = _triple(lambda component: to_si(component, "number"))(value)
    length = float(np.linalg.norm(triple))
    if length < 1e-12:
        raise ValueError(f"the direction {list(triple)} has no length")
    if abs(length - 1.0) < 1e-12:
        return triple
    x, y, z = (c / length for c in triple)
    return x, y, z


_COLOR = re.compile(r"#[0-9a-fA-F]{6}")


def read_color(value: Any) -> str:
    """A color as "#rrggbb"; raises ValueError for anything else."""
    if not isinstance(value, str) or not _COLOR.fullmatch(value):
        raise ValueError(f"{value!r} is no color; write it as '#3f6f8f'")
    return value.lower()


_TRIPLE = WithJsonSchema({"type": "array", "minItems": 3, "maxItems": 3})
Triple = tuple[float, float, float]
Lengths = Annotated[
    Triple, Quantity("length"), BeforeValidator(_triple(lambda v: to_si(v, "length"))), _TRIPLE
]
Point = Annotated[Lengths, Geometric("point")]
"""In the coordinates of a link."""
Angles = Annotated[
    Triple, Quantity("angle"), BeforeValidator(_triple(lambda v: to_si(v, "angle"))), _TRIPLE
]
Acceleration = Annotated[
    Triple,
    Quantity("acceleration"),
    BeforeValidator(_triple(lambda v: to_si(v, "acceleration"))),
    _TRIPLE,
]
Direction = Annotated[
    Triple,
    Geometric("direction"),
    BeforeValidator(read_direction),
    WithJsonSchema(
        {"anyOf": [{"type": "array", "minItems": 3, "maxItems": 3}, {"type": "string"}]}
    ),
]
Color = Annotated[str, BeforeValidator(read_color)]


def _moments(value: Any) -> Any:
    if isinstance(value, str) or not isinstance(value, (Sequence, np.ndarray)):
        raise ValueError(f"expected a list of moments, got {told(value)}")
    if len(value) not in (3, 6):
        raise ValueError(
            f"expected three principal moments, or ixx, iyy, izz, ixy, ixz, iyz; got {list(value)}"
        )
    moments = [to_si(one, "moment of inertia") for one in value]
    return tuple([*moments, 0.0, 0.0, 0.0][:6])


Moments = Annotated[
    tuple[float, float, float, float, float, float],
    Quantity("moment of inertia"),
    Geometric("moments"),
    BeforeValidator(_moments),
    WithJsonSchema({"type": "array", "minItems": 3, "maxItems": 6}),
]
"""Ixx, iyy, izz, ixy, ixz, iyz; written as three principal moments, or as all six."""


def _listed(value: Any) -> Any:
    return (value,) if isinstance(value, str) else value


Patterns = Annotated[
    tuple[str, ...],
    BeforeValidator(_listed),
    WithJsonSchema({"anyOf": [{"type": "string"}, {"type": "array", "items": {"type": "string"}}]}),
]
"""Name patterns of parts, one or several."""
