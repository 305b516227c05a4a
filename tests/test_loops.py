"""Closed loops: every kind of closure, against closed forms."""

import unittest

import numpy as np

from mooring import Robot, dynamics, kinematics, simulate
from mooring.dynamics import STANDARD_GRAVITY
from mooring.errors import ModelError, RunError

CRANK, ROD = 0.2, 0.5


def slider_crank(**slide: object) -> Robot:
    """A crank and a rod in the x-z plane, the rod's end pinned to a block on a slide along x."""
    robot = Robot("slider_crank")
    robot.add_link("frame")
    robot.add_link("crank", mass=1.0, centre=(CRANK / 2, 0, 0), inertia=(1e-3, 4e-3, 4e-3))
    robot.add_link("rod", mass=2.0, centre=(ROD / 2, 0, 0), inertia=(1e-3, 0.04, 0.04))
    robot.add_link("block", mass=3.0, inertia=(0.01, 0.01, 0.01))
    robot.add_joint("crank", "continuous", parent="frame", child="crank", axis="-y")
    robot.add_joint(
        "knuckle", "continuous", parent="crank", child="rod", axis="-y", at=(CRANK, 0, 0)
    )
    limits = {"lower": -1, "upper": 0.01, **slide}
    robot.add_joint(
        "slide", "prismatic", parent="frame", child="block", axis="x",
        at=(CRANK + ROD, 0, 0), **limits,  # type: ignore[arg-type]
    )  # fmt: skip
    robot.add_closure("wrist_pin", "hinge", between=("rod", "block"), at=(ROD, 0, 0), axis="y")
    return robot


class Kinematics(unittest.TestCase):
    def test_a_slider_crank_follows_its_closed_form(self) -> None:
        robot = slider_crank()
        tree = robot.tree()
        q = kinematics.configuration(robot, {"crank": 0.3})
        for angle in np.linspace(0.3, 0.3 + 2 * np.pi, 73):
            q[tree.coordinate("crank")] = angle
            # From the last position on: the branch is kept.
            q = kinematics.close_loops(tree, q, held=["crank"])
            reach = CRANK * np.cos(angle) + np.sqrt(ROD**2 - (CRANK * np.sin(angle)) ** 2)
            self.assertAlmostEqual(q[tree.coordinate("slide")], reach - CRANK - ROD, places=9)

    def test_the_gap_is_what_poses_say(self) -> None:
        robot = slider_crank()
        tree = robot.tree()
        q = kinematics.configuration(robot, {"crank": 1.1})
        poses = kinematics.link_poses(tree, q)
        end = poses[tree.link("rod")] @ [ROD, 0, 0, 1]
        np.testing.assert_allclose(end, poses[tree.link("block")][:, 3], atol=1e-9)

    def test_every_kind_of_closure_leaves_its_freedoms(self) -> None:
        # A body on six joints (three slides, three turns) held to the frame by one closure.
        held = {"ball": 3, "hinge": 5, "slide": 5, "weld": 6}
        for kind, count in held.items():
            robot = Robot("free")
            robot.add_link("frame")
            parent = "frame"
            for number, (motion, axis) in enumerate(
                [("prismatic", a) for a in "xyz"] + [("revolute", a) for a in "xyz"]
            ):
                robot.add_link(f"body_{number}", mass=1, inertia=(1, 1, 1))
                robot.add_joint(
                    f"joint_{number}", motion, parent=parent, child=f"body_{number}",
                    axis=axis, lower=-1, upper=1,
                )  # fmt: skip
                parent = f"body_{number}"
            robot.add_closure("held", kind, between=("frame", parent), at=(0.3, 0.2, 0.1), axis="x")
            tree = robot.tree()
            start = np.array([0.05, -0.04, 0.03, 0.06, -0.05, 0.04])
            q = kinematics.close_loops(tree, start, held=[])
            pose = kinematics.link_poses(tree, q)[-1]
            point = (pose @ [0.3, 0.2, 0.1, 1])[:3] - [0.3, 0.2, 0.1]
            along = pose[:3, 0]
            if kind != "slide":
                np.testing.assert_allclose(point, 0, atol=1e-8)
            else:
                np.testing.assert_allclose(point[1:], 0, atol=1e-8)
                self.assertGreater(abs(point[0]), 1e-3)
            if kind != "ball":
                np.testing.assert_allclose(along, [1, 0, 0], atol=1e-8)
            if kind == "hinge":
                self.assertGreater(abs(pose[1, 2]), 1e-3)
            if kind in ("slide", "weld"):
                np.testing.assert_allclose(pose[:3, :3], np.eye(3), atol=1e-8)
            self.assertEqual(int(tree.loops.held.sum()), count)

    def test_what_cannot_close_says_why(self) -> None:
        with self.assertRaisesRegex(RunError, "slide would have to go beyond the limits"):
            kinematics.configuration(slider_crank(lower="-50 mm"), {"crank": "90 deg"})
        with self.assertRaisesRegex(RunError, "remain open"):
            kinematics.configuration(slider_crank(), {"slide": "-900 mm"})
        robot = slider_crank()
        with self.assertRaisesRegex(ModelError, "no link is called 'blok'; did you mean 'block'"):
            robot.add_closure("second", "ball", between=("rod", "blok"))


