"""The document: what it says is what Python says, and what is wrong is told with its line."""

import shutil
import unittest
from pathlib import Path

import numpy as np

import mooring
from mooring import Robot, dynamics, kinematics, read_cad
from mooring.demo import LINE_TENDER
from mooring.errors import DocumentError, InputError, ModelError
from tests.support import folder_for

CRANE = """\
mooring: 1
name: crane
cad:
  - {file: line_tender.step, drop: ["*_bolt_*", "*_washer_*"]}
materials:
  paint: {density: 7850 kg/m^3, color: "#3f6f8f"}
links:
  pedestal: {parts: [base_plate, column], material: paint, collision: box}
  mast: {parts: "*/mast_assembly/*", collision: capsule}
  boom: {parts: ["*/boom_assembly/*"], mass: 150 kg}
joints:
  slew:
    type: revolute
    parent: pedestal
    child: mast
    at: {bore: [column, turntable]}
    limits: {lower: -170 deg, upper: 170 deg, velocity: 20 deg/s, effort: 6 kN*m}
    damping: 5 N*m*s/rad
  luff:
    type: revolute
    parent: mast
    child: boom
    at: {bore: [mast_post, boom_tube]}
    axis: -y
    limits: {lower: 0, upper: 1.2}
motors:
  drive: {joint: slew, p: 9 kN*m/rad, d: 900 N*m*s/rad}
postures:
  raised: {luff: 40 deg}
motions:
  raise: [{to: raised, over: 2 s, hold: 1 s}]
"""


