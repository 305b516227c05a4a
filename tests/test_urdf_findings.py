"""Other people's URDF files: healthy ones come back whole, and mistakes are called what they are."""

import json
import shutil
import unittest
import xml.etree.ElementTree as ElementTree
from pathlib import Path
from typing import Any

import numpy as np

import mooring
from mooring.checks import RULES
from mooring.checks.rules.reading import READING
from mooring.errors import InputError
from mooring.model.comparing import differences
from tests.support import folder_for, run_mooring
from tests.urdf_set import FOLDER, HEALTHY, MISTAKES, REFUSED, text_of


def numbers(text: str | None, count: int) -> np.ndarray:
    return np.array([float(word) for word in (text or "0 " * count).split()])


def turn(rpy: np.ndarray) -> np.ndarray:
    (a, b, c), (d, e, f) = np.cos(rpy), np.sin(rpy)
    x = np.array([[1, 0, 0], [0, a, -d], [0, d, a]])
    y = np.array([[b, 0, e], [0, 1, 0], [-e, 0, b]])
    z = np.array([[c, -f, 0], [f, c, 0], [0, 0, 1]])
    return z @ y @ x


def pose(element: ElementTree.Element | None) -> np.ndarray:
    origin = None if element is None else element.find("origin")
    matrix = np.eye(4)
    if origin is not None:
        matrix[:3, 3] = numbers(origin.get("xyz"), 3)
        matrix[:3, :3] = turn(numbers(origin.get("rpy"), 3))
    return matrix


def told(file: Path) -> dict[str, Any]:
    """What a URDF file says, by a reader of its own: everything that must not get lost."""
    root = ElementTree.parse(file).getroot()
    looks = {m.get("name"): m for m in root.iter("material") if len(m)}
    found: dict[str, Any] = {}
    for link in root.findall("link"):
        name = link.get("name")
        inertial = link.find("inertial")
        if inertial is not None:
            moments = inertial.find("inertia")
            assert moments is not None
            xx, xy, xz, yy, yz, zz = (
                float(moments.get(k, "nan")) for k in ("ixx", "ixy", "ixz", "iyy", "iyz", "izz")
            )
            place = pose(inertial)
            tensor = place[:3, :3] @ [[xx, xy, xz], [xy, yy, yz], [xz, yz, zz]] @ place[:3, :3].T
            found[f"{name} mass"] = float(inertial.find("mass").get("value"))  # type: ignore[union-attr,arg-type]
            found[f"{name} centre"] = place[:3, 3]
            found[f"{name} inertia"] = tensor
        for tag in ("visual", "collision"):
            for number, shape in enumerate(link.findall(tag)):
                what = f"{name} {tag} {number}"
                found[f"{what} place"] = pose(shape)
                found[f"{what} name"] = shape.get("name")
                (kind,) = list(shape.find("geometry"))  # type: ignore[arg-type]
                found[f"{what} kind"] = kind.tag
                for key, value in kind.attrib.items():
                    if key == "filename":
                        found[f"{what} file"] = value
                    else:
                        found[f"{what} {key}"] = np.array([float(v) for v in value.split()])
                material = shape.find("material")
                if material is not None:
                    look = looks[material.get("name")]
                    for part in look:
                        for value in part.attrib.values():
                            found[f"{what} {part.tag}"] = (
                                (255 * numbers(value, 4)).round() if part.tag == "color" else value
                            )
    for joint in root.findall("joint"):
        name = joint.get("name")
        found[f"{name} type"] = joint.get("type")
        found[f"{name} place"] = pose(joint)
        for part in joint:
            for key, text in part.attrib.items():
                if part.tag != "origin":
                    found[f"{name} {part.tag} {key}"] = text
    for element in root.iter():
        if element.tag in ("cable_guide", "clip", "brake", "simulator_settings", "stiffness", "type",
                           "interface", "mechanicalReduction"):  # fmt: skip
            found[f"vendor {element.tag}"] = (dict(element.attrib), (element.text or "").strip())
    return found


