"""Machines with loops whose motion others have published or derived."""

import unittest

import numpy as np
from benchmarks.problems import PROBLEMS, bricard, rolling_disk
from scipy.integrate import solve_ivp

from mooring import Ground, Robot, Scene, Simulation, simulate
from mooring.dynamics import STANDARD_GRAVITY
from mooring.geometry import rotation_about


def squeezer() -> Robot:
    """Andrews' squeezing mechanism: seven bodies in a plane, three loops, a spring and a motor.

    Data: Schiehlen (ed.), Multibody Systems Handbook, 1990; Hairer and Wanner, Solving Ordinary
    Differential Equations II, 1996, section VII.7. Joints are at zero in its initial position.
    """
    start = {
        "beta": -0.0617138900142764, "theta": 0.0, "gamma": 0.45527981916307,
        "phi": 0.222668390165886, "delta": 0.487364979543843, "omega": -0.222668390165886,
        "epsilon": 1.23054744454982,
    }  # fmt: skip
    a, b, c = (-0.06934, -0.00227), (-0.03635, 0.03273), (0.014, 0.072)
    zt, zf, e, u, rr = 0.04, 0.02, 0.02, 0.04, 0.007
    robot = Robot("squeezer")
    robot.add_link("ground")
    bodies = (
        ("k1", "beta", "ground", (0, 0), 0.04325, 2.194e-6, (0.00092, 0)),
        ("k2", "theta", "k1", (rr, 0), 0.00365, 4.410e-7, (-0.0115, 0)),
        ("k3", "gamma", "ground", b, 0.02373, 5.255e-6, (0.01043, -0.01874)),
        ("k5", "delta", "ground", a, 0.07050, 1.169e-5, (0.02308, 0.00916)),
        ("k4", "phi", "k5", (zt, 0), 0.00706, 5.667e-7, (0, -(e - 0.01421))),
        ("k7", "epsilon", "ground", a, 0.05498, 1.912e-5, (-0.00449, -0.01228)),
        ("k6", "omega", "k7", (0, -u), 0.00706, 5.667e-7, (zf - 0.01421, 0)),
    )
    for name, joint, parent, at, mass, inertia, centre in bodies:
        robot.add_link(name, mass=mass, centre=(*centre, 0), inertia=(inertia, inertia, inertia))
        place = {"xyz": (*at, 0), "rpy": (0, 0, start[joint])}
        robot.add_joint(joint, "continuous", parent=parent, child=name, at=place)
    for name, other, at in (
        ("k3", "k2", (0, -0.035)),
        ("k4", "k2", (0, -e)),
        ("k6", "k2", (zf, 0)),
    ):
        robot.add_closure(name, "hinge", between=(name, other), at=(*at, 0))
    robot.add_frame("d", link="k3", at=(0.02, -0.018, 0))
    robot.add_frame("c", link="ground", at=(*c, 0))
    robot.add_spring("spring", between=("d", "c"), stiffness=4530.0, rest_length=0.07785)
    robot.add_motor("motor", joint="beta", mode="effort")
    return robot


class Squeezer(unittest.TestCase):
    def test_its_position_after_30_ms_is_the_published_one(self) -> None:
        simulation = Simulation(squeezer(), stepper="accurate", gravity=(0, 0, 0), step=2e-6)
        begin = dict(simulation.state.positions)
        simulation.command(efforts={"beta": 0.033})
        simulation.step(seconds=0.03)
        # Test Set for Initial Value Problem Solvers, Mazzia and Magherini, 2008, "Andrews".
        published = {
            "beta": 15.81077119629904, "theta": -15.75637105984298, "gamma": 0.04082224013073101,
            "phi": -0.5347301163226948, "delta": 0.5244099658805304, "omega": 0.5347301163226948,
            "epsilon": 1.048080741042263,
        }  # fmt: skip
        first = {
            "beta": -0.0617138900142764, "theta": 0.0, "gamma": 0.45527981916307,
            "phi": 0.222668390165886, "delta": 0.487364979543843, "omega": -0.222668390165886,
            "epsilon": 1.23054744454982,
        }  # fmt: skip
        for joint, value in published.items():
            found = simulation.state.positions[joint] - begin[joint] + first[joint]
            self.assertAlmostEqual(found, value, delta=1e-7, msg=joint)


