"""Arms from tables: against the textbooks' products of matrices, and against each other."""

import unittest

import numpy as np
from scipy.linalg import expm

import mooring
from mooring import Robot, kinematics
from mooring.errors import DocumentError, ModelError
from tests.support import folder_for


def link_transform(theta: float, d: float, a: float, alpha: float) -> np.ndarray:
    """Spong, Hutchinson, Vidyasagar, Robot Modeling and Control (2006), equation 3.10."""
    c, s, ca, sa = np.cos(theta), np.sin(theta), np.cos(alpha), np.sin(alpha)
    return np.array(
        [[c, -s * ca, s * sa, a * c], [s, c * ca, -c * sa, a * s], [0, sa, ca, d], [0, 0, 0, 1]]
    )


def craig_transform(alpha: float, a: float, d: float, theta: float) -> np.ndarray:
    """Craig, Introduction to Robotics (2005), equation 3.6."""
    c, s, ca, sa = np.cos(theta), np.sin(theta), np.cos(alpha), np.sin(alpha)
    return np.array(
        [[c, -s, 0, a], [s * ca, c * ca, -sa, -sa * d], [s * sa, c * sa, ca, ca * d], [0, 0, 0, 1]]
    )


def arm(convention: str, rows: list[dict], **more: object) -> Robot:
    robot = Robot("arm")
    robot.add_link("base")
    robot.add_chain("arm", base="base", convention=convention, rows=rows, **more)
    return robot


def end_of(robot: Robot, q: np.ndarray) -> np.ndarray:
    return kinematics.frame_poses(robot.tree(), q)["arm_end"]


