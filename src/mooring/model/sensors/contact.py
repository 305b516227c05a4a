"""Contact sensors."""

from __future__ import annotations

from collections.abc import Mapping
from typing import TYPE_CHECKING, ClassVar, Literal

import numpy as np

from mooring.geometry import Array
from mooring.model.definition.fields import Motion
from mooring.model.definition.markers import LinkName
from mooring.model.sensors.sensor import XYZ, Mount, Sensor

if TYPE_CHECKING:
    from mooring.model.robot import Robot
    from mooring.tree import Tree


class ContactSensor(Sensor):
    """Tells what a link touches, and how hard.

    Attributes:
        kind: contact.
        link: which one.
    """

    probe: ClassVar[str] = "contact"

    kind: Literal["contact"]
    link: LinkName

    def mount(self, robot: Robot, tree: Tree) -> Mount:
        return Mount(tree.link(self.link))

    @property
    def place_name(self) -> str:
        return self.link

    def columns(self, units: Mapping[str, str]) -> dict[str, str]:
        return {f"force.{k}": "N" for k in XYZ} | {"pressed": "1"}

    def faults(self, exact: Array, random: np.random.Generator, motion: Motion) -> Array:
        return exact[:, :4]