def same(one: Any, other: Any) -> bool:
    if one is None or other is None:
        return one is other
    try:
        return np.allclose(np.array(one, dtype=float), np.array(other, dtype=float), atol=1e-9)
    except (TypeError, ValueError):
        return bool(one == other) or _numbers_alike(one, other)


def _numbers_alike(one: Any, other: Any) -> bool:
    return (
        isinstance(one, str)
        and isinstance(other, str)
        and [float(w) for w in one.split()] == [float(w) for w in other.split()]
    )


class Healthy(unittest.TestCase):
    def test_nothing_is_found(self) -> None:
        self.assertGreater(len(HEALTHY), 12)
        for file in HEALTHY:
            with self.subTest(file.stem):
                robot = mooring.read(file)
                self.assertEqual([str(f.message) for f in mooring.check(robot)], [])

    def test_they_come_back_whole(self) -> None:
        folder = folder_for(self)
        shutil.copytree(FOLDER, folder / "urdf")
        for file in sorted((folder / "urdf").rglob("*.urdf")):
            with self.subTest(file.stem):
                again = file.with_name(f"{file.stem}_again.urdf")
                mooring.read(file).write(again)
                before, after = told(file), told(again)
                lost = {k for k, v in before.items() if k not in after or not same(v, after[k])}
                # Defaults may be spelled out, or left out.
                lost = {k for k in lost if not (k not in after and same(before[k], 0))}
                self.assertEqual({k: (before[k], after.get(k)) for k in lost}, {})
                self.assertFalse(list(file.parent.glob("*_meshes")), "meshes were written anew")
                self.assertEqual([f.message for f in mooring.check(mooring.read(again))], [])

    def test_as_a_document_they_are_the_same(self) -> None:
        folder = folder_for(self)
        shutil.copytree(FOLDER, folder / "urdf")
        # Meshes are in folders beside: all of it is one project.
        (folder / "urdf" / "mooring.project").touch()
        for file in sorted((folder / "urdf").rglob("*.urdf")):
            with self.subTest(file.stem):
                robot = mooring.read(file)
                document = file.with_suffix(".yaml")
                self.assertEqual(robot.write(document), [])
                again = mooring.read(document)
                self.assertEqual([str(d) for d in differences(robot, again)], [])
                self.assertEqual(again.head.vendor, robot.head.vendor)
                self.assertEqual([f.message for f in mooring.check(again)], [])
        # A person wrote 0.65, and reads 650 mm.
        text = (folder / "urdf" / "quay_arm.yaml").read_text()
        for line in ("cylinder: {radius: 150 mm, length: 300 mm}", "at: [0, 0, 650 mm]", "axis: y",
                     "mass: 60 kg", "limits: {lower: -1.6 rad, upper: 1.6 rad, velocity:"):  # fmt: skip
            self.assertIn(line, text)

    def test_included_in_a_document_with_other_values(self) -> None:
        folder = folder_for(self)
        shutil.copytree(FOLDER, folder / "urdf")
        (folder / "cell.yaml").write_text(CELL)
        robot = mooring.read(folder / "cell.yaml")
        self.assertEqual(mooring.check(robot).findings, ())
        luff = robot.joints["luff"]
        self.assertAlmostEqual(luff.limits.upper, np.radians(80))
        self.assertEqual((luff.limits.lower, luff.damping, luff.limits.effort), (-1.6, 2, 400))
        volume = np.pi * 0.055**2 * 0.5
        self.assertAlmostEqual(robot.inertia("forearm").mass, 2700 * volume)
        self.assertEqual(robot.motors["clamp_left_motor"].mode, "position")
        self.assertEqual(robot.motors["clamp_left_motor"].gear_ratio, 12)
        self.assertNotIn("twist", robot.joints)
        self.assertEqual([s.shape.kind for s in robot.links["clamp_body"].collisions], ["mesh"])
        self.assertEqual([s.shape.kind for s in robot.links["lid"].collisions], ["box"])
        self.assertEqual(robot.place(("joints", "luff")).file.name, "quay_arm.urdf")
        self.assertIn("<simulator_settings", robot.head.vendor[0])
        for old, new, words in (
            ("luff:", "lufff:", "cell.yaml:.*no joint matches 'lufff'; did you mean 'luff'"),
            ("damping: 2", "damping: 2 m", "cell.yaml:"),
            ("damping", "dampning", "unknown key 'dampning'; did you mean 'damping'"),
            ("joints: {", "jionts: {", "there are no 'jionts'; did you mean 'joints'"),
        ):
            (folder / "cell.yaml").write_text(CELL.replace(old, new, 1))
            with self.subTest(new), self.assertRaisesRegex(InputError, words):
                mooring.read(folder / "cell.yaml")


