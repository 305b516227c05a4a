"""URDF files changed in place: what was not meant stays as it is, to the byte."""

import difflib
import shutil
import unittest
from pathlib import Path

import numpy as np

import mooring
from mooring import UrdfEditor
from mooring.errors import InputError, ModelError
from tests.support import folder_for, run_mooring
from tests.urdf_set import FOLDER, HEALTHY


def changed(before: bytes, after: bytes) -> list[str]:
    """The lines that differ, with a sign."""
    one, two = (text.decode("latin-1").splitlines(keepends=True) for text in (before, after))
    return [f"{line[0]} {line[1:].strip()}" for line in difflib.ndiff(one, two) if line[0] in "+-"]


class Editing(unittest.TestCase):
    def copy(self, name: str) -> Path:
        folder = folder_for(self)
        shutil.copytree(FOLDER, folder / "urdf")
        return next((folder / "urdf").rglob(f"{name}.urdf"))

    def test_each_value_is_written_where_it_belongs(self) -> None:
        for name, path, value, lines in (
            ("quay_arm", "joints.luff.limits.upper", "80 deg", ['- <limit lower="-1.6" upper="1.6" effort="400" velocity="2.5"/>', '+ <limit lower="-1.6" upper="1.39626340159546" effort="400" velocity="2.5"/>']),
            ("quay_arm", "joints.luff.damping", "2 N*m*s/rad", ['+ <dynamics damping="2"/>']),
            ("quay_arm", "joints.luff.axis", "-y", ['- <axis xyz="0 1 0"/>', '+ <axis xyz="0 -1 0"/>']),
            ("quay_arm", "joints.elbow.at", ["0 m", 0, "700 mm"], ['- <origin xyz="0 0 0.65"/>', '+ <origin xyz="0 0 0.7"/>']),
            ("quay_arm", "joints.elbow.at.rpy", [0, 0, "90 deg"], ['- <origin xyz="0 0 0.65"/>', '+ <origin xyz="0 0 0.65" rpy="0 0 1.5707963267949"/>']),
            ("quay_arm", "links.forearm.mass", "6.5 kg", ['- <mass value="6"/>', '+ <mass value="6.5"/>']),
            ("quay_arm", "joints.roll.limits", {"lower": -1, "upper": "1 rad"}, ['- <limit lower="-3.1" upper="3.1" effort="40" velocity="4"/>', '+ <limit lower="-1" upper="1" effort="40" velocity="4"/>']),
            ("yard_gantry", "joints.hoist.friction", "12 N", ['+ <dynamics friction="12"/>']),
            ("davit", "couplings.level.ratio", -1.1, ['- <mimic joint="lower" multiplier="-1"/>', '+ <mimic joint="lower" multiplier="-1.1"/>']),
            ("clamp", "joints.left_slide.limits.soft.upper", "30 mm", None),
            ("schwenkarm", "links.Säule.mass", 31, ['- <mass value="30"/>', '+ <mass value="31"/>']),
            ("crawler", "joints.turret_ring.limits.effort", "150 N*m", None),
        ):  # fmt: skip
            with self.subTest(path):
                file = self.copy(name)
                before = file.read_bytes()
                editor = UrdfEditor(file)
                editor.set(path, value)
                editor.save()
                if lines is not None:
                    self.assertEqual(changed(before, file.read_bytes()), lines)
                self.assertLessEqual(len(changed(before, file.read_bytes())), 2)
                again = UrdfEditor(file)
                again.set(path, value)
                self.assertEqual(again.text, editor.text)

    def test_inertia_is_written_along_the_links_axes(self) -> None:
        file = self.copy("capstan")
        editor = UrdfEditor(file)
        editor.set("links.lever.inertia", [0.01, 0.06, 0.05])
        editor.set("links.lever.centre", ["210 mm", 0.1, 0])
        robot = editor.save()
        found = robot.inertia("lever")
        np.testing.assert_allclose(found.tensor, np.diag([0.01, 0.06, 0.05]), atol=1e-15)
        np.testing.assert_allclose(found.centre, (0.21, 0.1, 0))

    def test_names_change_everywhere_and_nothing_else_does(self) -> None:
        for source in HEALTHY:
            with self.subTest(source.stem):
                file = self.copy(source.stem)
                robot = mooring.read(file)
                for kind, section in (("link", robot.links), ("joint", robot.joints)):
                    for name in list(section)[:3]:
                        editor = UrdfEditor(file)
                        editor.rename(kind, name, "another_name")
                        renamed = editor.check()
                        robot.rename(kind, name, "another_name")
                        self.assertEqual(mooring.differences(robot, renamed), [])
                        self.assertEqual([note.text for note in renamed.notes if note.code], [])
                        self.assertEqual(renamed.head.vendor, robot.head.vendor)
                        editor.rename(kind, "another_name", name)
                        robot.rename(kind, "another_name", name)
                        self.assertEqual(editor.text.encode(), editor.read_text().encode())

    def test_items_are_taken_away_with_their_lines(self) -> None:
        file = self.copy("quay_arm")
        editor = UrdfEditor(file)
        for path in ("joints.tool_mount", "links.tool0", "joints.twist.limits"):
            editor.remove(path)
        robot = editor.save()
        self.assertEqual((len(robot.links), len(robot.joints)), (7, 6))
        self.assertEqual(robot.joints["twist"].limits.effort, None)
        self.assertNotIn("\n\n", file.read_text())

    def test_what_cannot_be_is_refused(self) -> None:
        file = self.copy("quay_arm")
        before = file.read_bytes()
        editor = UrdfEditor(file)
        for path, value, words in (
            ("joints.lufff.damping", 1, "no joint is called 'lufff'; did you mean 'luff'"),
            ("joints.luff.damping", "3 m", "damping"),
            ("joints.luff.rotor_inertia", 1, "no place for joints.luff.rotor_inertia; include the file"),
            ("motors.drive.p", 1, "no place for motors.drive.p"),
            ("links.forearm.collision", "box", "no place for links.forearm.collision"),
        ):  # fmt: skip
            with self.subTest(path), self.assertRaisesRegex(ModelError, words):
                editor.set(path, value)
        with self.assertRaisesRegex(ModelError, "already a link called 'forearm'"):
            editor.rename("link", "tool0", "forearm")
        with self.assertRaisesRegex(ModelError, "there is no joints.luff.damping"):
            editor.remove("joints.luff.damping")
        editor.set("joints.luff.damping", 1)
        file.write_bytes(before + b"<!-- meanwhile -->")
        with self.assertRaisesRegex(InputError, "somebody else"):
            editor.save()

    def test_what_is_sure_is_mended(self) -> None:
        file = self.copy("quay_arm")
        text = file.read_text()
        for old, new in (
            ('lower="-1.6"', 'Lower="-1.6"'), ('lower="-2.2" upper="2.2"', 'lower="2.2" upper="-2.2"'),
            ('xyz="0 0 1"', 'xyz="0 0 2"'), ("</robot>", "<!-- kept --></robot>"),
            ('<collision>\n      <origin xyz="0 0 0.01"', '<colision>\n      <origin xyz="0 0 0.01"'),
        ):  # fmt: skip
            self.assertIn(old, text)
            text = text.replace(old, new, 1)
        head, _, tail = text.rpartition("</collision>")
        file.write_text(f"{head}</colision>{tail}")
        done = run_mooring("check", file, "--fix")
        self.assertEqual(done.returncode, 0, done.stdout)
        self.assertEqual(done.stdout.count("mended:"), 4)
        again = UrdfEditor(self.copy("quay_arm")).text.replace("</robot>", "<!-- kept --></robot>")
        self.assertEqual(file.read_text(), again)


if __name__ == "__main__":
    unittest.main()
