"""How many ways a mechanism can move, by counting and by the rank of its equations."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from mooring.arguments import proven
from mooring.kinematics.configuration import configuration
from mooring.kinematics.loops.equations import equations
from mooring.kinematics.mechanism.usual import rank, usual_jacobian
from mooring.model import Robot


@dataclass(frozen=True)
class Mobility:
    """What the loops of a robot leave of its freedoms.

    Attributes:
        freedoms: of the joints alone.
        equations: of couplings and closures.
        counted: freedoms less equations, as Gruebler and Kutzbach count.
        actual: the freedoms that remain, where the mechanism stands in general.
        here: the freedoms that remain in the posture that was asked for; more than `actual` at a
            dead point.
    """

    freedoms: int
    equations: int
    counted: int
    actual: int
    here: int

    @property
    def repeated(self) -> int:
        """Equations that repeat others: how often the mechanism is over-constrained."""
        return self.actual - self.counted

    @property
    def at_dead_point(self) -> bool:
        """Whether the posture is one where the mechanism may change its branch."""
        return self.here > self.actual

    def __str__(self) -> str:
        if not self.equations:
            return f"{_many(self.freedoms, 'freedom')}, no loops"
        words = (
            f"{_many(self.freedoms, 'freedom')} of joints, {_many(self.equations, 'equation')} of "
            f"couplings and closures: {_many(self.actual, 'freedom')} left"
        )
        if self.repeated > 0:
            words += (
                f"; {self.repeated} of the equations repeat others, so the real machine needs "
                f"exact alignment, or play, {self.repeated} times"
            )
        if self.actual == 0:
            words += "; it cannot move"
        if self.at_dead_point:
            words += f"; here {self.here}: a dead point, where it may go on in another branch"
        return words


@proven
def mobility(robot: Robot, posture: str | Mapping[str, float | str] | None = None) -> Mobility:
    """Count the freedoms of a robot with its couplings and closures.

    The rank is that of the equations in the posture and in a few closed positions near it, since
    a posture may be special.

    Raises:
        UnsoundRobotError: the robot is no tree.
        RunError: its loops do not close in the posture.

    Example:
        >>> from mooring import demo, read
        >>> mobility(read(demo.LINE_TENDER.document)).actual
        6
    """
    tree = robot.tree()
    q = configuration(robot, posture, tree)
    count = len(tree.freedoms)
    jacobian = equations(tree, q)[1]
    if not len(jacobian):
        return Mobility(count, 0, count, count, count)
    usual, here = rank(usual_jacobian(tree, q)), rank(jacobian)
    return Mobility(count, len(jacobian), count - len(jacobian), count - usual, count - here)


def _many(count: int, word: str) -> str:
    return f"{count} {word}{'' if count == 1 else 's'}"
