"""Motion against closed forms and conservation laws."""

import unittest

import numpy as np
from scipy.special import ellipk

from mooring import Robot, dynamics, kinematics, simulate
from mooring.dynamics import STANDARD_GRAVITY
from mooring.errors import ModelError, UnsoundRobotError
from tests.support import line_tender, pendulum


def slider(**joint: object) -> Robot:
    """A 10 kg block on a level slide along x."""
    robot = Robot("slider")
    robot.add_link("rail")
    robot.add_link("block", mass=10.0, inertia=(1, 1, 1))
    limits = {"lower": -5.0, "upper": 5.0, **joint}
    robot.add_joint("slide", "prismatic", parent="rail", child="block", axis="x", **limits)  # type: ignore[arg-type]
    return robot


class SmoothMotion(unittest.TestCase):
    def test_a_double_pendulum_keeps_its_energy(self) -> None:
        robot = Robot("double")
        robot.add_link("post")
        robot.add_link("upper", mass=2.0, centre=(0, 0, -0.4), inertia=(0.1, 0.1, 0.02))
        robot.add_link("lower", mass=1.0, centre=(0, 0, -0.3), inertia=(0.05, 0.05, 0.01))
        robot.add_joint("shoulder", "continuous", parent="post", child="upper", axis="y")
        robot.add_joint(
            "elbow", "continuous", parent="upper", child="lower", axis="y", at=(0, 0, -0.8)
        )
        run = simulate(
            robot,
            posture={"shoulder": 2.0, "elbow": 1.0},
            seconds=20,
            step="0.4 ms",
            stepper="accurate",
        )
        energy = run.table["energy.kinetic"] + run.table["energy.potential"]
        self.assertGreater(run.table["energy.kinetic"].max(), 10)
        self.assertLess(float(np.ptp(energy)), 1e-8)

    def test_a_pendulums_period_at_large_amplitude(self) -> None:
        amplitude = np.radians(120)
        run = simulate(
            pendulum(1.3), posture={"swing": amplitude}, seconds=8, stepper="accurate", rate=1000
        )
        angle = run.table["swing.position"].to_numpy()
        times = run.table.index.to_numpy()
        falls = np.flatnonzero((angle[:-1] > 0) & (angle[1:] <= 0))
        crossings = times[falls] + 1e-3 * angle[falls] / (angle[falls] - angle[falls + 1])
        period = 4 * np.sqrt(1.3 / STANDARD_GRAVITY) * ellipk(np.sin(amplitude / 2) ** 2)
        self.assertAlmostEqual(float(np.diff(crossings).mean()) / period, 1, delta=1e-6)

    def test_the_robust_stepper_converges_with_the_step(self) -> None:
        ends = []
        exact = simulate(pendulum(), posture={"swing": 1.0}, seconds=1, stepper="accurate")
        for step in ("2 ms", "1 ms"):
            run = simulate(pendulum(), posture={"swing": 1.0}, seconds=1, step=step)
            ends.append(abs(run.table["swing.position"].iloc[-1]
                            - exact.table["swing.position"].iloc[-1]))  # fmt: skip
        self.assertLess(ends[1], 0.55 * ends[0])

    def test_damping_is_exponential(self) -> None:
        run = simulate(
            slider(damping=4.0), velocities={"slide": 1.0}, seconds=2, stepper="accurate"
        )
        t = run.table.index.to_numpy()
        np.testing.assert_allclose(run.table["slide.velocity"], np.exp(-0.4 * t), atol=1e-9)
        lost = run.table["energy.damping"].iloc[-1]
        self.assertAlmostEqual(lost + run.table["energy.kinetic"].iloc[-1], 5.0, places=9)