def windows(count: int) -> Robot:
    """Rods of 1 m and 1 kg side by side, the upright ones hinged to the ground, the level ones on
    top: parallelograms that all pass through flat. Gonzalez, Dopico, Lugris and Cuadrado, "A
    benchmarking system for MBS simulation software", Multibody System Dynamics 16, 2006, A02."""
    robot = Robot("windows")
    robot.add_link("ground")
    bar = 1 / 12
    for k in range(count + 1):
        robot.add_link(f"up_{k}", mass=1.0, centre=(0, 0, 0.5), inertia=(bar, bar, 1e-6))
        robot.add_joint(
            f"turn_{k}", "continuous", parent="ground", child=f"up_{k}", at=(k, 0, 0), axis="y"
        )
        if k < count:
            robot.add_link(f"top_{k}", mass=1.0, centre=(0.5, 0, 0), inertia=(1e-6, bar, bar))
            robot.add_joint(
                f"lie_{k}", "continuous", parent=f"up_{k}", child=f"top_{k}", at=(0, 0, 1), axis="y"
            )
    for k in range(count):
        robot.add_closure(
            f"close_{k}", "hinge", between=(f"top_{k}", f"up_{k + 1}"), at=(1, 0, 0), axis="y"
        )
    return robot


class Windows(unittest.TestCase):
    def test_two_of_them_turn_as_one_pendulum_through_their_flat_positions(self) -> None:
        count = 2
        # All rods share one angle: the machine is a pendulum with this inertia and this weight.
        inertia = (count + 1) / 3 + count
        weight = STANDARD_GRAVITY * ((count + 1) / 2 + count)
        exact = solve_ivp(
            lambda _, y: [y[1], weight * np.sin(y[0]) / inertia], (0, 4), [0.0, 1.0],
            rtol=1e-11, atol=1e-12, dense_output=True,
        )  # fmt: skip
        turns = {f"turn_{k}": 1.0 for k in range(count + 1)} | {
            f"lie_{k}": -1.0 for k in range(count)
        }
        run = simulate(windows(count), velocities=turns, seconds=4, stepper="accurate", rate=100)
        angle = run.table["turn_0.position"].to_numpy()
        np.testing.assert_allclose(angle, exact.sol(run.table.index.to_numpy())[0], atol=1e-8)
        energy = run.table["energy.kinetic"] + run.table["energy.potential"]
        self.assertLess(float(np.ptp(energy)), 1e-8)
        self.assertLess(run.table["loops.gap"].max(), 1e-9)


def four_bar() -> tuple[Robot, tuple[float, float, float, float]]:
    """A crank, a coupler and a rocker of 2, 4 and 3 m, whose pins on the ground are 3.6 m apart,
    with the crank upright at zero; and where the coupler's far pin and the rocker's are."""
    crank, coupler, rocker, base = 2.0, 4.0, 3.0, 3.6
    reach = np.hypot(base, crank)
    at = np.arccos((coupler**2 + reach**2 - rocker**2) / (2 * coupler * reach))
    way = np.arctan2(-crank, base) + at
    pin = np.array([coupler * np.cos(way), crank + coupler * np.sin(way)])
    robot = Robot("four_bar")
    robot.add_link("ground")
    ends = {
        "crank": ((0, 0), (0, crank)), "coupler": ((0, crank), tuple(pin)),
        "rocker": ((base, 0), tuple(pin)),
    }  # fmt: skip
    for name, (first, second) in ends.items():
        along = np.array(second) - first
        length = float(np.linalg.norm(along))
        middle = (along[0] / 2, 0, along[1] / 2)
        moment = length**2 * length / 12
        robot.add_link(name, mass=length, centre=middle, inertia=(moment, moment, moment))
    robot.add_joint("turn", "continuous", parent="ground", child="crank", axis="y")
    robot.add_joint(
        "knee", "continuous", parent="crank", child="coupler", at=(0, 0, crank), axis="y"
    )
    robot.add_joint(
        "rock", "continuous", parent="ground", child="rocker", at=(base, 0, 0), axis="y"
    )
    at_pin = (pin[0], 0, pin[1] - crank)
    robot.add_closure("pin", "hinge", between=("coupler", "rocker"), at=at_pin, axis="y")
    return robot, (crank, coupler, rocker, base)


