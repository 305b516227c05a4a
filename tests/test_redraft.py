"""The second pass of a draft: what was edited stays, what the CAD changed follows, and it is told."""

import json
import math
import re
import unittest
from pathlib import Path

import numpy as np

import mooring
from mooring import read_cad
from mooring.cad.proposing import propose
from mooring.cad.proposing.travel import free_travel
from mooring.cad.touching.lines import Line
from mooring.demo.modelling import box, cut, cylinder, fuse
from mooring.demo.step_writer import Group, write_step
from mooring.errors import InputError
from mooring.formats.document.drafting import draft_text, redraft, remember
from mooring.formats.document.drafting.matching import match
from mooring.formats.document.drafting.remembered import PartPrint
from tests.parts import made, steel
from tests.support import folder_for, run_mooring


def write_arm(
    file: Path,
    names: tuple[str, str, str, str] = ("sockel", "oberarm", "unterarm", "ellbogen"),
    longer: float = 0,
    second: bool = False,
) -> None:
    """An arm of two links; as second version another length, a wheel more, and a button less."""
    x = 200 + longer
    base = fuse(box((-100, 100), (-100, 100), (-20, 0)), cylinder("z", (0, 40), 20))
    arm = fuse(box((0, x), (-10, 10), (5, 25)), cylinder("z", (5, 25), 40),
               cylinder("z", (5, 25), 40, (x, 0, 0)))  # fmt: skip
    arm = cut(cut(arm, cylinder("z", (0, 40), 20.4)), cylinder("z", (0, 40), 16, (x, 0, 0)))
    fore = fuse(box((x, x + 150), (-10, 10), (26, 46)), cylinder("z", (26, 46), 36, (x, 0, 0)))
    fore = cut(fore, cylinder("z", (0, 60), 16.4, (x, 0, 0)))
    pin = cylinder("z", (0, 60), 16, (x, 0, 0))
    group = Group("arm")
    for name, solid in zip(names, (base, arm, fore, pin), strict=True):
        group.place(steel(name, solid))
    if second:
        axle, wheel = (cylinder("y", ends, d, (x + 130, 0, 36)) for ends, d in (
            ((-40, -10), 10), ((-30, -12), 80)))  # fmt: skip
        bore = cylinder("y", (-30, -12), 10.3, (x + 130, 0, 36))
        group.place(steel("rad", cut(wheel, bore))).place(steel("achse", axle))
    else:
        group.place(steel("knopf", box((x + 100, x + 120), (-5, 5), (46, 56))))
    write_step(group, file)


def draft(cad: Path, document: Path) -> None:
    """The first pass."""
    assembly = read_cad(cad)
    proposal = propose(assembly)
    document.write_text(draft_text(proposal, assembly, document))
    remember(document, assembly, proposal)


