"""Pick the eye of a line from its rack and lay it over the bollard, by the signals of the clamp.

In one terminal:   mooring run bollard.yaml --listen --lock-step -o lay --film
In another:        python examples/outside/lay_a_line.py ws://127.0.0.1:8640

No time is given for anything: a step begins when the one before is reported done.
"""

import sys
from collections.abc import Callable
from math import radians

import mooring
from mooring import kinematics

PATIENCE = 20.0
ABOVE_RACK, AT_RACK, LIFTED = (1.9486, 1.125, 2.02), (1.9486, 1.125, 1.795), (1.9486, 1.125, 2.1)
OVER, CLEAR = (1.7236, -1.4463, 1.68), (1.7236, -1.4463, 2.02)


class Sequencer:
    """Does one thing after the other with a tender."""

    def __init__(self, url: str) -> None:
        self.tender = mooring.connect(url, name="sequencer", rate=50)
        self.near = kinematics.configuration(self.tender.robot, "stowed", self.tender.tree)

    def until(self, what: str, there: Callable[[], bool]) -> None:
        """Wait for something, and say when it came."""
        began = self.tender.time
        while not there():
            if self.tender.time > began + PATIENCE or not self.tender.step(seconds=0.02):
                sys.exit(f"waited for {what} in vain, at {self.tender.time:.1f} s")
        print(f"{self.tender.time:6.2f} s  {what}")

    def signal(self, name: str, *wanted: str) -> None:
        """Set one input of the clamp alone, and wait for one of what it may report."""
        for key in ("clamp.open", "clamp.close"):
            self.tender.signal(key, key == name)
        self.until(" or ".join(wanted), lambda: any(self.tender.signals[w] for w in wanted))

    def go(self, where: str, goals: dict[str, float], over: float | None = None) -> None:
        """Bring joints somewhere, and wait until they are there and still."""
        self.tender.go(goals, over)
        self.tender.step(seconds=0.02)

        def there() -> bool:
            state = self.tender.state
            return all(
                abs(state.positions[joint] - goal) < 0.01 and abs(state.velocities[joint]) < 0.01
                for joint, goal in goals.items()
            )

        self.until(where, there)

    def reach(self, where: str, place: tuple[float, float, float], heading: float) -> None:
        """Bring the clamp to a place, level and with a heading, by inverse kinematics."""
        tender = self.tender
        target = {"xyz": place, "rpy": (0, 0, radians(heading))}
        found = kinematics.solve_ik(tender.robot, "grip", target, near=self.near, tree=tender.tree)
        if not found.reached:
            sys.exit(f"{where}: {found}")
        self.near = found.q
        moved = [joint for joint in tender.driven if joint != "port_jaw_hinge"]
        self.go(where, {joint: found.q[tender.tree.coordinate(joint)] for joint in moved})

    def lay(self) -> None:
        """The whole job."""
        self.signal("clamp.open", "clamp.opened")
        self.reach("above the rack", ABOVE_RACK, 30)
        self.reach("at the rack", AT_RACK, 30)
        self.signal("clamp.close", "clamp.closed", "clamp.holding")
        self.reach("lifted", LIFTED, 30)
        self.go("turned to the bollard", {"slew": radians(-40)}, over=9)
        self.reach("over the bollard", OVER, -40)
        self.signal("clamp.open", "clamp.opened")
        self.reach("clear of it", CLEAR, -40)
        at = self.tender.state.positions
        off = ((at["eye.x"] - 1.8714) ** 2 + (at["eye.y"] + 1.2701) ** 2) ** 0.5
        print(
            f"the eye lies {1000 * off:.0f} mm off the bollard's middle, {at['eye.z']:.2f} m high"
        )
        self.tender.close()
        if off > 0.25:
            sys.exit("it does not lie over the bollard")


if __name__ == "__main__":
    Sequencer(sys.argv[1]).lay()
