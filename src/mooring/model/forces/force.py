"""`Force`: what every force with a law has, and what each law must say."""

from __future__ import annotations

from abc import abstractmethod
from typing import TYPE_CHECKING, ClassVar, NamedTuple

import numpy as np
from pydantic import Field

from mooring.geometry import Array
from mooring.model.definition.described import Described

if TYPE_CHECKING:
    from mooring.model.robot import Robot
    from mooring.tree import Tree


class Action(NamedTuple):
    """What the core needs to apply a law.

    Attributes:
        body: the body that it acts on, as a row of the tree.
        numbers: the coefficients that the law's file in `native/simulation/laws/` lists.
        frame: where it acts on the body, (4, 4).
        freedom: the freedom whose speed it depends on; -1 where it depends on none.
        points: centres of the pieces of a volume, on the body, (k, 3) [m].
        volumes: of the pieces, (k,) [m^3].
    """

    body: int
    numbers: tuple[float, ...]
    frame: Array = np.eye(4)
    freedom: int = -1
    points: Array = np.zeros((0, 3))
    volumes: Array = np.zeros(0)


class Force(Described):
    """A force on a link by a law.

    A law is a subclass with a `kind` of its own, listed in `FORCES` or registered with
    `mooring.register`. It names the law in the core that computes it and gives its numbers.

    Attributes:
        name: unique among the robot's forces.
    """

    law: ClassVar[str]
    """The law in the core: rotor, drag or buoyancy."""

    name: str = Field(exclude=True)

    @abstractmethod
    def action(self, robot: Robot, tree: Tree) -> Action:
        """Where it acts, and with which numbers.

        Raises:
            ModelError: it cannot act, and why.
        """
