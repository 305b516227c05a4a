"""Machines whose motion is known from elsewhere: each with a robot, a start, and its true motion.

What a machine is, is in its docstring; truth is a closed form, or Lagrange's equation in the one
or few coordinates that the machine has, integrated by SciPy to 1e-12.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field

import numpy as np
from scipy.integrate import solve_ivp

from mooring import Robot, Simulation
from mooring.geometry import Array, rotation_about

G = 9.81


@dataclass(frozen=True)
class Problem:
    """A machine, and what becomes of it.

    Attributes:
        name: what it is called.
        robot: it.
        seconds: how long it is looked at [s].
        truth: the positions of some joints after that, by name.
        posture, velocities: where it starts, and how fast.
    """

    name: str
    robot: Robot
    seconds: float
    truth: Mapping[str, float]
    posture: Mapping[str, float] = field(default_factory=dict)
    velocities: Mapping[str, float] = field(default_factory=dict)

    def error(self, step: float, stepper: str) -> float:
        """The largest error of a simulation [rad or m]."""
        simulation = Simulation(
            self.robot, posture=self.posture, velocities=self.velocities, step=step,
            stepper=stepper, gravity=(0, 0, -G), ground="none", contact=False,  # type: ignore[arg-type]
        )  # fmt: skip
        simulation.step(seconds=self.seconds)
        place = simulation.state.positions
        return max(abs(place[joint] - value) for joint, value in self.truth.items())


def integrated(slope: Callable[[float, Array], Array], start: Array, seconds: float) -> Array:
    """Where an equation of motion leads."""
    done = solve_ivp(
        slope, (0, seconds), start, method="DOP853", rtol=1e-12, atol=1e-13, max_step=0.01
    )
    return np.asarray(done.y[:, -1])


def pendulum() -> Problem:
    """A point on a rod of 1 m that falls from the level: problem A01 of González et al., "A
    benchmarking system for MBS simulation software", Multibody System Dynamics 16, 2006."""
    robot = Robot("pendulum")
    robot.add_link("post")
    robot.add_link("bob", mass=1.0, centre=(1, 0, 0), inertia=(0, 0, 0))
    robot.add_joint("swing", "continuous", parent="post", child="bob", axis="y")
    end = integrated(lambda _, y: np.array([y[1], G * np.cos(y[0])]), np.zeros(2), 2.0)
    return Problem("pendulum", robot, 2.0, {"swing": float(end[0])})


def slider_crank() -> Problem:
    """A crank and a rod of 1 m and 1 kg each and a slider, which goes through its singular
    position, where crank and rod lie on each other: after the IFToMM library of benchmarks."""
    slider, start = 0.5, np.pi / 4
    robot = Robot("slider_crank")
    robot.add_link("bed")
    for name in ("crank", "rod"):
        robot.add_link(name, mass=1.0, centre=(0.5, 0, 0), inertia=(0, 1 / 12, 1 / 12))
    robot.add_link("slider", mass=slider, inertia=(0, 0, 0))
    # At zero the crank stands at 45 degrees, and the rod comes down from it.
    up, down = (0, -start, 0), (0, 2 * start, 0)
    robot.add_joint("crank", "continuous", parent="bed", child="crank", at={"rpy": up}, axis="y")
    robot.add_joint("knee", "continuous", parent="crank", child="rod",
                    at={"xyz": (1, 0, 0), "rpy": down}, axis="y")  # fmt: skip
    robot.add_joint("slide", "prismatic", parent="bed", child="slider",
                    at=(2 * np.cos(start), 0, 0), axis="x")  # fmt: skip
    robot.add_closure("pin", "ball", between=("rod", "slider"), at=(1, 0, 0))

    def slope(_: float, y: Array) -> Array:
        a, w = y
        mass = 1 / 3 + 1 / 12 + 0.25 + (2 + 4 * slider) * np.sin(a) ** 2
        change = (2 + 4 * slider) * np.sin(2 * a)
        return np.array([w, -(0.5 * change * w**2 + G * np.cos(a)) / mass])

    # The slider begins with 4 m/s towards the crank's axle.
    speed = 4 / (2 * np.sin(start))
    end = integrated(slope, np.array([start, speed]), 1.0)
    truth = {"crank": start - float(end[0]), "slide": float(2 * np.cos(end[0]) - 2 * np.cos(start))}
    return Problem(
        "slider-crank through its singular position", robot, 1.0, truth,
        velocities={"crank": -speed, "knee": 2 * speed, "slide": -4.0},
    )  # fmt: skip