class Redraft(unittest.TestCase):
    def test_a_revised_file_is_one_command(self) -> None:
        folder = folder_for(self)
        document = folder / "arm.yaml"
        write_arm(folder / "arm.step")
        done = run_mooring("draft", folder / "arm.step", "-o", document)
        self.assertEqual(done.returncode, 0, done.stderr)
        text = document.read_text()
        edited = text.replace("  ellbogen:\n    type: continuous", "  elbow:   # my name\n    "
                              "type: revolute\n    limits: {lower: -1, upper: 2}")  # fmt: skip
        self.assertNotEqual(text, edited)
        document.write_text(edited)
        done = run_mooring("draft", document)
        self.assertEqual(done.stdout.split(), ["arm.yaml:", "nothing", "changed"])
        self.assertEqual(document.read_text(), edited)

        names = ("Base plate", "oberarm", "Unterarm [2]", "=pin")
        write_arm(folder / "new.step", names, longer=15, second=True)
        done = run_mooring("draft", folder / "new.step", "-o", document)
        self.assertEqual(done.returncode, 0, done.stderr)
        for line in (
            "~ part Base plate: was sockel",
            "~ part Unterarm [2]: was unterarm; moved by 15 mm",
            "~ part =pin: was ellbogen; moved by 15 mm",
            "- part knopf",
            "+ part rad",
            "+ link rad: rad",
            "+ joint achse: continuous, unterarm to rad",
        ):
            self.assertIn(line, done.stdout)
        self.assertRegex(done.stdout, r"~ part oberarm: another shape, with \+5")
        self.assertRegex(done.stdout, r"~ link unterarm: achse added")
        robot = mooring.read(document)
        self.assertEqual(robot.joints["elbow"].limits.upper, 2)
        self.assertIn("# my name", document.read_text())
        elbow = robot.link_frames()["unterarm"][:3, 3]
        np.testing.assert_allclose(elbow[:2], (0.215, 0), atol=1e-9)
        parts = [part.name for link in robot.links.values() for part in link.parts]
        self.assertEqual(sorted(parts), sorted([*names, "rad", "achse"]))
        self.assertEqual(redraft(document), [])
        kept = json.loads((folder / "arm.drafted.json").read_text())
        self.assertEqual({j["name"] for j in kept["joints"]}, {"oberarm_turn", "elbow", "achse"})

    def test_limits_follow_unless_they_were_edited(self) -> None:
        for edited in (False, True):
            folder = folder_for(self)
            document = folder / "stage.yaml"
            for width in (60, 80):
                bed = fuse(box((0, 400), (0, 100), (0, 10)), box((0, 20), (0, 100), (10, 60)),
                           box((380, 400), (0, 100), (10, 60)),
                           box((20, 380), (40, 60), (10, 16)))  # fmt: skip
                car = cut(box((100, 100 + width), (20, 80), (10, 40)),
                          box((90, 200), (39.9, 60.1), (9, 16.1)))  # fmt: skip
                stage = Group("stage").place(steel("bed", bed)).place(steel("car", car))
                write_step(stage, folder / "stage.step")
                if width == 60:
                    draft(folder / "stage.step", document)
                    text = document.read_text()
                    self.assertRegex(
                        text, r"limits: \{lower: -(79|80)\S* mm, upper: (219|220)\S* mm\}"
                    )
                    if edited:
                        document.write_text(re.sub(r"upper: 2\S* mm", "upper: 150 mm", text))
            told = " ".join(redraft(document))
            (joint,) = mooring.read(document).joints.values()
            self.assertAlmostEqual(joint.limits.upper, 0.15 if edited else 0.2, delta=2e-3)
            self.assertEqual("goes from" in told, not edited)

    def test_places_by_numbers_follow_unless_they_were_edited(self) -> None:
        for edited in (False, True):
            folder = folder_for(self)
            document = folder / "arm.yaml"
            write_arm(folder / "arm.step")
            draft(folder / "arm.step", document)
            x = 199 if edited else 200
            at = f"{{xyz: [{x} mm, 0 mm, 30 mm], relative_to: cad}}\n    axis: z"
            text = document.read_text()
            wanted = text.replace("at: {bore: [ellbogen, unterarm]}", f"at: {at}")
            self.assertNotEqual(wanted, text)
            kept = folder / "arm.drafted.json"
            origin = r'("name": "ellbogen", "origin": \[)[^]]*'
            kept.write_text(re.sub(origin, r"\g<1>0.2, 0.0, 0.03", kept.read_text()))
            document.write_text(wanted)
            write_arm(folder / "arm.step", longer=15)
            changes = " ".join(redraft(document))
            found = mooring.read(document).link_frames()["unterarm"][0, 3]
            told = "its place was edited, and stays" if edited else "put where the CAD has it now"
            self.assertIn(f"ellbogen: {told}" if not edited else told, changes)
            self.assertAlmostEqual(found, 0.199 if edited else 0.215, places=9)

    def test_what_is_excluded_by_name_stays_out_and_takes_nothing_in(self) -> None:
        folder = folder_for(self)
        document = folder / "arm.yaml"
        write_arm(folder / "arm.step")
        draft(folder / "arm.step", document)
        text = document.read_text()
        parts = 'parts: ["un*", "kn*", "not knopf"]'
        edited = text.replace("parts: [unterarm, knopf]", parts).replace(
            "  sockel:\n    parts: [sockel]", "  sockel:\n    parts: [sockel, knopf]")  # fmt: skip
        self.assertEqual(edited.count("knopf"), text.count("knopf") + 1)
        document.write_text(edited)
        self.assertEqual(redraft(document), [])
        self.assertEqual(document.read_text(), edited)
        # Without the button nothing is left to be excluded, and a new part is not lost by it.
        write_arm(folder / "arm.step", second=True)
        told = " ".join(redraft(document))
        self.assertIn("- part knopf", told)
        robot = mooring.read(document)
        parts_of = {name: {p.name for p in link.parts} for name, link in robot.links.items()}
        self.assertEqual(parts_of["sockel"], {"sockel"})
        self.assertEqual(set().union(*parts_of.values()), {"sockel", "oberarm", "unterarm",
                                                           "ellbogen", "rad", "achse"})  # fmt: skip

    def test_what_cannot_be_is_refused_and_nothing_is_written(self) -> None:
        folder = folder_for(self)
        document = folder / "arm.yaml"
        document.write_text("mooring: 1\nname: bare\nlinks: {base: {}}\n")
        done = run_mooring("draft", document)
        self.assertEqual(done.returncode, 2)
        self.assertIn("has no cad: to be drafted from", done.stderr)
        for text, words in (
            ("links: [", "line 2|:2: not readable as YAML"),
            ("[1, 2]", "is no document"),
            ("cad: [{file: arm.step}]\nlinks: [a]", "links is a mapping"),
            ("cad: arm.step", "has no cad: to be drafted from"),
            ("cad: [{fil: 3}]", "did you mean 'file'"),
            ("cad: [{file: gone.step}]", "gone.step: there is no such file"),
        ):
            (folder / "broken.yaml").write_text(text + "\n")
            write_arm(folder / "arm.step")
            with self.subTest(text), self.assertRaisesRegex(InputError, words):
                redraft(folder / "broken.yaml")
        draft(folder / "arm.step", document)
        before = document.read_text()
        (folder / "arm.drafted.json").write_text("{")
        with self.assertRaisesRegex(InputError, "delete it to go by names"):
            redraft(document)
        (folder / "arm.drafted.json").unlink()
        self.assertIn("parts are told by name only", " ".join(redraft(document)))
        self.assertEqual(document.read_text(), before)


