"""The kinds of item that a robot is made of; whatever goes over a description goes over these."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cached_property
from typing import Any

from pydantic import BaseModel, TypeAdapter

from mooring.errors import ModelError, did_you_mean
from mooring.model.allowance import Because, Pair
from mooring.model.cable import Cable
from mooring.model.closure import Closure
from mooring.model.conveyor import Conveyor
from mooring.model.coupling import Coupling
from mooring.model.definition.markers import MovingJointName
from mooring.model.device import Device
from mooring.model.dimension_table import DimensionTable
from mooring.model.forces import FORCES, Force
from mooring.model.frame import LinkFrame
from mooring.model.grip import Grip
from mooring.model.joint import Joint
from mooring.model.link import Link
from mooring.model.material import Material
from mooring.model.motion import MotionStep, Steps
from mooring.model.motor import Motor
from mooring.model.posture import Positions
from mooring.model.sensors import SENSORS, Sensor
from mooring.model.spring import Spring


@dataclass(frozen=True)
class Kind:
    """One kind of item.

    Attributes:
        name: what messages call it.
        section: what a robot, and a document, call all of its items.
        type: of an item: a definition, or what stands under a name without one.
        key: of its names; a name of its own, where it is not the name of something else.
        key_field: the field of the definition that repeats the key.
        variants: definitions by the value of the entry's `kind`, where there are several.
        inner: the definition that its items consist of, where they are none themselves.
        prefixed: whether a robot's items get a prefix where it is included in another; those of
            other kinds are shared.
    """

    name: str
    section: str
    type: Any
    key: Any = str
    key_field: str = "name"
    variants: Mapping[str, type] | None = None
    prefixed: bool = True
    inner: type[BaseModel] | None = None

    @cached_property
    def adapter(self) -> TypeAdapter[Any]:
        """What reads an item that is no definition."""
        return TypeAdapter(self.type)

    @property
    def own_names(self) -> bool:
        """Whether its items have names of their own, which can be changed."""
        return self.key is str

    def called(self, name: Any) -> str:
        """What messages call an item."""
        if isinstance(name, tuple):
            return f"{self.name} of {' and '.join(map(str, name))}"
        return f"{self.name} {name!r}" if self.own_names else f"{self.name} of {name!r}"


KINDS: dict[str, Kind] = {
    kind.name: kind
    for kind in (
        Kind("link", "links", Link),
        Kind("joint", "joints", Joint),
        Kind("coupling", "couplings", Coupling, MovingJointName, "joint"),
        Kind("closure", "closures", Closure),
        Kind("frame", "frames", LinkFrame),
        Kind("spring", "springs", Spring),
        Kind("cable", "cables", Cable),
        Kind("force", "forces", Force, variants=FORCES),
        Kind("conveyor", "conveyors", Conveyor),
        Kind("grip", "grips", Grip),
        Kind("motor", "motors", Motor),
        Kind("device", "devices", Device),
        Kind("sensor", "sensors", Sensor, variants=SENSORS),
        Kind("posture", "postures", Positions, prefixed=False),
        Kind("motion", "motions", Steps, prefixed=False, inner=MotionStep),
        Kind("allowance", "allowances", Because, Pair),
        Kind("table", "tables", DimensionTable),
        Kind("material", "materials", Material, prefixed=False),
    )
}
BY_SECTION = {kind.section: kind for kind in KINDS.values()}


def kind_called(name: str) -> Kind:
    """A kind by name.

    Raises:
        ModelError: there is none.
    """
    if name not in KINDS:
        raise ModelError(f"unknown kind {name!r}{did_you_mean(name, list(KINDS))}")
    return KINDS[name]
