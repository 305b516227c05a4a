"""Joints of several freedoms: the simple ones they are made of move as the textbooks say."""

import unittest

import numpy as np

import mooring
from mooring import Robot, check, dynamics, kinematics
from mooring.errors import DocumentError, ModelError
from mooring.geometry import placement, rotation_about, rotation_from_rpy
from tests.support import folder_for

PLACE = {"xyz": (0.1, 0.2, 0.3), "rpy": (0.5, -0.4, 0.2)}
FRAME = placement(PLACE["xyz"], rotation_from_rpy(PLACE["rpy"]))


def made(**entry: object) -> Robot:
    robot = Robot("made")
    for name in ("base", "arm"):
        robot.add_link(name, mass=2, centre=(0.1, 0, 0), inertia=(1, 2, 2.5))
    robot.add("joint", "hip", {"parent": "base", "child": "arm", "at": PLACE, **entry})
    return robot


class Motion(unittest.TestCase):
    def pose(self, robot: Robot, **q: float) -> np.ndarray:
        tree = robot.tree()
        poses = kinematics.link_poses(tree, kinematics.configuration(robot, q))
        return np.linalg.inv(FRAME) @ poses[tree.link("arm")]

    def test_a_ball_turns_by_roll_pitch_and_yaw(self) -> None:
        robot = made(type="spherical")
        self.assertEqual(robot.coordinates, ["hip_yaw", "hip_pitch", "hip_roll"])
        found = self.pose(robot, hip_roll=0.3, hip_pitch=-0.7, hip_yaw=1.9)
        np.testing.assert_allclose(found[:3, :3], rotation_from_rpy((0.3, -0.7, 1.9)), atol=1e-12)
        np.testing.assert_allclose(found[:3, 3], 0, atol=1e-12)

    def test_a_cross_turns_about_one_axis_then_the_other(self) -> None:
        robot = made(type="universal", axis="x", second_axis=[0, 1, 1])
        found = self.pose(robot, hip_first=0.4, hip_second=-1.1)
        second = np.array([0, 1, 1]) / np.sqrt(2)
        expected = rotation_about((1, 0, 0), 0.4) @ rotation_about(second, -1.1)
        np.testing.assert_allclose(found[:3, :3], expected, atol=1e-12)

    def test_planes_and_cylinders_slide_and_turn(self) -> None:
        robot = made(type="cylindrical", axis="y", slide={"limits": {"lower": 0, "upper": "2 m"}})
        found = self.pose(robot, hip_slide=0.6, hip_turn=2.0)
        np.testing.assert_allclose(found[:3, 3], (0, 0.6, 0), atol=1e-12)
        np.testing.assert_allclose(found[:3, :3], rotation_about((0, 1, 0), 2.0), atol=1e-12)
        robot = made(type="planar", axis="x")
        found = self.pose(robot, hip_along_x=0.3, hip_along_y=-0.4, hip_turn=1.0)
        self.assertAlmostEqual(found[0, 3], 0)
        self.assertAlmostEqual(np.linalg.norm(found[:3, 3]), 0.5)
        np.testing.assert_allclose(found[:3, :3], rotation_about((1, 0, 0), 1.0), atol=1e-12)

    def test_links_between_weigh_nothing_and_disturb_nothing(self) -> None:
        robot = made(type="spherical")
        self.assertEqual([f.code for f in check(robot) if f.severity == "error"], [])
        tree = robot.tree()
        q = np.array([0.2, 0.4, -0.3])
        # The kinetic energy of a turning body, by its own angular velocity.
        v = np.array([0.5, -0.8, 1.1])
        energy = v @ dynamics.mass_matrix(tree, q) @ v / 2
        step = 1e-6
        turn = [
            kinematics.link_poses(tree, q + s * step * v)[tree.link("arm"), :3, :3] for s in (-1, 1)
        ]
        spin = turn[0].T @ turn[1] / (2 * step)
        omega = (
            np.array([spin[2, 1] - spin[1, 2], spin[0, 2] - spin[2, 0], spin[1, 0] - spin[0, 1]])
            / 2
        )
        about = np.diag((1, 2, 2.5)) + 2 * np.diag((0, 0.01, 0.01))
        self.assertAlmostEqual(energy, omega @ about @ omega / 2, places=8)


class Words(unittest.TestCase):
    def test_the_document_and_what_it_refuses(self) -> None:
        file = folder_for(self) / "hip.yaml"
        text = (
            "mooring: 1\nlinks:\n  base:\n  arm: {mass: 2, inertia: [1, 1, 1]}\n"
            "joints:\n  hip:\n    type: universal\n    parent: base\n    child: arm\n"
            "    axis: z\n    second_axis: y\n    first: {limits: {lower: -90 deg, upper: 1}, damping: 2 N*m*s/rad}\n"
        )
        file.write_text(text)
        robot = mooring.read(file)
        self.assertEqual(robot.joints["hip_first"].type, "revolute")
        self.assertEqual(robot.joints["hip_second"].type, "continuous")
        self.assertAlmostEqual(robot.joints["hip_first"].damping, 2)
        for wrong, right, line, words in (
            ("second_axis: y", "second_axis: z", 6, "must not be parallel"),
            ("    second_axis: y\n", "", 6, "they need it"),
            ("first:", "yaw:", 6, "a universal joint has no 'yaw'; it has first, second"),
            ("-90 deg", "-90 mm", 12, "is a length"),
            ("damping", "damp", 12, "did you mean 'damping'"),
            ("type: universal", "type: spherical", 6, "has no 'first'"),
        ):
            file.write_text(text.replace(wrong, right))
            with self.assertRaisesRegex(DocumentError, f":{line}: joint 'hip': .*{words}"):
                mooring.read(file)
        with self.assertRaisesRegex(ModelError, "already a joint called 'hip_first'"):
            robot.add("joint", "hip", {"type": "universal", "parent": "base", "child": "arm",
                                         "second_axis": "y"})  # fmt: skip