class Matching(unittest.TestCase):
    def test_parts_are_told_by_shape_and_place_before_their_names(self) -> None:
        def part(name: str, volume: float, x: float) -> PartPrint:
            moments = tuple(volume * m for m in (1, 0, 0, 0, 2, 0, 0, 0, 3))
            return PartPrint(name, volume, (x, 0.0, 0.0), moments, 0.1)

        before = [part("a", 1, 0), part("b", 1, 5), part("c", 2, 9), part("d", 3, 7)]
        # Two exchanged their names, one moved, one grew.
        after = [part("b", 1, 0), part("a", 1, 5), part("c", 2, 8), part("d", 4, 7)]
        found = match(before, after)
        self.assertEqual(found.names, {"a": "b", "b": "a", "c": "c", "d": "d"})
        self.assertEqual((found.appeared, found.vanished), ([], []))
        told = " ".join(found.told)
        for words in ("part c: moved by 1 m", "part d: another shape, with +33.3%", "was a"):
            self.assertIn(words, told)


class Travel(unittest.TestCase):
    def test_a_bar_turns_until_it_meets_a_post(self) -> None:
        base = fuse(box((-100, 100), (-100, 100), (-20, 0)), cylinder("z", (0, 30), 20),
                    cylinder("z", (0, 30), 10, (0, 80, 0)))  # fmt: skip
        arm = fuse(box((0, 95), (-10, 10), (5, 25)), cylinder("z", (5, 25), 40))
        arm = cut(arm, cylinder("z", (0, 30), 20.4))
        still, moving = made(folder_for(self), ("base", base), ("arm", arm)).parts
        line = Line(np.zeros(3), np.array([0.0, 0, 1]))
        lower, upper = free_travel([moving], [still], line, True, 5e-4)
        meets = 90 - np.degrees(np.arcsin(15 / 80))  # half a bar and the post's radius
        self.assertAlmostEqual(np.degrees(upper.at), meets, delta=1.0)
        self.assertAlmostEqual(np.degrees(lower.at), -180 - meets, delta=1.0)
        self.assertEqual((lower.parts, upper.parts), (("arm", "base"), ("arm", "base")))
        free = made(folder_for(self), ("base", cylinder("z", (0, 30), 20)), ("arm", arm)).parts
        lower, upper = free_travel([free[1]], [free[0]], line, True, 5e-4)
        self.assertEqual((lower.parts, upper.parts), (None, None))
        self.assertAlmostEqual(upper.at, 2 * np.pi)

    def test_a_wall_is_met_in_its_middle_though_its_corners_are_out_of_reach(self) -> None:
        wall, bar = box((-1000, 1000), (300, 310), (0, 50)), box((-10, 400), (-10, 10), (10, 30))
        still, moving = made(folder_for(self), ("wall", wall), ("bar", bar)).parts
        line = Line(np.zeros(3), np.array([0.0, 0, 1]))
        _, upper = free_travel([moving], [still], line, True, 5e-4)
        meets = math.asin(300 / math.hypot(400, 10)) - math.atan(10 / 400)
        self.assertAlmostEqual(np.degrees(upper.at), math.degrees(meets), delta=0.5)

    def test_a_carriage_slides_between_its_blocks(self) -> None:
        bed = fuse(box((0, 400), (0, 100), (0, 10)), box((0, 20), (0, 100), (10, 60)),
                   box((380, 400), (0, 100), (10, 60)))  # fmt: skip
        assembly = made(
            folder_for(self), ("bed", bed), ("car", box((100, 160), (20, 80), (10, 40)))
        )
        lower, upper = free_travel(
            [assembly.parts[1]], [assembly.parts[0]], Line(np.zeros(3), np.array([1.0, 0, 0])),
            False, 5e-4,
        )  # fmt: skip
        np.testing.assert_allclose((lower.at, upper.at), (-0.08, 0.22), atol=1e-3)


if __name__ == "__main__":
    unittest.main()
