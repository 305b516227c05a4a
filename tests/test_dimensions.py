"""Tables against CAD axes, and what a tool reaches."""

import json
import unittest

import numpy as np

import mooring
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


SIX = [
    {"d": 0.4, "a": 0.025, "alpha": -np.pi / 2}, {"a": 0.455}, {"a": 0.035, "alpha": -np.pi / 2},
    {"d": 0.42, "alpha": np.pi / 2}, {"alpha": -np.pi / 2}, {"d": 0.08},
]  # fmt: skip


def six() -> Robot:
    robot = Robot("six")
    robot.add_link("base")
    robot.add_chain("arm", base="base", convention="standard", rows=SIX)
    return robot


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
        self.assertTrue(report.agrees)
        self.assertNotIn("e-", str(report))

    def test_what_a_robot_has_otherwise_than_its_data_sheet_is_named(self) -> None:
        sheet = [dict(row) for row in SIX]
        robot = six()
        for changes, told in (
            ({}, None),
            ({(1, "a"): 0.45}, "joint_2: a 450 mm -> 455 mm"),
            ({(5, "d"): 0.1}, "joint_6: d 100 mm -> 80 mm"),
            ({(1, "alpha"): 1.0}, "joint_2: alpha 57.2958 deg -> 0 deg"),
            ({(2, "alpha"): np.pi / 2}, "joint_3: alpha has the wrong sign, 90 deg must be -90"),
            ({(3, "alpha"): -np.pi / 2, (0, "d"): 0.39}, "joint_1: d 390 mm -> 400 mm"),
            ({(3, "alpha"): -np.pi / 2, (0, "d"): 0.39}, "joint_4: alpha has the wrong sign"),
        ):
            with self.subTest(changes):
                wrong = [dict(row) for row in sheet]
                for (row, key), value in changes.items():
                    wrong[row][key] = value
                robot.tables = {}
                robot.add_table("sheet", base="base", rows=wrong, end="arm_end")
                report = kinematics.measure(robot, robot.tables["sheet"])
                self.assertEqual(report.agrees, told is None)
                found = {f.code for f in mooring.check(robot).findings}
                self.assertEqual("table-disagrees" in found, told is not None)
                self.assertIn(told or "off by 0 mm and 0 deg", str(report))
                self.assertIn("only together are told by the CAD: d of arm_joint_2 and d of "
                              "arm_joint_3", report.undetermined)  # fmt: skip
                self.assertEqual(len(report.undetermined), 1)
                if told:
                    text = str(report)
                    self.assertEqual(text.count(" -> ") + text.count("wrong sign"), len(changes))

    def test_the_last_flange_is_not_seen_without_an_end(self) -> None:
        robot = six()
        robot.add_table("sheet", base="base", rows=[*SIX[:5], {"d": 5.0, "alpha": 1.0}])
        report = kinematics.measure(robot, robot.tables["sheet"])
        self.assertTrue(report.agrees)
        for key in ("theta", "d", "a", "alpha"):
            self.assertIn(f"{key} of arm_joint_6", report.undetermined[0])
        self.assertIn("give the end frame", report.undetermined[0])

    def test_tables_are_measured_from_files(self) -> None:
        folder = folder_for(self)
        six().write(folder / "arm.urdf")
        heads = "Joint;θ [°];d (mm);a [mm];alpha_i [deg]\n"
        rows = [
            f"arm_joint_{k};;{1000 * r.get('d', 0):g};{1000 * r.get('a', 0):g}".replace(".", ",")
            + f";{np.degrees(r.get('alpha', 0)):g}"
            for k, r in enumerate(SIX, start=1)
        ]
        good, bad = folder / "sheet.csv", folder / "bad.csv"
        good.write_text(heads + "\n".join(rows), encoding="utf-8")
        end = ("--end", "arm_end")
        done = run_mooring("measure", good, folder / "arm.urdf", *end)
        self.assertEqual(done.returncode, 0, done.stderr + done.stdout)
        self.assertIn("sheet.csv agrees with six", done.stdout)
        bad.write_text(heads + "\n".join(rows).replace("420", "428"), encoding="utf-8")
        done = run_mooring("measure", bad, folder / "arm.urdf", *end, "--json")
        self.assertEqual(done.returncode, 1)
        (one,) = json.loads(done.stdout)["corrections"]
        self.assertEqual((one["joint"], one["parameter"]), ("arm_joint_4", "d"))
        done = run_mooring("measure", good, folder / "arm.urdf", *end, "--convention", "modified")
        self.assertIn("taken as convention: standard the table agrees", done.stdout)
        for text, words in (
            (heads.replace("alpha_i", "beta"), "a line of heads and a row"),
            (heads.replace("alpha_i", "beta") + rows[0], "'beta .deg.' is none of"),
            (heads + rows[0], "has 1 rows"),
            (heads + rows[0] + ";3", "bad.csv:2: 6 values under 5 heads"),
            (heads.replace("mm", "kg") + "\n".join(rows), "kg"),
        ):
            bad.write_text(text, encoding="utf-8")
            done = run_mooring("measure", bad, folder / "arm.urdf", *end)
            if "1 rows" in words:
                self.assertEqual(done.returncode, 1)  # the joint named is compared by itself
                continue
            self.assertEqual(done.returncode, 2, done.stdout)
            self.assertRegex(done.stderr.replace("\n", " "), words)


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