def governor() -> Problem:
    """A flyball governor: two arms of 1 m with balls of 5 kg on a spindle that turns, and a slider
    of 10 kg that hangs on them by springs and dampers: after A05 of González et al. 2006."""
    stiff, damping, rest = 8e3, 400.0, 0.5
    rod, ball, slider, spindle, start = 1.0, 5.0, 10.0, 2.0, np.pi / 6
    robot = Robot("governor")
    robot.add_link("frame")
    robot.add_link("spindle", mass=1.0, inertia=(0.1, 0.1, spindle))
    robot.add_joint("spin", "continuous", parent="frame", child="spindle", axis="z")
    robot.add_link("slider", mass=slider, inertia=(0, 0, 0))
    low = 2 * 0.5 * np.cos(start)
    robot.add_joint(
        "slide", "prismatic", parent="spindle", child="slider", at=(0, 0, -low), axis="z"
    )
    robot.add_frame("collar", link="slider")
    for side, sign in (("left", 1), ("right", -1)):
        # A rod, and a ball as a point at its end.
        mass, centre = rod + ball, (0.5 * rod + ball) / (rod + ball)
        about_end = rod / 3 + ball
        own = about_end - mass * centre**2
        robot.add_link(side, mass=mass, centre=(sign * centre, 0, 0), inertia=(0, own, own))
        robot.add_joint(side, "continuous", parent="spindle", child=side,
                        at={"rpy": (0, sign * (np.pi / 2 - start), 0)}, axis="y")  # fmt: skip
        robot.add_frame(f"mid_{side}", link=side, at=(0.5 * sign, 0, 0))
        robot.add_spring(f"stay_{side}", between=(f"mid_{side}", "collar"), stiffness=stiff,
                         damping=damping, rest_length=rest)  # fmt: skip
    arm = rod / 3 + ball
    lever = 0.5 * rod + ball

    def slope(_: float, y: Array) -> Array:
        _, a, s, w, da, ds = y
        x, z = 0.5 * np.sin(a), s - 0.5 * np.cos(a)
        d = np.hypot(x, z)
        by_a = (x * 0.5 * np.cos(a) + z * 0.5 * np.sin(a)) / d
        by_s = z / d
        pull = stiff * (d - rest) + damping * (by_a * da + by_s * ds)
        about = spindle + 2 * arm * np.sin(a) ** 2
        dw = -2 * arm * np.sin(2 * a) * da * w / about
        dda = 0.5 * np.sin(2 * a) * w**2 - (G * lever * np.sin(a) + pull * by_a) / arm
        # s counts downwards.
        dds = G - 2 * pull * by_s / slider
        return np.array([w, da, ds, dw, dda, dds])

    speed = 2 * np.pi
    end = integrated(slope, np.array([0, start, low, speed, 0, 0]), 2.0)
    truth = {"spin": float(end[0]), "left": float(start - end[1]), "right": float(end[1] - start),
             "slide": float(low - end[2])}  # fmt: skip
    return Problem("flyball governor", robot, 2.0, truth, velocities={"spin": speed})


CUBE = [(0, 0, 0), (1, 0, 0), (1, 1, 0), (1, 1, 1), (0, 1, 1), (0, 0, 1)]


def bricard() -> Robot:
    """Six bars of 1 m and 1 kg along edges of a cube, hinged at its corners about what is square to
    both: it has one freedom, where a count gives none (Bricard 1897; problem A04 of González et al.
    2006)."""
    robot = Robot("bricard")
    robot.add_link("bar_0")
    corners = np.array(CUBE, dtype=float)
    ways = np.roll(corners, -1, axis=0) - corners
    for k in range(1, 6):
        inertia = (1 - np.abs(ways[k])) / 12
        robot.add_link(f"bar_{k}", mass=1.0, centre=0.5 * ways[k], inertia=tuple(inertia))
        place = corners[k] - (corners[k - 1] if k > 1 else np.zeros(3))
        robot.add_joint(f"hinge_{k}", "continuous", parent=f"bar_{k - 1}", child=f"bar_{k}",
                        at=tuple(place), axis=tuple(np.cross(ways[k - 1], ways[k])))  # fmt: skip
    robot.add_closure("hinge_0", "hinge", between=("bar_5", "bar_0"), at=tuple(ways[5]),
                      axis=tuple(np.cross(ways[5], ways[0])))  # fmt: skip
    return robot


def rolling_disk(lean: float, spin: float, turn: float, radius: float, seconds: float) -> Array:
    """Where the centre of a thin disk of 1 kg comes to that rolls on a plane without slipping, (3,)
    [m], and the direction of its axle, (3,): by Newton's and Euler's equations.

    Args:
        lean: from upright [rad].
        spin: about its axle [rad/s].
        turn: about the vertical [rad/s].
        radius: [m].
        seconds: how long [s].
    """
    own = np.diag([0.25, 0.5, 0.25]) * radius**2
    up = np.array([0.0, 0.0, 1.0])

    def slope(_: float, y: Array) -> Array:
        frame, w = y[3:12].reshape(3, 3), y[12:]
        axle = frame[:, 1]
        dip = np.sqrt(1 - axle[2] ** 2)
        lowest = -radius * (up - axle[2] * axle) / dip
        daxle = np.cross(w, axle)
        ddip = -axle[2] * daxle[2] / dip
        dlowest = -radius * (
            (-daxle[2] * axle - axle[2] * daxle) / dip - (up - axle[2] * axle) * ddip / dip**2
        )
        speed = -np.cross(w, lowest)
        inertia = frame @ own @ frame.T
        # F = v' - g and v' = -w' x r - w x r'; I w' = -w x I w + r x F.
        r = np.array([[0, -lowest[2], lowest[1]], [lowest[2], 0, -lowest[0]],
                      [-lowest[1], lowest[0], 0]])  # fmt: skip
        left = inertia - r @ r
        right = -np.cross(w, inertia @ w) + np.cross(lowest, -np.cross(w, dlowest) + G * up)
        return np.concatenate(
            [speed, (np.cross(w, frame.T).T).ravel(), np.linalg.solve(left, right)]
        )

    frame = rotation_about((1, 0, 0), lean)
    start = np.concatenate([
        [0, 0, radius * np.cos(lean)], frame.ravel(), spin * frame[:, 1] + turn * up,
    ])  # fmt: skip
    end = integrated(slope, start, seconds)
    return np.concatenate([end[:3], end[3:12].reshape(3, 3)[:, 1]])


PROBLEMS: tuple[Callable[[], Problem], ...] = (pendulum, slider_crank, governor)