class Dynamics(unittest.TestCase):
    def test_a_falling_slider_crank_keeps_the_energy_of_lagranges_equation(self) -> None:
        # One freedom: with everything on the crank angle, speed follows from energy alone.
        robot = slider_crank(upper=1)
        run = simulate(robot, posture={"crank": "80 deg"}, seconds=0.6, step="0.1 ms")
        tree = robot.tree()
        table = run.table
        self.assertLess(table["loops.gap"].max(), 1e-6)
        start = float(dynamics.potential_energy(tree, run.positions()[0]))
        for row in (20, 40, 59):
            q = run.positions()[row]
            angle = q[tree.coordinate("crank")]
            speeds = []
            for shift in (1e-6, -1e-6):
                moved = q.copy()
                moved[tree.coordinate("crank")] = angle + shift
                speeds.append(kinematics.close_loops(tree, moved, held=["crank"]))
            ratio = (speeds[0] - speeds[1]) / 2e-6
            inertia = ratio @ dynamics.mass_matrix(tree, q) @ ratio
            fallen = start - float(dynamics.potential_energy(tree, q))
            expected = -np.sqrt(2 * fallen / inertia)
            self.assertAlmostEqual(table["crank.velocity"].iloc[row] / expected, 1, delta=2e-3)

    def test_a_gear_pair_moves_with_the_inertia_seen_through_the_ratio(self) -> None:
        robot = Robot("gears")
        robot.add_link("case")
        for name, inertia in (("pinion", 0.01), ("wheel", 0.5)):
            robot.add_link(name, mass=1, inertia=(inertia, inertia, inertia))
            robot.add_joint(name, "continuous", parent="case", child=name, effort=2.0)
        robot.add_coupling("wheel", follows="pinion", ratio=-0.25)
        # A motor that can never hold its target pushes with its limit.
        robot.add_motor("drive", joint="pinion", p=1e9)
        robot.add_posture("far", {"pinion": 100.0})
        robot.add_posture("here", {})
        from mooring.model import MotionStep

        run = simulate(
            robot, motion=[MotionStep(to="here"), MotionStep(to="far", over=0.001)], seconds=0.5
        )
        rate = run.table["pinion.velocity"].iloc[-1] / 0.5
        self.assertAlmostEqual(rate, 2.0 / (0.01 + 0.5 * 0.25**2), delta=0.5)
        np.testing.assert_allclose(
            run.table["wheel.velocity"], -0.25 * run.table["pinion.velocity"], atol=1e-6
        )

    def test_a_closed_loop_hangs_still_with_the_weight_on_its_pins(self) -> None:
        # A bar on two equal cords: the parallelogram's lowest place is where it stays.
        robot = Robot("swing")
        robot.add_link("beam")
        robot.add_link("left", mass=0.1, centre=(0, 0, -0.5), inertia=(0.01, 0.01, 1e-3))
        robot.add_link("right", mass=0.1, centre=(0, 0, -0.5), inertia=(0.01, 0.01, 1e-3))
        robot.add_link("seat", mass=5.0, centre=(0.3, 0, 0), inertia=(0.1, 0.1, 0.1))
        robot.add_joint("a", "continuous", parent="beam", child="left", axis="y", damping=3)
        robot.add_joint("b", "continuous", parent="beam", child="right", axis="y", at=(0.6, 0, 0))
        robot.add_joint("c", "continuous", parent="left", child="seat", axis="y", at=(0, 0, -1))
        robot.add_closure("d", "ball", between=("seat", "right"), at=(0.6, 0, 0))
        run = simulate(robot, posture={"a": 0.4}, seconds=12)
        self.assertLess(run.table["a.position"].iloc[-1], 0.02)
        self.assertLess(run.table["loops.gap"].max(), 1e-5)
        lost = run.table["energy.damping"].iloc[-1]
        height = (1 - np.cos(0.4)) * (5.0 + 2 * 0.1 * 0.5) * STANDARD_GRAVITY
        self.assertAlmostEqual(lost, height, delta=0.01 * height)