class RoughMotion(unittest.TestCase):
    def test_dry_friction_brakes_evenly_and_then_holds(self) -> None:
        run = simulate(slider(friction=20.0), velocities={"slide": 1.0}, seconds=1)
        # 20 N on 10 kg: 2 m/s^2, at rest after 0.5 s and 0.25 m.
        at_rest = run.table["slide.velocity"].abs() < 1e-9
        self.assertAlmostEqual(at_rest.idxmax(), 0.5, delta=0.011)
        self.assertAlmostEqual(run.table["slide.position"].iloc[-1], 0.25, delta=1e-3)
        self.assertAlmostEqual(run.table["energy.friction"].iloc[-1], 5.0, delta=0.02)

    def test_friction_holds_up_to_its_limit_and_no_further(self) -> None:
        holding = 2.0 * STANDARD_GRAVITY * np.sin(0.3)
        for share, moves in ((1.01, False), (0.99, True)):
            robot = pendulum(friction=share * holding)
            run = simulate(robot, posture={"swing": 0.3}, seconds=1)
            self.assertEqual(abs(run.table["swing.position"].iloc[-1] - 0.3) > 1e-3, moves)

    def test_a_stop_stops_and_is_told(self) -> None:
        run = simulate(slider(upper="300 mm"), velocities={"slide": 1.0}, seconds=1)
        self.assertLess(run.table["slide.position"].max(), 0.3 + 1e-6)
        self.assertLess(run.table["slide.velocity"].iloc[-1], 1e-9)
        finding = run.diagnose()[0]
        self.assertEqual((finding.code, finding.item), ("at-stop", "slide"))
        self.assertAlmostEqual(finding.since, 0.3, delta=2e-3)

    def test_a_motor_is_as_strong_as_its_limit_and_no_stronger(self) -> None:
        robot = slider(effort="50 N")
        robot.add_motor("drive", joint="slide", p="1e6 N/m", d="1e4 N*s/m")
        robot.add_posture("out", {"slide": "2 m"})
        robot.add_posture("in", {})
        run = simulate(robot, motion=[_step("in"), _step("out", 0.1)], seconds=0.6)
        # From 0.1 s on the target is away: 50 N on 10 kg all the time.
        velocity = run.table["slide.velocity"]
        rate = (velocity[0.6] - velocity[0.2]) / 0.4
        self.assertAlmostEqual(rate, 5.0, delta=1e-6)
        self.assertLessEqual(run.table["slide.effort"].abs().max(), 50 + 1e-9)
        self.assertIn("at its limit of 50 N", run.diagnose()[0].message)

    def test_stiff_motors_do_not_explode_and_hold_what_statics_says(self) -> None:
        robot = pendulum(effort=1e6)
        robot.add_motor("drive", joint="swing", p="1e8 N*m/rad", d="1e5 N*m*s/rad")
        run = simulate(robot, posture={"swing": 0.7}, seconds=1)
        held = 2.0 * STANDARD_GRAVITY * np.sin(0.7)
        self.assertAlmostEqual(run.table["swing.effort"].iloc[-1], held, delta=1e-4)

    def test_a_missing_motor_or_mass_is_told(self) -> None:
        robot = pendulum()
        robot.add_posture("up", {"swing": 1.0})
        robot.add_posture("down", {})
        run = simulate(robot, motion=[_step("down"), _step("up", 0.5)])
        self.assertIn("no motor moves swing", " ".join(run.notes))
        robot = Robot("light")
        robot.add_link("a")
        robot.add_link("b")
        robot.add_joint("j", "continuous", parent="a", child="b")
        with self.assertRaisesRegex(UnsoundRobotError, "'b' moves, and neither it nor anything"):
            simulate(robot)
        with self.assertRaisesRegex(ModelError, "has no dry friction"):
            simulate(line_tender(), stepper="accurate")


def _step(to: str, over: float | None = None) -> object:
    from mooring.model import MotionStep

    return MotionStep(to=to, over=over)


class TheLineTender(unittest.TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        cls.run_ = simulate(line_tender(), motion="lay_line")

    def test_the_cylinder_holds_what_virtual_work_says(self) -> None:
        # At rest the force is the slope of the potential energy along the extension.
        robot, tree = line_tender(), line_tender().tree()
        held = simulate(robot, posture="gripping", seconds=2)
        here = dict(zip(held.joints, held.positions()[-1], strict=True))
        heights = []
        for shift in (1e-5, -1e-5):
            fixed = {j: here[j] for j in ("slew", "telescope", "wrist_pitch")}
            q = kinematics.configuration(robot, fixed | {"extension": here["extension"] + shift})
            heights.append(float(dynamics.potential_energy(tree, q)))
        slope = (heights[0] - heights[1]) / 2e-5
        # Dry friction in the cylinder may carry up to 250 N of it.
        self.assertAlmostEqual(held.table["extension.effort"].iloc[-1], slope, delta=250)
        self.assertGreater(slope, 3000)

    def test_loops_stay_closed_and_followers_follow(self) -> None:
        table = self.run_.table
        self.assertLess(table["loops.gap"].max(), 1e-6)
        np.testing.assert_allclose(
            table["starboard_jaw_hinge.position"], -table["port_jaw_hinge.position"], atol=1e-6
        )

    def test_energy_is_accounted_for(self) -> None:
        t = self.run_.table
        stored = t["energy.kinetic"] + t["energy.potential"]
        balance = (
            t["energy.motors"] - t["energy.damping"] - t["energy.friction"]
            - (stored - stored.iloc[0])
        )  # fmt: skip
        self.assertLess(balance.abs().max(), 0.01 * t["energy.motors"].abs().max())

    def test_targets_are_reached_within_limits(self) -> None:
        t, limits = self.run_.table, line_tender().tree().joints
        for k, joint in enumerate(line_tender().coordinates):
            self.assertLess(t[f"{joint}.velocity"].abs().max(), 1.03 * limits.velocity[k])
        for joint in self.run_.driven:
            miss = (t[f"{joint}.target"] - t[f"{joint}.position"]).abs()
            self.assertLess(miss.max(), 0.02, joint)
        self.assertTrue(self.run_.complete)

    def test_a_run_repeats_to_the_last_bit(self) -> None:
        again = simulate(line_tender(), motion="lay_line", seconds=3)
        np.testing.assert_array_equal(again.table, self.run_.table.iloc[: len(again.table)])