class FourBar(unittest.TestCase):
    def test_it_moves_as_lagrange_says(self) -> None:
        robot, (crank, coupler, rocker, base) = four_bar()

        def angles(turn: float) -> tuple[float, float]:
            """Coupler and rocker, counter-clockwise from x, for a crank clockwise from upright."""
            top = np.array([crank * np.sin(turn), crank * np.cos(turn)])
            gap = np.array([base, 0]) - top
            reach = np.linalg.norm(gap)
            at = np.arccos((coupler**2 + reach**2 - rocker**2) / (2 * coupler * reach))
            way = np.arctan2(gap[1], gap[0]) + at
            pin = top + coupler * np.array([np.cos(way), np.sin(way)])
            return way, np.arctan2(pin[1], pin[0] - base)

        def inertia(turn: float) -> float:
            """Twice the kinetic energy over the square of the crank's speed."""
            h = 1e-5
            (after, leaning), (before, leant) = angles(turn + h), angles(turn - h)
            way = angles(turn)[0]
            spin, rate = (after - before) / (2 * h), (leaning - leant) / (2 * h)
            middle = np.array([crank * np.cos(turn), -crank * np.sin(turn)])
            middle = middle + coupler / 2 * spin * np.array([-np.sin(way), np.cos(way)])
            own = coupler * (middle @ middle) + coupler**3 / 12 * spin**2
            return crank**3 / 3 + own + rocker**3 / 3 * rate**2

        def height(turn: float) -> float:
            way, lean = angles(turn)
            top = crank * np.cos(turn)
            return STANDARD_GRAVITY * (
                crank * top / 2 + coupler * (top + coupler / 2 * np.sin(way))
                + rocker * rocker / 2 * np.sin(lean)
            )  # fmt: skip

        def rate(_: float, y: np.ndarray) -> list[float]:
            h = 1e-4
            slope = (inertia(y[0] + h) - inertia(y[0] - h)) / (2 * h)
            fall = (height(y[0] + h) - height(y[0] - h)) / (2 * h)
            return [y[1], -(0.5 * slope * y[1] ** 2 + fall) / inertia(y[0])]

        exact = solve_ivp(rate, (0, 2), [0.0, 0.5], rtol=1e-9, atol=1e-10, dense_output=True)
        speeds = {"turn": 0.5}
        # The others follow from the loop; the stepper brings them onto it.
        run = simulate(robot, velocities=_closing(robot, speeds), seconds=2, stepper="accurate")
        found = run.table["turn.position"].to_numpy()
        np.testing.assert_allclose(found, exact.sol(run.table.index.to_numpy())[0], atol=2e-6)
        rough = simulate(robot, velocities=_closing(robot, speeds), seconds=2)
        self.assertLess(abs(rough.table["turn.position"].iloc[-1] - found[-1]), 0.03)


def _closing(robot: Robot, driven: dict[str, float]) -> dict[str, float]:
    from mooring.kinematics import loop_velocities

    tree = robot.tree()
    v = loop_velocities(tree, tree.neutral(), driven)
    return dict(zip(tree.freedoms, np.asarray(v, dtype=float).tolist(), strict=True))


class OutOfLine(unittest.TestCase):
    """A four-bar of three joints and a hinge, whose pins are as parallel as pins are made."""

    def machine(self, tilt: float, off: float) -> Robot:
        random = np.random.default_rng(1)
        robot = Robot("four_bar")
        robot.add_link("post")
        for name, centre, moment in (
            ("crank", (0, 0, 0.1), 0.004), ("coupler", (0.2, 0, 0), 0.01),
            ("rocker", (0, 0, 0.15), 0.006),
        ):  # fmt: skip
            robot.add_link(name, mass=1.0, centre=centre, inertia=(moment,) * 3)

        def pin() -> dict[str, tuple[float, ...]]:
            lean, aside = tilt * random.normal(size=2), off * random.normal()
            return {"axis": (lean[0], 1.0, lean[1]), "aside": (0, aside, 0)}

        for name, parent, child, at in (
            ("turn", "post", "crank", (0, 0, 0)), ("knee", "crank", "coupler", (0, 0, 0.2)),
            ("rock", "post", "rocker", (0.4, 0, 0)),
        ):  # fmt: skip
            one = pin()
            robot.add_joint(
                name, "continuous", parent=parent, child=child, axis=one["axis"],
                at=tuple(np.add(at, one["aside"])),
            )  # fmt: skip
        robot.add_closure(
            "pin", "hinge", between=("coupler", "rocker"), at=(0.4, 0, 0.2), axis=pin()["axis"]
        )
        return robot

    def test_it_moves_as_the_exact_one_and_says_what_it_left_out(self) -> None:
        speeds = {"turn": 1.0, "knee": -1.0, "rock": 1.0}
        for stepper in ("robust", "accurate"):
            exact = None
            for tilt, off in ((0.0, 0.0), (1e-6, 0.0), (1e-4, 1e-5), (1e-3, 1e-4)):
                run = simulate(
                    self.machine(tilt, off), velocities=speeds, seconds=1, stepper=stepper
                )
                angle = run.table["turn.position"].to_numpy()
                exact = angle if exact is None else exact
                np.testing.assert_allclose(angle, exact, atol=20 * tilt**2 + 1e-8)
                self.assertRegex(" ".join(run.notes), "hold 3 directions more than once")

    def test_a_loop_that_is_too_far_out_of_line_is_told_to_be_seized(self) -> None:
        run = simulate(self.machine(0.02, 0.0), seconds=0.5)
        self.assertEqual(run.findings[0].code, "loop-seized")