class Tables(unittest.TestCase):
    def setUp(self) -> None:
        random = np.random.default_rng(11)
        self.kinds = ["revolute", "prismatic", "revolute", "revolute", "prismatic", "revolute"]
        self.table = random.normal(size=(6, 4))  # theta, d, a, alpha
        self.rows = [
            {"type": kind, **dict(zip(("theta", "d", "a", "alpha"), row, strict=True))}
            for kind, row in zip(self.kinds, self.table, strict=True)
        ]
        self.q = random.normal(size=6)
        turns = np.array([kind == "revolute" for kind in self.kinds])
        self.moved = self.table.copy()
        self.moved[:, 0] += np.where(turns, self.q, 0)
        self.moved[:, 1] += np.where(turns, 0, self.q)

    def test_standard_parameters(self) -> None:
        expected = np.eye(4)
        for theta, d, a, alpha in self.moved:
            expected = expected @ link_transform(theta, d, a, alpha)
        np.testing.assert_allclose(end_of(arm("standard", self.rows), self.q), expected, atol=1e-12)

    def test_modified_parameters(self) -> None:
        expected = np.eye(4)
        for theta, d, a, alpha in self.moved:
            expected = expected @ craig_transform(alpha, a, d, theta)
        np.testing.assert_allclose(end_of(arm("modified", self.rows), self.q), expected, atol=1e-12)

    def test_screws_are_the_product_of_exponentials(self) -> None:
        # Lynch and Park, Modern Robotics (2017), equation 4.14, by SciPy's matrix exponential.
        random = np.random.default_rng(12)
        home = end_of(arm("standard", self.rows), np.zeros(6))
        expected, rows = np.eye(4), []
        for kind, q in zip(self.kinds, self.q, strict=True):
            axis, point = random.normal(size=(2, 3))
            axis /= np.linalg.norm(axis)
            twist = np.zeros((4, 4))
            if kind == "revolute":
                twist[:3, :3] = np.cross(np.eye(3), axis)
                twist[:3, 3] = -np.cross(axis, point)
            else:
                twist[:3, 3] = axis
            expected = expected @ expm(twist * q)
            rows.append({"type": kind, "axis": axis, "point": point})
        robot = arm("screws", rows, end=home)
        np.testing.assert_allclose(end_of(robot, self.q), expected @ home, atol=1e-12)

    def test_what_is_wrong_with_a_row_is_told_at_its_line(self) -> None:
        file = folder_for(self) / "arm.yaml"
        text = (
            "mooring: 1\nlinks: {base: {}}\nchains:\n  arm:\n    base: base\n"
            "    convention: standard\n    rows:\n      - {d: 1, joint: hip}\n"
            "      - {a: 1, WRONG}\n      - {a: 1, limits: {lower: -1, upper: 1}}\n"
        )
        for wrong, words in (
            ("axis: z", "'axis' is not for standard"),
            ("d: 3 kg", "is a mass"),
            ("joint: hip", "'hip' twice"),
            ("foo: 1", "unknown key 'foo'"),
        ):
            file.write_text(text.replace("WRONG", wrong))
            with self.assertRaisesRegex(DocumentError, f"arm.yaml:9: chain 'arm': .*{words}"):
                mooring.read(file)
        file.write_text(text.replace("WRONG", "limits: {lower: 2, upper: 1}"))
        told = {f.code: f.place.line for f in mooring.check(mooring.read(file)).findings if f.place}
        self.assertEqual((told["limits-inverted"], told["limits-missing"]), (9, 8))

    def test_the_document_uses_links_that_are_there(self) -> None:
        file = folder_for(self) / "arm.yaml"
        text = (
            "mooring: 1\nlinks:\n  post:\n  upper: {mass: 2, inertia: [1, 1, 1]}\nchains:\n"
            "  arm:\n    base: post\n    at: {xyz: [0, 0, 1]}\n    convention: standard\n    rows:\n"
            "      - {d: 300 mm, alpha: 90 deg, link: upper, joint: waist, limits: {lower: -1, upper: 1}}\n"
            "      - {a: 250 mm}\n"
        )
        file.write_text(text)
        robot = mooring.read(file)
        self.assertEqual(robot.coordinates, ["waist", "arm_joint_2"])
        self.assertEqual(list(robot.links), ["post", "upper", "arm_link_2"])
        end = kinematics.frame_poses(robot.tree(), [0, np.pi / 2])["arm_end"]
        np.testing.assert_allclose(end[:3, 3], (0, 0, 1.55), atol=1e-12)
        # What hangs on the chain may come from another document, and a frame may stand on it.
        (file.parent / "hand.yaml").write_text(
            "mooring: 1\nlinks: {palm: {mass: 1, inertia: [1, 1, 1]}}\n"
            "frames: {base: {link: palm, role: mount}}\n"
        )
        file.write_text(
            text + "include: [{file: hand.yaml, prefix: h_, frame: arm_end}]\n"
            "frames: {elbow: {link: arm_link_2, xyz: [0, 0, 1 mm]}}\n"
        )
        grown = mooring.read(file)
        self.assertEqual(grown.joints["h_mount"].parent, "arm_link_2")
        frames = kinematics.frame_poses(grown.tree(), [0, np.pi / 2])
        np.testing.assert_allclose(frames["h_base"], frames["arm_end"], atol=1e-12)
        for wrong, right, words in (
            ("base: post", "base: pots", "no link is called 'pots'; did you mean 'post'"),
            ("a: 250 mm", "a: 250 kg", "is a mass"),
            ("a: 250 mm", "axis: z", "row 2: 'axis' is not for standard"),
            ("lower: -1", "lower: -1 m", "is a length"),
            ("convention: standard", "convention: usual", "convention must be standard, modified"),
            ("    rows:\n", "    row:\n", "did you mean 'rows'"),
        ):
            file.write_text(text.replace(wrong, right))
            with self.assertRaisesRegex(DocumentError, f"chain 'arm': .*{words}"):
                mooring.read(file)
        with self.assertRaisesRegex(ModelError, "already a joint called 'waist'"):
            robot.add_chain("more", base="upper", convention="standard", rows=[{"joint": "waist"}])