CELL = """\
mooring: 1
include:
  - file: urdf/quay_arm.urdf
    override:
      joints: {luff: {limits: {upper: 80 deg}, damping: 2}, twist: null}
      links:
        forearm: {density: 2700 kg/m^3, mass: null, inertia: null, centre: null}
  - file: urdf/clamp_description/urdf/clamp.urdf
    prefix: clamp_
    onto: wrist_2
    at: [0, 0, 120 mm]
    override: {motors: {"left_*": {mode: position, p: 9 kN/m, d: 90 N*s/m}}}
links:
  lid: {box: [50 mm, 50 mm, 5 mm], density: 1100 kg/m^3, visuals: [{box: [50 mm, 50 mm, 5 mm]}]}
joints:
  lid_mount: {type: fixed, parent: clamp_plate, child: lid, at: [0, 0, 200 mm]}
"""


class Mistakes(unittest.TestCase):
    def test_each_is_called_what_it_is_and_pointed_at(self) -> None:
        folder = folder_for(self) / "urdf"
        shutil.copytree(FOLDER, folder)
        self.assertGreater(len(HEALTHY) + len(MISTAKES), 100)
        self.assertLess(set(READING), {mistake.code for mistake in MISTAKES})
        for mistake in MISTAKES:
            with self.subTest(file=mistake.file, new=mistake.new, code=mistake.code):
                source = next(file for file in HEALTHY if file.stem == mistake.file)
                whole = text_of(source)
                self.assertIn(mistake.old, whole)
                file = folder / source.relative_to(FOLDER)
                file.write_text(whole.replace(mistake.old, mistake.new, 1))
                report = mooring.check(mooring.read(file))
                file.write_bytes(source.read_bytes())
                first = report.findings[0]
                self.assertEqual(first.code, mistake.code, first.message)
                self.assertIn(mistake.words, f"{first.message}. {first.remedy}")
                assert first.place is not None
                self.assertEqual(first.place.file, file)
                # What is to be done can be done in this file.
                for finding in report:
                    self.assertNotRegex(finding.remedy, r"'-?[\d.]+ (deg|mm)'")
                    if "allowances" in finding.remedy:
                        self.assertIn("include the file in a document", finding.remedy)

    def test_refused_files_answer_in_every_form(self) -> None:
        folder = folder_for(self)
        for name, old, new, words in REFUSED:
            with self.subTest(new):
                file = folder / "broken.urdf"
                file.write_text(text_of(FOLDER / f"{name}.urdf").replace(old, new, 1))
                with self.assertRaisesRegex(InputError, words):
                    mooring.read(file)
                sarif = folder / "found.sarif"
                done = run_mooring("check", file, "--json", "--sarif", sarif)
                self.assertEqual(done.returncode, 2)
                answer = json.loads(done.stdout)
                self.assertFalse(answer["ok"])
                self.assertEqual(answer["findings"][0]["code"], "unreadable")
                self.assertIn(words, answer["findings"][0]["message"])
                self.assertEqual(answer["findings"][0]["file"], str(file))
                (result,) = json.loads(sarif.read_text())["runs"][0]["results"]
                self.assertEqual(result["ruleId"], "unreadable")

    def test_rules_about_what_files_say_have_their_mistakes(self) -> None:
        self.assertLessEqual(set(READING), set(RULES))


if __name__ == "__main__":
    unittest.main()
