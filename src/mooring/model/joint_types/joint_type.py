"""`JointType`: what a type of joint does, how it is drawn, and what other formats make of it."""

from __future__ import annotations

from dataclasses import dataclass

from mooring._native.tree import JOINT_CODES
from mooring.tree.arrays import Motion

_MOTIONS: dict[str, tuple[Motion, int, int]] = {
    "fixed": ("rotation", 0, 0),
    "revolute": ("rotation", 1, 1),
    "prismatic": ("translation", 1, 1),
    "floating": ("rotation", 7, 6),
}
"""Of each kind of joint in the core: its motion, its entries in q and in v."""


@dataclass(frozen=True)
class JointType:
    """A type of joint.

    Attributes:
        name: what documents call it.
        core: the kind of joint that the compiled core computes: fixed, revolute, prismatic or
            floating.
        ends: whether its travel has ends, which limits give.
        urdf: the type that URDF files give it; where that is another name, an export says so.
        color: which of the frame colors its axis is drawn in: 0, 1 or 2.
    """

    name: str
    core: str
    ends: bool
    urdf: str
    color: int

    def __post_init__(self) -> None:
        if self.core not in JOINT_CODES:
            raise ValueError(f"the core has no joint {self.core!r}; it has {', '.join(_MOTIONS)}")
        if not self.name.isidentifier():
            raise ValueError(f"the name of a joint type is one word, got {self.name!r}")
        if self.ends and not self.has_axis:
            raise ValueError(f"a {self.core} joint has no travel with ends")

    @property
    def code(self) -> int:
        """The code of its kind in the core."""
        return JOINT_CODES[self.core]

    @property
    def motion(self) -> Motion:
        """Whether its coordinate is an angle or a length."""
        return _MOTIONS[self.core][0]

    @property
    def positions(self) -> int:
        """Entries in q."""
        return _MOTIONS[self.core][1]

    @property
    def freedoms(self) -> int:
        """Entries in v."""
        return _MOTIONS[self.core][2]

    @property
    def has_axis(self) -> bool:
        """Whether it turns or slides, with one coordinate that is named like the joint."""
        return self.freedoms == 1

    @property
    def floats(self) -> bool:
        """Whether it constrains nothing."""
        return self.freedoms == 6

    @property
    def endless(self) -> bool:
        """Whether it turns or slides without ends."""
        return self.has_axis and not self.ends
