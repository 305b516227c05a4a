"""Documents changed by program: comments, order and quotes survive, and nothing wrong is saved."""

import difflib
import re
import shutil
import unittest
from collections.abc import Iterator
from functools import reduce

import mooring
from mooring import DocumentEditor
from mooring.demo import DRUM_CART, LINE_TENDER, WALKER, WALKER_LEG
from mooring.errors import DocumentError, InputError, ModelError
from tests.story import yaml_values
from tests.support import folder_for

SPACED = """\
# Ein Kran, von Hand geschrieben
---
mooring:   1
name:      kran

links:
    base :
        mass:      12 kg          # so schwer
        collision:
        -   box: [1,1,1]
            at: {xyz: [0,0,0.5]}
        -   {cylinder: {radius: 0.1,length: 1},at: {xyz: [1,0,0]}}

    arm:  {mass: 3,   centre: [0.5,0,0],
           inertia: [0.1,   # um x
                     0.1,
                     0.1]}  # um z

joints:
    swing:
        type:    revolute
        parent:  base
        child:   arm
        axis:    [0,0,1]
        at:
            xyz: [0,0,1]
        limits: {lower: -1 rad,upper: 1 rad,
                 effort: 10,
                 velocity: 1}

postures:
    out:
        swing:   1
# Ende
...
"""


def scalars(node: object, path: tuple[str | int, ...] = ()) -> Iterator[tuple[str | int, ...]]:
    """The paths of all values that hold no others."""
    if isinstance(node, dict | list):
        for key, inner in node.items() if isinstance(node, dict) else enumerate(node):
            yield from scalars(inner, (*path, key))
    else:
        yield path