class Documents(unittest.TestCase):
    def setUp(self) -> None:
        self.folder = folder_for(self)
        shutil.copy(LINE_TENDER.step, self.folder)
        self.file = self.folder / "crane.yaml"

    def read(self, text: str) -> Robot:
        self.file.write_text(text)
        return mooring.read(self.file)

    def test_the_document_and_python_make_the_same_robot(self) -> None:
        assembly = read_cad(LINE_TENDER.step).drop("*_bolt_*", "*_washer_*")
        built = Robot("crane")
        built.add_material("paint", density="7850 kg/m^3", color="#3f6f8f")
        built.add_link("pedestal", parts=assembly.pick("base_plate", "column"), material="paint")
        built.add_link("mast", parts=assembly.pick("*/mast_assembly/*"), collision="capsule")
        built.add_link("boom", parts=assembly.pick("*/boom_assembly/*"), mass=150)
        built.add_joint(
            "slew", "revolute", parent="pedestal", child="mast",
            at=assembly.bore("column", "turntable"), damping=5,
            lower="-170 deg", upper="170 deg", velocity="20 deg/s", effort="6 kN*m",
        )  # fmt: skip
        built.add_joint(
            "luff", "revolute", parent="mast", child="boom", axis="-y",
            at=assembly.bore("mast_post", "boom_tube"), lower=0, upper=1.2,
        )  # fmt: skip
        written = self.read(CRANE)
        one, other = built.tree(), written.tree()
        self.assertEqual((one.links, one.coordinates), (other.links, other.coordinates))
        q = np.random.default_rng(1).normal(size=(4, 2))
        np.testing.assert_array_equal(
            kinematics.link_poses(one, q), kinematics.link_poses(other, q)
        )
        np.testing.assert_array_equal(dynamics.mass_matrix(one, q), dynamics.mass_matrix(other, q))
        np.testing.assert_array_equal(one.joints, other.joints)
        self.assertEqual(written.motors["drive"].p, 9000)
        self.assertEqual(written.postures["raised"], {"luff": np.radians(40)})

    def test_a_joint_sits_on_its_bore_and_the_parts_stay_where_the_cad_has_them(self) -> None:
        robot = self.read(CRANE)
        frames = robot.link_frames()
        np.testing.assert_allclose(frames["boom"][:3, 3], (0, 0, 2.3), atol=1e-12)
        for name, link in robot.links.items():
            for shape in link.shown(robot.materials):
                np.testing.assert_allclose(
                    frames[name] @ shape.in_link(frames[name]), shape.placement.matrix, atol=1e-12
                )

    def test_placements_may_be_given_in_the_parents_or_the_cads_coordinates(self) -> None:
        text = CRANE.replace(
            "{bore: [mast_post, boom_tube]}", "{xyz: [0, 0, 2300 mm], relative_to: cad}"
        )
        np.testing.assert_allclose(self.read(text).link_frames()["boom"][:3, 3], (0, 0, 2.3))
        text = CRANE.replace(
            "{bore: [mast_post, boom_tube]}", "{xyz: [0, 0, 1540 mm], rpy: [0, 0, 90 deg]}"
        )
        frame = self.read(text).link_frames()["boom"]
        np.testing.assert_allclose(frame[:3, 3], (0, 0, 2.3), atol=1e-12)
        np.testing.assert_allclose(frame[:3, 0], (0, 1, 0), atol=1e-12)

    def test_every_mistake_is_told_with_its_line(self) -> None:
        for wrong, right, anchor, words in (
            ("lower: -170 deg", "lower: -170 mm", "lower: -170 mm", "joint 'slew': '-170 mm' is a length; expected an angle"),
            ("damping: 5 N*m*s/rad", "damping: 5 N*s/m", "damp", "expected an angular damping"),
            ("    damping:", "    dampning:", "damp", "unknown key 'dampning'; did you mean 'damping'?"),
            ("effort: 6 kN*m", "effrt: 6 kN*m", "effrt: 6 kN*m", "unknown key 'effrt'; did you mean 'effort'?"),
            ("type: revolute", "type: hinge", "type: hinge", "joint 'slew': type must be fixed, revolute"),
            ("    parent: pedestal\n", "", "  slew:", "joint 'slew': 'parent' is missing"),
            ("axis: -y", "axis: x", "axis: x", "90 deg off the axis found in the CAD"),
            ("axis: -y", "axis: [0, 0, 0]", "axis: [0, 0, 0]", "has no length"),
            ("[column, turntable]", "[column, boom_tube]", "bore: [column,", "share no axis"),
            ("[base_plate, column]", "[base_plate, colum]", "pedestal: {", "no part of line_tender.step matches 'colum'"),
            ("material: paint,", "material: pant,", "pedestal: {", "no material is called 'pant'; did you mean 'paint'?"),
            ("collision: capsule", "collision: capsul", "mast: {", "did you mean 'capsule'?"),
            ("mass: 150 kg", "mass: 150 mm", "boom: {", "'150 mm' is a length; expected a mass"),
            ("mass: 150 kg", "mass: -1 kg", "boom: {", "greater than 0"),
            ("joint: slew,", "joint: slow,", "drive: {", "no joint is called 'slow'; did you mean 'slew'?"),
            ("p: 9 kN*m/rad", "p: 9 kN/m", "drive: {", "expected an angular stiffness"),
            ("luff: 40 deg", "luf: 40 deg", "raised: {", "no joint is called 'luf'"),
            ("to: raised", "to: risen", "raise: [", "no posture is called 'risen'"),
            ("density: 7850 kg/m^3", "density: heavy", "paint:", "expected a density"),
            ("#3f6f8f", "blue", "paint:", "write it as '#3f6f8f'"),
            ("file: line_tender.step", "file: tender.step", "file:", "there is no such file"),
            ("links:", "lnks:", "lnks", "unknown key 'lnks'; did you mean 'links'?"),
            ("mooring: 1", "mooring: 2", "mooring: 2", "this Mooring reads 1"),
            ("mooring: 1\n", "", "name: crane", "begin it with 'mooring: 1'"),
            ("  luff:\n", "  slew:\n", "  slew:\n    type: revolute\n    parent: mast", "is there twice"),
            ("limits: {lower: 0, upper: 1.2}", "limits: {lower: 0", "motors:\n", "not readable as YAML"),
        ):  # fmt: skip
            with self.subTest(right):
                self.assertIn(wrong, CRANE)
                with self.assertRaises(DocumentError) as caught:
                    self.read(CRANE.replace(wrong, right, 1))
                message = str(caught.exception)
                line = self.file.read_text().partition(anchor)[0].count("\n") + 1
                self.assertIn(words, message)
                self.assertIn(f"{self.file}:{line}: ", message)

    def test_sensors_are_described_and_refused_by_kind(self) -> None:
        sensors = "sensors:\n  eye: {kind: camera, link: boom, rate: 15 Hz, field: 70 deg}\n"
        robot = self.read(CRANE + sensors)
        self.assertEqual((robot.sensors["eye"].rate, robot.sensors["eye"].link), (15, "boom"))
        for wrong, right, words in (
            (
                "kind: camera",
                "kind: camra",
                "unknown kind of sensor 'camra'; did you mean 'camera'",
            ),
            ("link: boom", "link: bom", "no link is called 'bom'; did you mean 'boom'"),
            ("link: boom", "link: boom, frame: tip", "either the link or the frame"),
            ("70 deg", "70 mm", "is a length; expected an angle"),
            ("15 Hz", "15 s", "is a time; expected a frequency"),
            ("kind: camera", "kind: encoder", "unknown key 'link'"),
            ("rate: 15 Hz", "rate: 0", "greater than 0"),
        ):
            with self.assertRaisesRegex(DocumentError, f"sensor 'eye': .*{words}"):
                self.read(CRANE + sensors.replace(wrong, right))

    def test_several_mistakes_are_told_at_once(self) -> None:
        with self.assertRaises(DocumentError) as caught:
            self.read(CRANE.replace("axis: -y", "axis: q").replace("150 kg", "150 mm"))
        lines = [problem.place.line for problem in caught.exception.problems]
        self.assertEqual(lines, [10, 24])
        # The motor and the posture on the broken joint are no news.
        self.assertNotIn("is called", str(caught.exception))

    def test_limits_by_pattern_are_for_joints_that_say_nothing(self) -> None:
        text = (
            "mooring: 1\nlinks: {base: {}, a: {}, b: {}, c: {}}\njoints:\n"
            "  hip: {type: revolute, parent: base, child: a, limits: {lower: -1, velocity: 2}}\n"
            "  slide: {type: prismatic, parent: a, child: b, damping: 7}\n"
            "  spin: {type: continuous, parent: b, child: c}\nlimits:\n"
            "  hip: {effort: 3}\n"
            '  "*": {velocity: 90 deg/s, effort: 40, damping: 0.5, lower: -2, upper: 2}\n'
            "  slide: {velocity: 30 mm/s}\n"
        )
        file = folder_for(self) / "legs.yaml"
        file.write_text(text)
        robot = mooring.read(file)
        found = {
            name: (j.limits.lower, j.limits.upper, j.limits.velocity, j.limits.effort, j.damping)
            for name, j in robot.joints.items()
        }
        quarter = np.radians(90)
        self.assertEqual(found, {"hip": (-1, 2, 2, 3, 0.5), "slide": (-2, 2, 0.03, 40, 7),
                                 "spin": (None, None, quarter, 40, 0.5)})  # fmt: skip
        self.assertEqual(
            [str(note) for note in robot.notes],
            ["limits of '*': velocity 90 deg/s does not fit slide"],
        )
        for wrong, right, words in (
            ("velocity: 90", "velocty: 90", "did you mean 'velocity'"),
            ('"*"', '"x*"', "no joint matches 'x"),
            ("effort: 40", "effort: 4 kg", "is a mass"),
            ("damping: 0.5", "damping: -1", "greater than or equal to 0"),
        ):
            file.write_text(text.replace(wrong, right))
            with self.assertRaisesRegex(DocumentError, f"legs.yaml:9: limits of .*{words}"):
                mooring.read(file)

    def test_files_that_are_no_documents(self) -> None:
        for content, words in (
            (b"", "empty"),
            (b"\xff\xfe\x00", "not UTF-8"),
            (b"- a\n- b\n", "a mapping that begins with"),
            (b"a: &a [1,1,1,1,1,1,1,1]\n" + b"".join(
                f"b{k}: &b{k} [{', '.join([f'*b{k - 1}' if k else '*a'] * 9)}]\n".encode()
                for k in range(9)), "more than 100,000 values"),
            (b"x: !!python/object/apply:os.system [echo]\n", "does not say its version"),
        ):  # fmt: skip
            self.file.write_bytes(content)
            with self.assertRaisesRegex(InputError, words):
                mooring.read(self.file)
        with self.assertRaisesRegex(InputError, "not a robot description"):
            mooring.read(__file__)
        with self.assertRaisesRegex(InputError, "there is no such file"):
            mooring.read(Path("robot.txt"))

    def test_python_refuses_what_would_overwrite(self) -> None:
        robot = self.read(CRANE)
        with self.assertRaisesRegex(ModelError, "already a link called 'mast'"):
            robot.add_link("mast")
        with self.assertRaisesRegex(ModelError, "already driven by 'drive'"):
            robot.add_motor("second", joint="slew", p=1)
        robot.add_coupling("luff", follows="slew", ratio=0.5)
        with self.assertRaisesRegex(ModelError, "would follow itself"):
            robot.add_coupling("slew", follows="luff")
        limits = robot.joints["slew"].limits
        with self.assertRaisesRegex(ValueError, "is a length"):
            limits.upper = "3 mm"
        limits.upper = "90 deg"
        self.assertAlmostEqual(robot.tree().joints.upper[0], np.pi / 2)
