"""Inverse kinematics: reached targets are where forward kinematics says, and others say why."""

import unittest

import numpy as np

from mooring import Robot, kinematics
from mooring.errors import ModelError
from mooring.geometry import Array, rpy_from_rotation
from tests.support import line_tender


def arm() -> Robot:
    """Six joints, the last three with axes through one point; made up."""
    robot = Robot("arm")
    robot.add_link("base")
    rows = [
        {"d": "400 mm", "alpha": "-90 deg", "a": "25 mm"}, {"a": "455 mm"},
        {"a": "35 mm", "alpha": "-90 deg"}, {"d": "420 mm", "alpha": "90 deg"},
        {"alpha": "-90 deg"}, {"d": "80 mm"},
    ]  # fmt: skip
    limits = {"lower": "-150 deg", "upper": "150 deg"}
    robot.add_chain(
        "arm", base="base", convention="standard", rows=[{**row, "limits": limits} for row in rows]
    )
    return robot


def off(robot: Robot, frame: str, q: Array, target: Array) -> tuple[float, float]:
    """Distance and angle between a frame and a target, by forward kinematics."""
    actual = kinematics.frame_poses(robot.tree(), q)[frame]
    turn = actual[:3, :3].T @ target[:3, :3]
    angle = np.arctan2(np.linalg.norm(turn - turn.T) / np.sqrt(8), (np.trace(turn) - 1) / 2)
    return float(np.linalg.norm(actual[:3, 3] - target[:3, 3])), float(angle)


class Arms(unittest.TestCase):
    def test_a_thousand_reachable_poses(self) -> None:
        robot = arm()
        tree = robot.tree()
        random = np.random.default_rng(42)
        solved = 0
        for _ in range(1000):
            there = random.uniform(-2.6, 2.6, 6)
            target = kinematics.frame_poses(tree, there)["arm_end"]
            found = kinematics.solve_ik(robot, "arm_end", target, tree=tree)
            distance, angle = off(robot, "arm_end", found.q, target)
            met = distance <= 1e-6 and angle <= 1e-6
            self.assertEqual(met, found.reached)
            self.assertLessEqual(np.abs(found.q).max(), np.radians(150) + 1e-12)
            solved += met
        self.assertGreaterEqual(solved, 995)

    def test_out_of_reach_says_how_far_and_why(self) -> None:
        robot = arm()
        reach = 0.025 + 0.455 + np.hypot(0.035, 0.42 + 0.08)
        found = kinematics.solve_ik(robot, "arm_end", (3.0, 0, 0.4))
        self.assertFalse(found.reached)
        # Stretched out from the shoulder's axis; the offset of the elbow costs a little.
        self.assertAlmostEqual(found.distance, 3.0 - reach, delta=2e-3)
        self.assertIn("out of reach", str(found))
        robot.joints["arm_joint_1"].limits.upper = 0.2
        found = kinematics.solve_ik(
            robot, "arm_end", (0, 0.6, 0.4), joints=["arm_joint_1", "arm_joint_2", "arm_joint_3"]
        )
        behind = kinematics.solve_ik(robot, "arm_end", (0.3, 0.6, 0.4), starts=3)
        self.assertTrue(found.reached or "arm_joint_1 at its upper limit" in str(found))
        self.assertEqual(behind.reached, behind.distance < 1e-6)

    def test_parts_of_a_target_and_weights(self) -> None:
        robot = arm()
        tree = robot.tree()
        there = kinematics.frame_poses(tree, [0.3, -0.8, 0.4, 0.5, 0.7, -0.2])["arm_end"]
        place = kinematics.solve_ik(robot, "arm_end", there[:3, 3])
        self.assertLess(off(robot, "arm_end", place.q, there)[0], 1e-6)
        turn = kinematics.solve_ik(robot, "arm_end", there[:3, :3])
        self.assertLess(off(robot, "arm_end", turn.q, there)[1], 1e-6)
        # A mapping says no more than it says.
        for said, same in (
            ({"xyz": there[:3, 3]}, place),
            ({"rpy": rpy_from_rotation(there[:3, :3])}, turn),
        ):
            np.testing.assert_allclose(
                kinematics.solve_ik(robot, "arm_end", said).q, same.q, atol=1e-9
            )
        # Without a weight about z the tool may turn about its own axis, and only about that.
        loose = kinematics.solve_ik(robot, "arm_end", there, weights=[1, 1, 0, 1, 1, 1], seed=5)
        pose = kinematics.frame_poses(tree, loose.q)["arm_end"]
        np.testing.assert_allclose(pose[:3, 2], there[:3, 2], atol=1e-5)
        np.testing.assert_allclose(pose[:3, 3], there[:3, 3], atol=1e-5)

    def test_the_nearest_solution(self) -> None:
        # Four parallel pins for a point in the plane: two freedoms to spare.
        robot = Robot("snake")
        robot.add_link("link_0")
        for k in range(4):
            robot.add_link(f"link_{k + 1}")
            robot.add_joint(
                f"pin_{k}", "continuous", parent=f"link_{k}", child=f"link_{k + 1}",
                at=(0.3 if k else 0, 0, 0),
            )  # fmt: skip
        robot.add_frame("tip", link="link_4", at=(0.3, 0, 0), role="tool")
        tree = robot.tree()
        near = np.array([0.5, 0.4, 0.3, 0.2])
        target = kinematics.frame_poses(tree, near + 0.15)["tip"][:3, 3]
        found = kinematics.solve_ik(robot, "tip", target, near=near, nearest=True, starts=4)
        self.assertTrue(found.reached)
        self.assertLess(np.linalg.norm(found.q - near), 0.3)
        # Nearest means that the rest of the way is across the solutions beside it.
        j = kinematics.jacobian(tree, found.q, "tip")[3:5]
        along = np.linalg.svd(j)[2][2:]
        self.assertLess(np.abs(along @ (near - found.q)).max(), 1e-4)

    def test_wrong_requests(self) -> None:
        robot = arm()
        for call, words in (
            (lambda: kinematics.solve_ik(robot, "arm_endd", (1, 0, 0)), "did you mean 'arm_end'"),
            (lambda: kinematics.solve_ik(robot, "arm_end", (1, 0)), "must be .3,., .3, 3. or"),
            (lambda: kinematics.solve_ik(robot, "arm_end", 2 * np.eye(4)), "no right-handed"),
            (lambda: kinematics.solve_ik(robot, "base", (1, 0, 0)), "no joint that may move"),
            (lambda: kinematics.solve_ik(robot, "arm_end", (1, 0, 0), weights=[1]), "six numbers"),
        ):
            with self.assertRaisesRegex(ModelError, words):
                call()