class Editing(unittest.TestCase):
    def setUp(self) -> None:
        self.folder = folder_for(self)
        for machine in (LINE_TENDER, WALKER, WALKER_LEG):
            for file in machine.document.parent.glob("*.*"):
                shutil.copy(file, self.folder)
        self.file = self.folder / "line_tender.yaml"
        self.text = self.file.read_text()

    def test_an_untouched_document_stays_as_it_is(self) -> None:
        for machine in (LINE_TENDER, WALKER, WALKER_LEG, DRUM_CART):
            self.assertEqual(DocumentEditor(machine.document).text, machine.document.read_text())

    def test_a_change_touches_its_own_line_only(self) -> None:
        editor = DocumentEditor(self.file)
        self.assertEqual(editor.get("joints.slew.limits.upper"), "170 deg")
        editor.set("joints.slew.limits.upper", "160 deg")
        editor.set("motors.jaw_drive.d", "61 N*m*s/rad")
        editor.set("motions.lay_line.0.hold", "0.6 s")
        robot = editor.save()
        self.assertAlmostEqual(robot.joints["slew"].limits.upper, 160 * 3.141592653589793 / 180)
        before, after = self.text.splitlines(), self.file.read_text().splitlines()
        changed = [(a, b) for a, b in zip(before, after, strict=True) if a != b]
        self.assertEqual(len(changed), 3)
        self.assertIn("upper: 160 deg, velocity: 20 deg/s", changed[0][1])

    def test_however_a_document_is_spaced_other_lines_stay(self) -> None:
        file = self.folder / "kran.yaml"
        file.write_bytes(SPACED.replace("\n", "\r\n").encode())
        lines = SPACED.splitlines()
        paths = list(scalars(yaml_values(SPACED)))
        self.assertGreater(len(paths), 30)
        for path in paths:
            editor = DocumentEditor(file)
            editor.set(path, "changed")
            values = yaml_values(editor.text)
            self.assertEqual(reduce(lambda node, key: node[key], path, values), "changed")
            kept = difflib.SequenceMatcher(None, lines, editor.text.splitlines(), autojunk=False)
            touched = [one for one in kept.get_opcodes() if one[0] != "equal"]
            self.assertEqual(len(touched), 1, path)
            self.assertEqual(touched[0][2] - touched[0][1], 1, path)
            # In that line the value is another, and how it is spaced is not.
            before, after = lines[touched[0][1]], editor.text.splitlines()[touched[0][3]]
            said = str(reduce(lambda node, key: node[key], path, yaml_values(SPACED)))
            places = re.finditer(rf"(?<![\w.]){re.escape(said)}(?![\w.])", before)
            self.assertIn(
                after, [f"{before[: m.start()]}changed{before[m.end() :]}" for m in places], path
            )
        for path, value, line in (
            (("joints", "swing", "axis"), [0, 1, 0], "        axis:    [0,1,0]"),
            (("joints", "swing", "damping"), 2, "        damping: 2"),
            (("postures", "in"), {"swing": 0}, "    in:"),
            (("frames",), {"tip": {"link": "arm"}}, "frames:"),
        ):
            editor = DocumentEditor(file)
            editor.set(path, value)
            editor.check()
            self.assertIn(line, editor.text.splitlines())
        editor.save()
        written = file.read_bytes()
        self.assertEqual(written.count(b"\n"), written.count(b"\r\n"))

    def test_a_rename_reaches_every_line_that_refers_to_it(self) -> None:
        editor = DocumentEditor(self.file)
        for kind, old, new in (
            ("link", "boom", "arm"), ("joint", "port_jaw_hinge", "grip"), ("posture", "stowed", "home"),
            ("material", "painted_steel", "hull_steel"), ("motor", "slew_drive", "slew_gear"),
        ):  # fmt: skip
            editor.rename(kind, old, new)
        robot = editor.save()
        self.assertEqual(robot.joints["luff"].child, "arm")
        self.assertEqual(robot.closures["rod_pin"].between, ("rod", "arm"))
        self.assertEqual(robot.couplings["starboard_jaw_hinge"].follows, "grip")
        self.assertIn("grip", robot.postures["over_ship"])
        self.assertEqual(robot.motions["lay_line"][0].to, "home")
        self.assertEqual(robot.links["wrist"].material, "hull_steel")
        text = self.file.read_text()
        self.assertIn("  luff:                      # positive raises the boom", text)
        self.assertEqual(text.count("#"), self.text.count("#"))
        walker = DocumentEditor(self.folder / "walker.yaml")
        walker.rename("link", "hull", "body")
        walker.rename("value", "reach", "half_width")
        robot = walker.save()
        self.assertEqual(robot.joints["port_rear_mount"].parent, "body")
        self.assertIn('"=-half_width"', (self.folder / "walker.yaml").read_text())

    def test_nothing_wrong_is_written(self) -> None:
        editor = DocumentEditor(self.file)
        editor.set("joints.luff.axis", "up")
        with self.assertRaisesRegex(
            DocumentError, r"line_tender.yaml:\d+: joint 'luff': 'up' is no"
        ):
            editor.save()
        self.assertEqual(self.file.read_text(), self.text)
        editor.set("joints.luff.axis", "-y")
        editor.remove("postures.lifted")
        with self.assertRaisesRegex(DocumentError, "no posture is called 'lifted'"):
            editor.save()
        for call, words in (
            (lambda: editor.get("joints.slow"), "joints.slow is not there; did you mean 'slew'"),
            (
                lambda: editor.set("joint.slew.axis", "z"),
                "joint is not there; did you mean 'joints'",
            ),
            (lambda: editor.get("cad.3"), "the list has 1 items"),
            (lambda: editor.set("name.first", "x"), "in which nothing can be set"),
            (lambda: editor.rename("link", "boom", "jib"), "already a link called 'jib'"),
            (
                lambda: editor.rename("link", "bom", "x"),
                "itself has no link called 'bom'; did you mean",
            ),
            (lambda: editor.rename("leg", "a", "b"), "unknown kind 'leg'"),
        ):
            with self.assertRaisesRegex(ModelError, words):
                call()
        fresh = DocumentEditor(self.file)
        self.file.write_text(self.text + "\n# somebody was here\n")
        with self.assertRaisesRegex(InputError, "changed by somebody else"):
            fresh.save()
        with self.assertRaises(InputError):
            DocumentEditor(self.folder / "none.yaml")
        self.assertEqual(len(mooring.read(self.file).links), 11)
