"""Mechanisms with loops against closed forms, and the motion of points against differences."""

import unittest

import numpy as np
from scipy.spatial.transform import Rotation

from mooring import Robot, kinematics
from mooring.errors import ModelError, RunError
from mooring.geometry import Array
from mooring.tree import Tree
from tests.support import line_tender, random_robot
from tests.test_loops import CRANK, ROD, slider_crank


def four_bar(crank: float, coupler: float, rocker: float, ground: float) -> Robot:
    """A crank on the ground at 0, a rocker on the ground at (ground, 0), a coupler between.

    At zero the crank lies along the ground; the coupler's ends are where they then are.
    """
    robot = Robot("four_bar")
    robot.add_link("ground")
    reach = ground - crank
    # Where coupler and rocker meet, above the ground.
    x = (coupler**2 - rocker**2 + reach**2) / (2 * reach)
    y = np.sqrt(coupler**2 - x**2)
    for name in ("crank", "coupler", "rocker"):
        robot.add_link(name, mass=1, inertia=(1, 1, 1))
    robot.add_joint("crank", "continuous", parent="ground", child="crank")
    robot.add_joint("knee", "continuous", parent="crank", child="coupler", at=(crank, 0, 0))
    robot.add_joint("rocker", "continuous", parent="ground", child="rocker", at=(ground, 0, 0))
    robot.add_closure("pin", "hinge", between=("coupler", "rocker"), at=(x, y, 0))
    return robot


def parallelogram() -> Robot:
    """Two equal cranks and a coupler as long as the ground; flat at zero and at half a turn."""
    robot = Robot("parallelogram")
    for name in ("ground", "left", "right", "bar"):
        robot.add_link(name, mass=1, inertia=(1, 1, 1))
    robot.add_joint("left", "continuous", parent="ground", child="left", axis="z")
    robot.add_joint("right", "continuous", parent="ground", child="right", at=(1.0, 0, 0))
    place = {"xyz": (0.3, 0, 0), "rpy": (0, 0, 0)}
    robot.add_joint("knee", "continuous", parent="left", child="bar", at=place)
    robot.add_closure("pin", "hinge", between=("bar", "right"), at=(1.0, 0, 0))
    return robot


class ClosedForms(unittest.TestCase):
    def test_a_four_bar_over_a_full_turn(self) -> None:
        a, b, c, d = 0.2, 0.5, 0.4, 0.5
        robot = four_bar(a, b, c, d)
        tree = robot.tree()
        start = np.arctan2(*self.pin(a, b, c, d, 0.0)[::-1])
        q = tree.neutral()
        for angle in np.linspace(0, 2 * np.pi, 61):
            q = kinematics.follow_branch(tree, q, {"crank": angle}).q
            x, y = self.pin(a, b, c, d, angle)
            expected = np.arctan2(y, x) - start
            off = q[tree.coordinate("rocker")] - expected
            self.assertAlmostEqual(np.sin(off / 2), 0, delta=1e-9)
        found = kinematics.mobility(robot)
        self.assertEqual((found.counted, found.actual, found.here, found.repeated), (-2, 1, 1, 3))
        self.assertIn("exact alignment, or play, 3 times", str(found))

    def pin(self, a: float, b: float, c: float, d: float, angle: float) -> tuple[float, float]:
        """From the rocker's pivot to the pin: two circles meet, on the upper side."""
        knee = np.array([a * np.cos(angle), a * np.sin(angle)])
        way = np.array([d, 0.0]) - knee
        length = np.hypot(*way)
        along = (b**2 - c**2 + length**2) / (2 * length)
        up = np.sqrt(b**2 - along**2)
        unit = way / length
        x, y = knee + along * unit + up * np.array([-unit[1], unit[0]])
        return x - d, y

    def test_a_five_bar_with_two_drives(self) -> None:
        robot = Robot("five_bar")
        for name in ("ground", "left", "right", "left_rod", "right_rod"):
            robot.add_link(name, mass=1, inertia=(1, 1, 1))
        robot.add_joint("left", "continuous", parent="ground", child="left", at=(-0.2, 0, 0))
        robot.add_joint("right", "continuous", parent="ground", child="right", at=(0.2, 0, 0))
        # At zero both cranks point up; the rods meet above the middle.
        top = 0.3 + np.sqrt(0.5**2 - 0.2**2)
        robot.add_joint("left_knee", "continuous", parent="left", child="left_rod", at=(0, 0.3, 0))
        robot.add_joint(
            "right_knee", "continuous", parent="right", child="right_rod", at=(0, 0.3, 0)
        )
        robot.add_closure("tip", "hinge", between=("left_rod", "right_rod"), at=(0.2, top - 0.3, 0))
        robot.add_frame("tip", link="left_rod", at=(0.2, top - 0.3, 0))
        tree = robot.tree()
        self.assertEqual(kinematics.mobility(robot).actual, 2)
        q = tree.neutral()
        for t in np.linspace(0, 2 * np.pi, 25):
            left, right = 0.5 * np.sin(t), 0.4 * np.cos(t) - 0.4
            q = kinematics.follow_branch(tree, q, {"left": left, "right": right}).q
            knees = [np.array([x - 0.3 * np.sin(r), 0.3 * np.cos(r)])
                     for x, r in ((-0.2, left), (0.2, right))]  # fmt: skip
            half = (knees[1] - knees[0]) / 2
            up = np.sqrt(0.25 - half @ half) / np.hypot(*half) * np.array([-half[1], half[0]])
            expected = knees[0] + half + up
            tip = kinematics.frame_poses(tree, q)["tip"][:2, 3]
            np.testing.assert_allclose(tip, expected, atol=1e-9)

    def test_speeds_through_the_slider_crank(self) -> None:
        robot = slider_crank()
        tree = robot.tree()
        for angle in (0.4, 1.3, 2.2):
            q = kinematics.configuration(robot, {"crank": angle})
            v = kinematics.loop_velocities(tree, q, {"crank": 3.0})
            root = np.sqrt(ROD**2 - (CRANK * np.sin(angle)) ** 2)
            speed = -3 * CRANK * np.sin(angle) * (1 + CRANK * np.cos(angle) / root)
            self.assertAlmostEqual(v[tree.freedom("slide")], speed, places=9)
            back = kinematics.loop_velocities(tree, q, {"slide": speed})
            np.testing.assert_allclose(back, v, atol=1e-8)
        # Stretched out, the slide cannot drive the crank.
        with self.assertRaisesRegex(RunError, "dead point"):
            kinematics.loop_velocities(tree, tree.neutral(), {"slide": -0.1})
        stops = kinematics.dead_points(slider_crank(lower=-0.39), "slide", steps=41)
        self.assertIn(0.0, [round(point.position, 3) for point in stops])

    def test_the_parallelogram_keeps_its_branch_or_says_so(self) -> None:
        robot = parallelogram()
        tree = robot.tree()
        self.assertTrue(kinematics.mobility(robot).at_dead_point)
        q = tree.neutral()
        for name, value in (("left", 1.2), ("knee", -1.2), ("right", 1.2)):
            q[tree.coordinate(name)] = value
        np.testing.assert_allclose(kinematics.close_loops(tree, q, ["left"]), q, atol=1e-12)
        # Over the flat posture at half a turn it goes straight on.
        over = kinematics.follow_branch(tree, q, {"left": 5.1})
        self.assertAlmostEqual(over.q[tree.coordinate("right")], 5.1, places=6)
        # From there on nobody can know, and that is said.
        flat = kinematics.follow_branch(tree, q, {"left": np.pi})
        self.assertTrue(kinematics.follow_branch(tree, flat.q, {"left": 5.1}).doubts)

    def test_the_tender_lifts_its_boom_with_its_cylinder(self) -> None:
        robot = line_tender()
        tree = robot.tree()
        for q in (kinematics.configuration(robot, {"extension": x}) for x in (0.1, 0.4)):
            v = kinematics.loop_velocities(tree, q, {"extension": 0.05})
            tip = kinematics.velocity(tree, q, v, "jib", (1.0, 0, 0))
            self.assertGreater(tip[5], 0.01)
            again = kinematics.loop_velocities(tree, q, {"luff": v[tree.freedom("luff")]})
            np.testing.assert_allclose(again, v, atol=1e-9)