class Loops(unittest.TestCase):
    def test_the_tender_takes_its_grip_somewhere_with_its_cylinder_closed(self) -> None:
        robot = line_tender()
        tree = robot.tree()
        random = np.random.default_rng(1)
        for _ in range(20):
            there = kinematics.configuration(
                robot,
                {
                    "slew": random.uniform(-2.5, 2.5),
                    "luff": random.uniform(0, 0.8),
                    "telescope": random.uniform(0.05, 0.75),
                    "wrist_pitch": random.uniform(-1, 1),
                },
            )
            target = kinematics.frame_poses(tree, there)["grip"][:3, 3]
            found = kinematics.solve_ik(robot, "grip", target, near="stowed", tree=tree)
            self.assertTrue(found.reached, found)
            gap = kinematics.close_loops(tree, found.q, held=list(tree.freedoms[:1])) - found.q
            self.assertLess(np.abs(gap).max(), 1e-7)
            inside = (found.q >= tree.joints.lower - 1e-9) & (found.q <= tree.joints.upper + 1e-9)
            self.assertTrue(inside.all())

    def test_a_floating_base_moves_only_if_named(self) -> None:
        robot = arm()
        robot.base = "floating"
        far = (5.0, 1.0, 0.5)
        self.assertFalse(kinematics.solve_ik(robot, "arm_end", far, starts=2).reached)
        found = kinematics.solve_ik(robot, "arm_end", far, joints=["base", "arm_joint_2"])
        self.assertTrue(found.reached)
        self.assertLess(off(robot, "arm_end", found.q, np.array(
            [[1, 0, 0, 5.0], [0, 1, 0, 1.0], [0, 0, 1, 0.5], [0, 0, 0, 1]]))[0], 1e-6)  # fmt: skip