class Problems(unittest.TestCase):
    """Machines whose motion is known: see `benchmarks/problems.py`."""

    def test_both_steppers_come_to_the_truth_and_at_their_order(self) -> None:
        for make in PROBLEMS:
            problem = make()
            with self.subTest(problem.name):
                self.assertLess(problem.error(1e-3, "accurate"), 1e-8)
                coarse, fine = (problem.error(step, "robust") for step in (2e-3, 1e-3))
                self.assertLess(fine, 5e-5)
                self.assertLess(fine, 0.4 * coarse)

    def test_bricards_six_bars_move_and_keep_their_energy(self) -> None:
        """A count of freedoms gives none; and its hinges turn past half a turn."""
        ends = []
        for stepper, kept in (("robust", 2e-3), ("accurate", 1e-7)):
            simulation = Simulation(bricard(), stepper=stepper, gravity=(0, -9.81, 0))
            simulation.step(seconds=3)
            table = simulation.recording.table
            energy = table["energy.kinetic"] + table["energy.potential"]
            self.assertLess(np.ptp(energy), kept)
            self.assertGreater(table["energy.kinetic"].max(), 60.0)
            self.assertEqual(simulation.recording.findings, [])
            ends.append(simulation.state.positions["hinge_1"])
        self.assertAlmostEqual(*ends, delta=2e-5)

    def test_a_disk_rolls_on_a_plane_as_newton_and_euler_say(self) -> None:
        lean, spin, turn, radius = 0.35, 12.0, 1.5, 0.2
        scene = Scene("plane", ground=Ground())
        shape = {"cylinder": {"radius": radius, "length": 1e-4}, "at": {"rpy": (np.pi / 2, 0, 0)}}
        scene.robot.add_material("grip", density=1000, friction=3.0)
        scene.ground = Ground(material="grip")
        scene.robot.add_link("disk", mass=1.0, material="grip", collision=shape,
                             inertia=tuple(radius**2 * np.array([0.25, 0.5, 0.25])))  # fmt: skip
        place = {"xyz": (0, 0, radius * np.cos(lean)), "rpy": (lean, 0, 0)}
        scene.robot.add_joint("disk", "floating", parent="world", child="disk", at=place)
        up = rotation_about((1, 0, 0), lean).T @ (0, 0, 1)
        rates = spin * np.array([0, 1, 0]) + turn * up
        # It rolls: what touches the ground stands still.
        lowest = np.array([0, 0, -radius])
        speeds = dict(zip(("wx", "wy", "wz", "vx", "vy", "vz"),
                          [*rates, *-np.cross(rates, lowest)], strict=True))  # fmt: skip
        truth = rolling_disk(lean, spin, turn, radius, 1.0)
        simulation = Simulation(
            scene, velocities={f"disk.{k}": float(v) for k, v in speeds.items()}, step=2.5e-4
        )
        simulation.step(seconds=1)
        pose = simulation.pose("disk")
        np.testing.assert_allclose(pose[:3, 3], truth[:3], atol=0.01)
        np.testing.assert_allclose(pose[:3, 1], truth[3:], atol=0.02)