class Points(unittest.TestCase):
    def machine(self, seed: int) -> tuple[object, Array, Array, Array]:
        robot = random_robot(seed)
        robot.base = "floating" if seed % 2 else "fixed"
        robot.add_frame("spot", link="link_8", at={"xyz": (0.1, 0.2, 0.3), "rpy": (1, 2, 3)})
        tree = robot.tree()
        random = np.random.default_rng(seed)
        q = tree.neutral()
        joints = [tree.coordinate(n) for n in tree.coordinates if n in tree.freedoms]
        q[joints] = random.normal(size=len(joints))
        if seed % 2:
            q[:3] = random.normal(size=3)
            q[3:7] = Rotation.random(random_state=seed).as_quat()
        v, a = random.normal(size=(2, len(tree.freedoms)))
        return tree, q, v, a

    def after(self, tree: Tree, q: Array, v: Array, a: Array, t: float) -> tuple[Array, Array]:
        """The state a little later, to third order in the time."""
        return tree.moved(q, v + a * t / 2, t), v + a * t

    def test_rates_and_accelerations_are_derivatives(self) -> None:
        h = 1e-5
        for seed in range(4):
            tree, q, v, a = self.machine(seed)
            (q1, v1), (q2, v2) = (self.after(tree, q, v, a, t) for t in (h, -h))
            for name in ("spot", "link_3"):
                point = (0.3, -0.1, 0.2)
                ahead, behind = (kinematics.jacobian(tree, x, name, point) for x in (q1, q2))
                rate = kinematics.jacobian_rate(tree, q, v, name, point)
                np.testing.assert_allclose(rate, (ahead - behind) / (2 * h), atol=2e-6)
                ahead, behind = (kinematics.velocity(tree, x, u, name, point)
                                 for x, u in ((q1, v1), (q2, v2)))  # fmt: skip
                found = kinematics.acceleration(tree, q, v, a, name, point)
                np.testing.assert_allclose(found, (ahead - behind) / (2 * h), atol=2e-5)
            one, two = (kinematics.centre_of_mass(tree, x) for x in (q1, q2))
            speed = kinematics.centre_of_mass_jacobian(tree, q) @ v
            np.testing.assert_allclose(speed, (one - two) / (2 * h), atol=1e-7)

    def test_names_are_checked(self) -> None:
        tree, q, *_ = self.machine(0)
        with self.assertRaisesRegex(ModelError, "no link or frame is called 'spott'.*'spot'"):
            kinematics.jacobian(tree, q, "spott")
