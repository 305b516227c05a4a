"""Tables against CAD axes, and what a tool reaches."""

import unittest

import numpy as np

from mooring import Robot, kinematics
from mooring.cad import Axis
from mooring.errors import ModelError
from mooring.model.chain import Chain, TableRow
from tests.support import folder_for, line_tender, run_mooring
from tests.test_inverse import arm


def axes_of(rows: list[dict[str, float]], convention: str) -> list[Axis]:
    """The axes of a table's joints as a robot has them at zero, with points anywhere along them."""
    robot = Robot("true")
    robot.add_link("base")
    robot.add_chain("true", base="base", convention=convention, rows=rows)
    tree = robot.tree()
    poses = kinematics.link_poses(tree, np.zeros(len(rows)))[1:]
    random = np.random.default_rng(3)
    return [
        Axis(p[:3, 3] + random.normal() * p[:3, 2], p[:3, 2] * random.choice([-1, 1]), 0.01, "")
        for p in poses
    ]


ROWS = [
    {"theta": 0.2, "d": 0.4, "a": 0.03, "alpha": -1.5}, {"theta": -0.9, "d": 0.01, "a": 0.45, "alpha": 0.1},
    {"theta": 0.5, "d": 0.02, "a": 0.04, "alpha": -1.6}, {"theta": 0.1, "d": 0.42, "a": 0.01, "alpha": 1.4},
]  # fmt: skip


class Dimensions(unittest.TestCase):
    def test_a_wrong_table_is_told_and_mended(self) -> None:
        for convention in ("standard", "modified"):
            wrong = [dict(row) for row in ROWS]
            wrong[1]["a"] += 0.004
            wrong[2]["alpha"] += np.radians(0.7)
            axes = axes_of(ROWS, convention)
            table = {"base": "base", "convention": convention, "rows": wrong}
            report = kinematics.compare_dimensions(table, axes)
            self.assertLess(report.errors[0].distance, 1e-9)
            off = max(error.distance for error in report.errors)
            self.assertGreater(off, 0.0035)
            self.assertAlmostEqual(
                max(error.angle for error in report.errors), np.radians(0.7), delta=1e-3
            )
            for error in report.left:
                self.assertLess(error.distance, 1e-7)
                self.assertLess(error.angle, 1e-6)
            told = str(report)
            self.assertIn("off by", told)
            self.assertTrue(report.corrections)
            changed = {(c.joint, c.parameter) for c in report.corrections}
            self.assertTrue({j for j, _ in changed} <= {f"table_joint_{k}" for k in (1, 2, 3, 4)})
        with self.assertRaisesRegex(ModelError, "4 rows, and 2 axes"):
            kinematics.compare_dimensions(table, axes[:2])

    def test_a_true_table_is_left_alone(self) -> None:
        chain = Chain(name="t", base="b", convention="standard",
                      rows=[TableRow(**row) for row in ROWS])  # fmt: skip
        report = kinematics.compare_dimensions(chain, axes_of(ROWS, "standard"))
        self.assertEqual(report.corrections, ())


class Reach(unittest.TestCase):
    def test_a_planar_arm_reaches_a_ring(self) -> None:
        robot = Robot("planar")
        robot.add_link("base")
        for k, length in enumerate((0.0, 0.5)):
            robot.add_link(f"bar_{k}")
            robot.add_joint(f"pin_{k}", "continuous", parent=f"bar_{k - 1}" if k else "base",
                            child=f"bar_{k}", at=(length, 0, 0))  # fmt: skip
        robot.add_frame("tip", link="bar_1", at=(0.3, 0, 0))
        cloud = kinematics.workspace(robot, "tip", 3000)
        radius = np.linalg.norm(cloud.points, axis=1)
        self.assertAlmostEqual(radius.max(), 0.8, places=3)
        self.assertAlmostEqual(radius.min(), 0.2, places=3)
        self.assertEqual(cloud.manipulability.max(), 0.0)
        six = kinematics.workspace(arm(), "arm_end", 500)
        j = kinematics.jacobian(arm().tree(), six.q[7], "arm_end")[3:]
        volume = np.prod(np.linalg.svd(j, compute_uv=False))
        self.assertAlmostEqual(six.manipulability[7], volume, places=9)

    def test_the_tenders_reach_is_drawn(self) -> None:
        from mooring.demo import LINE_TENDER

        folder = folder_for(self)
        done = run_mooring("exercise", LINE_TENDER.document, "-o", folder, "--reach", "grip")
        self.assertEqual(done.returncode, 0, done.stderr)
        self.assertIn("grip reaches x", done.stdout)
        self.assertTrue((folder / "reach_grip.png").stat().st_size > 20_000)
        self.assertEqual(
            (folder / "reach_grip.csv").read_text().splitlines()[0], "x,y,z,manipulability"
        )
        cloud = kinematics.workspace(line_tender(), "grip", 300)
        self.assertGreater(np.linalg.norm(cloud.points[:, :2], axis=1).max(), 2.2)
