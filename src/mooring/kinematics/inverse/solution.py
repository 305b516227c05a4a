"""What inverse kinematics answers."""

from __future__ import annotations

from dataclasses import dataclass

from mooring.brief import Brief
from mooring.geometry import Array
from mooring.units import show


@dataclass(frozen=True, eq=False, repr=False)
class IkSolution(Brief):
    """Joint positions that bring a frame to a target, or as near as they were found to come.

    Attributes:
        reached: whether the target is met within the tolerances.
        q: (n,), in the order of `robot.coordinates`.
        positions: the same by joint.
        frame: the frame or link that was to be brought there.
        distance: that is left [m]; 0 where the position did not matter.
        angle: that is left [rad]; 0 where the orientation did not matter.
        at_limits: joints at a limit, by name, with which one: lower or upper.
        starts: how many it took.
    """

    reached: bool
    q: Array
    positions: dict[str, float]
    frame: str
    distance: float
    angle: float
    at_limits: dict[str, str]
    starts: int

    def __str__(self) -> str:
        if self.reached:
            return f"{self.frame} reaches the target"
        left = []
        if self.distance > 0:
            left.append(show(self.distance, "length", 3))
        if self.angle > 0:
            left.append(show(self.angle, "angle", 3))
        words = f"{self.frame} does not reach the target: {' and '.join(left)} left"
        if self.at_limits:
            listed = ", ".join(
                f"{name} at its {side} limit" for name, side in self.at_limits.items()
            )
            return f"{words}, with {listed}"
        return f"{words}, with no joint at a limit: it is out of reach"
