"""A draft reshaped: by the functions, whose documents are read again, and by pointing in the page."""

import math
import unittest
from collections.abc import Callable
from pathlib import Path

import numpy as np

import mooring
from mooring.errors import ModelError
from mooring.formats.document import DocumentEditor
from mooring.formats.document.drafting import reshaping
from mooring.formats.document.drafting.pointing import Feature, pointed_at
from mooring.geometry import inverse
from mooring.model import Robot
from mooring.page.desk.editing import Edits
from mooring.page.desk.placing import place_by
from tests.browser import Window, serve
from tests.support import folder_for
from tests.test_redraft import draft, write_arm


def drafted(test: unittest.TestCase | type[unittest.TestCase]) -> Path:
    """An arm of sockel, oberarm with its pin ellbogen, and unterarm with a button."""
    folder = folder_for(test)
    write_arm(folder / "arm.step")
    draft(folder / "arm.step", folder / "arm.yaml")
    return folder / "arm.yaml"


class Reshaping(unittest.TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        cls.file = drafted(cls)
        cls.robot = mooring.read(cls.file)

    def after(self, change: Callable[[DocumentEditor], object]) -> tuple[Robot, str]:
        editor = DocumentEditor(self.file)
        change(editor)
        return editor.check(), editor.text

    def parts(self, robot: Robot) -> dict[str, set[str]]:
        return {name: {part.name for part in link.parts} for name, link in robot.links.items()}

    def test_what_turns_the_other_way_goes_where_it_went(self) -> None:
        def limited(editor: DocumentEditor) -> None:
            editor.set("joints.ellbogen.type", "revolute")
            editor.set(
                "joints.ellbogen.limits", {"lower": "-30 deg", "upper": "=2 rad", "effort": 3}
            )

        before, _ = self.after(limited)

        def turned(editor: DocumentEditor) -> None:
            limited(editor)
            reshaping.turn_round(editor, before, "ellbogen")

        robot, text = self.after(turned)
        joint, old = robot.joints["ellbogen"], before.joints["ellbogen"]
        np.testing.assert_allclose(joint.axis, -np.array(old.axis))
        self.assertAlmostEqual(joint.limits.lower, -2)
        self.assertAlmostEqual(joint.limits.upper, math.radians(30))
        self.assertEqual(joint.limits.effort, 3)
        self.assertIn("confidence: sockel and oberarm", text)

    def test_links_are_merged_whichever_hangs_on_the_other(self) -> None:
        for into, gone in (("oberarm", "unterarm"), ("unterarm", "oberarm"), ("oberarm", "sockel")):
            robot, text = self.after(lambda e, a=into, b=gone: reshaping.merge(e, a, b))
            before = self.parts(self.robot)
            self.assertEqual(self.parts(robot)[into], before[into] | before[gone])
            self.assertNotIn(gone, robot.links)
            self.assertEqual(len(robot.joints), 1)
            self.assertIn("confidence:", text.partition("joints:")[2])  # comments are kept
        with self.assertRaisesRegex(ModelError, "hangs on 'sockel' by other links"):
            self.after(lambda editor: reshaping.merge(editor, "unterarm", "sockel"))
        with self.assertRaisesRegex(ModelError, "is not written under links"):
            self.after(lambda editor: reshaping.merge(editor, "oberarm", "leg"))

    def test_a_part_becomes_a_link_of_its_own_and_joints_are_held(self) -> None:
        def split(editor: DocumentEditor) -> str:
            return reshaping.split_off(editor, self.robot, "unterarm", ["knopf"])

        robot, _ = self.after(split)
        self.assertEqual(self.parts(robot)["knopf"], {"knopf"})
        self.assertEqual(self.parts(robot)["unterarm"], {"unterarm"})
        self.assertEqual(robot.joints["knopf_mount"].parent, "unterarm")
        with self.assertRaisesRegex(ModelError, "nothing of 'sockel' would be left"):
            reshaping.split_off(DocumentEditor(self.file), self.robot, "sockel", ["sockel"])

        def patterned(editor: DocumentEditor) -> None:
            editor.set("links.unterarm.parts", ["unter*", "kn*"])
            split(editor)

        robot, text = self.after(patterned)
        self.assertIn("not knopf", text)
        self.assertEqual(self.parts(robot)["unterarm"], {"unterarm"})
        robot, text = self.after(lambda editor: reshaping.weld(editor, "oberarm_turn"))
        self.assertEqual(robot.joints["oberarm_turn"].type, "fixed")
        self.assertEqual(text.count("confidence:"), 2)
        robot, _ = self.after(lambda e: reshaping.set_type(e, "ellbogen", "prismatic"))
        self.assertEqual(robot.joints["ellbogen"].type, "prismatic")

    def test_what_is_pointed_at_is_named_as_a_feature_that_is_found_again(self) -> None:
        def at(link: str, *place: float) -> object:
            point = inverse(self.robot.link_frames()[link]) @ np.array([*place, 1.0])
            return pointed_at(self.robot, link, point[:3])

        top = at("unterarm", 0.31, 0.0, 0.056)
        self.assertEqual((top.part, top.surface.at), ("knopf", {"face": "knopf", "toward": "z"}))
        bore = at("oberarm", 0.0102, 0.0, 0.015)
        self.assertEqual(bore.part, "oberarm")
        self.assertIn("bore of radius 10.2 mm", bore.surface.words)
        robot, text = self.after(
            lambda editor: reshaping.add_frame(editor, "hub", "oberarm", bore.surface.at, "plain")
        )
        self.assertNotIn("xyz", text)
        frame = robot.frames["hub"]
        place = robot.link_frames()["oberarm"]
        np.testing.assert_allclose((place @ frame.at.in_link(place))[:2, 3], 0, atol=1e-9)

    def test_an_edge_that_is_near_is_offered_and_found_again(self) -> None:
        to_link = inverse(self.robot.link_frames()["unterarm"])
        found = pointed_at(self.robot, "unterarm", (to_link @ [0.28, -0.0099, 0.046, 1.0])[:3])
        self.assertEqual(found.edge.words, "edge along x")
        self.assertEqual(found.named, (found.surface, found.edge))
        robot, _ = self.after(
            lambda editor: reshaping.add_frame(editor, "rim", "unterarm", found.edge.at, "plain")
        )
        place = robot.link_frames()["unterarm"]
        np.testing.assert_allclose(
            (place @ robot.frames["rim"].at.in_link(place))[1:3, 3], [-0.01, 0.046], atol=1e-6
        )
        far = pointed_at(self.robot, "unterarm", (to_link @ [0.28, 0.0, 0.046, 1.0])[:3])
        self.assertIsNone(far.edge)

    def test_a_joint_is_placed_by_a_feature_and_keeps_its_sense(self) -> None:
        path = ("joints", "ellbogen", "at")
        parallel = Feature("bore", {"axis": "ellbogen"}, (0.0, 0.0, -1.0))
        across = Feature("edge", {"edge": "unterarm", "near": ["0.2 m", 0, 0]}, (1.0, 0.0, 0.0))
        for feature, stays in ((parallel, True), (across, False)):
            file = self.file.with_name("placed.yaml")
            editor = DocumentEditor(self.file)
            editor.set("joints.ellbogen.axis", "-z")
            editor.set("joints.ellbogen.at", {"xyz": [0.2, 0, 0], "relative_to": "cad"})
            file.write_text(editor.text)
            edits = Edits(file)
            changes = place_by(mooring.read(file), path, edits, path, feature)
            file.write_text(edits.propose("place", changes).after)
            joint = mooring.read(file).joints["ellbogen"]
            self.assertEqual("axis: -z" in file.read_text(), stays)
            self.assertNotIn("xyz", file.read_text())
            want = (0, 0, -1) if stays else (1, 0, 0)
            np.testing.assert_allclose(np.array(joint.axis), want, atol=1e-9)

    def test_a_cut_part_is_listed_by_its_pieces(self) -> None:
        plane = {"plane": {"through": ["100 mm", 0, 0], "normal": "x"}}
        robot, _ = self.after(lambda editor: reshaping.cut_part(editor, "oberarm", plane))
        pieces = self.parts(robot)["oberarm"]
        self.assertEqual(pieces, {"oberarm_1", "oberarm_2", "ellbogen"})


class InThePage(unittest.TestCase):
    def test_proposals_are_accepted_turned_and_refused(self) -> None:
        file = drafted(self)
        page = Window(self, serve(type(self), file))
        page.click("Draft")
        page.until(lambda: "2 of 2 to be looked at" in page.text(".m-right"), "the proposals")
        self.assertIn("high confidence: sockel and oberarm", page.text(".m-right"))
        page.click("Accept")
        page.until(lambda: "1 of 2 to be looked at" in page.text(".m-right"), "what is left")
        before = file.read_text()
        page.click("Turn round")
        page.until(lambda: "axis: -z" in page.text(".m-diff .new"), "the change")
        page.click("Write")
        page.until(lambda: file.read_text() != before, "the document")
        self.assertEqual(len(mooring.read(file).joints), 2)
        page.until(lambda: "Undo" in page.text(".m-top, header, body"), "what can be undone")
        page.js("mooring.stage.hub.ask('select', {link: 'unterarm', point: [0.1, 0, 0.012]})")
        page.until(lambda: "part knopf, flat face" in page.text(".m-right"), "what is pointed at")
        page.click("Link of its own")
        page.until(lambda: "knopf_mount" in page.text(".m-diff .new"), "the new link")
        page.click("Write")
        page.until(lambda: "knopf" in mooring.read(file).links, "the link")
        self.place_a_joint(page, file)
        self.assertEqual(page.complaints(), [])

    def place_a_joint(self, page: Window, file: Path) -> None:
        page.js("mooring.stage.hub.ask('select', {joint: 'ellbogen', link: 'unterarm'})")
        page.click("Properties")
        field = ".m-table input[aria-label='placed by']"
        page.write(lambda: page.all(field), "bore: [oberarm")
        page.until(lambda: "is no place" in page.text("body"), "the refusal")
        page.write(lambda: page.all(field), "bore: [oberarm, nowhere]")
        page.until(lambda: "nowhere" in page.text(".q-notification"), "what the CAD lacks")
        before = file.read_text()
        page.click("Point ...")
        page.until(lambda: "Point at a bore" in page.text(".m-right"), "what is waited for")
        page.click("Leave it")
        page.click("Point ...")
        # A joint that is chosen in the tree meanwhile is chosen, and nothing is placed.
        page.click("oberarm_turn", ".m-joint")
        page.until(lambda: "joint oberarm_turn" in page.text(".m-heading"), "the other joint")
        page.click("ellbogen", ".m-joint")
        page.click("Point ...")
        place = inverse(mooring.read(file).link_frames()["knopf"]) @ [0.31, 0.0, 0.056, 1.0]
        ask = "mooring.stage.hub.ask('select', {link: 'knopf', point: arguments[0]})"
        page.js(ask, place[:3].tolist())
        page.until(lambda: "face: knopf" in page.text(".m-diff .new"), "the change")
        # How it would move is shown before it is written, and nothing else is chosen.
        page.until(
            lambda: page.js("return document.querySelector('.m-preview img')?.naturalWidth"),
            "it moves",
        )
        self.assertIn("ellbogen from", page.text(".m-preview"))
        page.click("Write")
        page.until(lambda: file.read_text() != before, "the document")
        self.assertEqual(mooring.read(file).joints["ellbogen"].child, "unterarm")
        page.until(lambda: "face: knopf" in page.all(field)[0].get_attribute("value"), "the place")


if __name__ == "__main__":
    unittest.main()
