"""A day's work in the live page: nothing freezes, nothing is lost, edits can be trusted."""

import re
import shutil
import unittest

import numpy as np
from selenium.webdriver import ActionChains
from selenium.webdriver.common.keys import Keys

import mooring
from mooring.demo import DRUM_CART, LINE_TENDER, WALKER
from mooring.kinematics import configuration, link_poses
from mooring.model import Robot
from mooring.simulation import read_run
from tests.browser import SEEN, Window, serve
from tests.support import folder_for


def frame_pose(robot: Robot, name: str, q: np.ndarray) -> np.ndarray:
    """Where a frame is, by the kinematics."""
    tree = robot.tree()
    body, place = tree.frames[name]
    return link_poses(tree, q)[body] @ place


class Page(unittest.TestCase):
    """A page of a copy of a demo machine."""

    machine = LINE_TENDER.document

    @classmethod
    def setUpClass(cls) -> None:
        cls.folder = folder_for(cls)
        for file in cls.machine.parent.iterdir():
            if file.suffix in (".yaml", ".step"):
                shutil.copy(file, cls.folder)
        cls.file = cls.folder / cls.machine.name
        cls.text = cls.file.read_text()
        cls.robot = mooring.read_scene(cls.file).robot
        cls.address = serve(cls, cls.file)
        cls.page = Window(cls, cls.address)
        cls.page.click("Got it")

    def shown(self, joint: str) -> float:
        """The value in a joint's field."""
        return float(
            self.page.js(f"return document.querySelector('[data-joint={joint}] .m-field').value")
        )

    def type_into(self, joint: str, text: str) -> None:
        self.page.write(lambda: self.page.all(f"[data-joint={joint}] .m-field"), text)

    def press(self, *keys: str) -> None:
        ActionChains(self.page.browser).send_keys(*keys).perform()

    def chord(self, *keys: str) -> None:
        chain = ActionChains(self.page.browser)
        for key in keys[:-1]:
            chain.key_down(key)
        chain.send_keys(keys[-1])
        for key in keys[:-1]:
            chain.key_up(key)
        chain.perform()

    def choose(self, joint: str) -> None:
        """Choose a joint, and wait for its table."""
        self.page.click(joint, ".m-joint")
        self.says(f"joint {joint}", ".m-heading")

    def field(self, name: str) -> list:
        return self.page.all(f".m-table input[aria-label='{name}']")

    def says(self, words: str, where: str = "body") -> None:
        self.page.until(lambda: words in self.page.text(where), words)


class Working(Page):
    def setUp(self) -> None:
        self.page.click("neutral")
        self.page.until(lambda: self.shown("slew") == 0 and self.shown("luff") == 0, "neutral")

    def test_a_number_without_end_ends_nothing(self) -> None:
        self.type_into("rotator", "1e9")
        self.page.until(lambda: self.shown("rotator") == 1e9, "the rotator far away")
        self.type_into("extension", "1e9")
        self.page.until(lambda: self.page.text(".m-row.refused .m-note"), "a refusal")
        self.type_into("slew", "20")
        self.page.until(lambda: self.shown("slew") == 20, "the next move")
        for said, words in (
            ("1e400", "not finite"),
            ("1,000", "could be 1000 or 1.000"),
            ("3 kg", "is a mass"),
            ("=reach / 2", "no value is called 'reach'"),
        ):
            self.type_into("slew", said)
            self.says(words, ".m-row.refused")
        for said, value in (("0.5 rad", 28.65), ("=atan2(1, 1)", 45), ("-12.5", -12.5)):
            self.type_into("slew", said)
            self.page.until(lambda value=value: self.shown("slew") == value, said)

    def test_a_move_by_numbers_stays_in_sight(self) -> None:
        # From the front, which the boom points at.
        self.press("2")
        self.page.until(lambda: self.page.js(SEEN), "all of it")
        # Seen from where it was, it would leave.
        self.page.js("mooring.stage.eye.beware = () => {}")
        self.type_into("slew", "90")
        self.page.until(lambda: self.shown("slew") == 90, "a turn")
        self.assertFalse(self.page.js(SEEN))
        self.page.js("delete mooring.stage.eye.beware")
        self.page.click("neutral")
        self.page.until(lambda: self.page.js(SEEN), "all of it again")
        self.type_into("slew", "90 deg")
        self.page.until(lambda: self.shown("slew") == 90 and self.page.js(SEEN), "all of it there")

    def test_moves_are_taken_back_and_done_again(self) -> None:
        self.type_into("slew", "30")
        self.page.until(lambda: self.shown("slew") == 30, "a move")
        self.page.click("over_ship")
        self.page.until(lambda: self.shown("slew") == 80, "a posture")
        for keys, value in (
            ((Keys.CONTROL, "z"), 30),
            ((Keys.CONTROL, "z"), 0),
            ((Keys.CONTROL, Keys.SHIFT, "z"), 30),
            ((Keys.CONTROL, "y"), 80),
        ):
            self.chord(*keys)
            self.page.until(lambda value=value: self.shown("slew") == value, f"{keys}: {value}")

    def test_runs_are_kept_until_they_are_let_go(self) -> None:
        self.page.click("Run")
        self.page.click("Play")
        self.says("times real time", ".m-foot")
        self.page.click("over_ship")
        self.says("is kept under Run")
        self.says("run 1", ".m-run")
        # A save of the document in the middle of a run loses nothing either.
        self.page.click("Play")
        self.says("times real time", ".m-foot")
        self.file.write_text(self.text.replace("lower: -170 deg", "lower: -169 deg", 1))
        self.says("run 2", ".m-right")
        self.page.until(
            lambda: "-169" in self.page.text("[data-joint=slew] .m-end"), "the new limit"
        )
        self.file.write_text(self.text)
        self.page.until(
            lambda: "-170" in self.page.text("[data-joint=slew] .m-end"), "the old limit"
        )
        self.page.click("Look")
        self.says("recorded", ".m-foot")
        self.page.click("Go on from here")
        time = self.page.until(
            lambda: re.search(r"(\d+\.\d{3}) s", self.page.text(".m-foot")), "a simulation"
        )
        began = float(time[1])
        self.assertGreater(began, 0)
        self.page.click("Stop")
        self.page.click("Save", ".m-run .q-btn")
        folder = self.folder / "saved"
        self.page.write(lambda: self.page.all(".q-dialog input"), str(folder))
        self.says("saved: mooring open")
        scene, recording = read_run(folder)
        self.assertEqual(scene.robot.name, "line_tender")
        self.assertGreater(len(recording.table), 1)
        count = len(self.page.all(".m-run"))
        self.page.click("Let go")
        self.page.until(lambda: len(self.page.all(".m-run")) == count - 1, "one run less")

    def test_values_are_typed_as_they_are_shown_and_what_is_wrong_is_refused(self) -> None:
        self.choose("slew")
        for said, words in (
            ("-200", "as it would be wrong"),
            ("1,000", "could be 1000 or 1.000"),
            ("120 kg", "kg"),
        ):
            self.page.write(lambda: self.field("upper"), said)
            self.says(words, ".q-notification")
            self.assertEqual(self.file.read_text(), self.text)
            self.choose("luff")
            self.choose("slew")
        self.page.write(lambda: self.field("upper"), "45")
        self.says("upper: 45 deg", ".m-diff .new")
        self.says("45 deg, which is 0.785398 rad", ".q-dialog")
        self.page.click("Write")
        self.page.until(lambda: "45" in self.page.text("[data-joint=slew] .m-end"), "the limit")
        # One line of the document is another, and no more.
        before, after = self.text.splitlines(), self.file.read_text().splitlines()
        self.assertEqual(sum(a != b for a, b in zip(before, after, strict=True)), 1)
        # What is half typed outlives a reading of the file.
        self.page.write(lambda: self.field("lower"), "-12", end="")
        self.file.write_text(self.text)
        self.page.until(
            lambda: "170" in self.page.text("[data-joint=slew] .m-end"), "the old limit"
        )
        self.page.until(
            lambda: [f.get_attribute("value") for f in self.field("lower")] == ["-12"],
            "what was typed",
        )
        self.page.write(lambda: self.field("lower"), "-170 deg")
        self.page.write(lambda: self.field("axis"), "-z")
        self.says("axis: -z", ".m-diff .new")
        self.page.click("Cancel")

    def test_a_frame_goes_to_the_numbers_that_are_typed(self) -> None:
        self.page.click("Properties")
        where = configuration(self.robot, None)
        pose = frame_pose(self.robot, "grip", where)
        fields = {
            axis: f".m-six input[aria-label='{axis} in {unit}']"
            for axis, unit in (("x", "mm"), ("y", "mm"), ("z", "mm"))
        }

        def at(axis: str) -> float:
            return float(self.page.all(fields[axis])[0].get_attribute("value") or "nan")

        for axis, value in zip("xyz", pose[:3, 3], strict=True):
            self.page.until(
                lambda axis=axis, value=value: abs(at(axis) - 1000 * value) < 0.1,
                f"{axis} of the grip",
            )
        self.page.write(lambda: self.page.all(fields["y"]), "600")
        self.page.until(
            lambda: abs(at("y") - 600) < 0.06 and self.shown("slew") != 0, "the grip there"
        )
        self.assertAlmostEqual(at("x"), 1000 * pose[0, 3], delta=0.11)
        self.page.write(lambda: self.page.all(fields["z"]), "9 m")
        self.says("does not reach the target", ".q-notification")
        # Another is found by a part of its name; what is none is said.
        name, chosen = (
            "input[aria-label='frame or link']",
            ".q-select:has([aria-label='frame or link'])",
        )
        for typed, words in (("nonsense", "no frame or link is called"), ("ji", "")):
            field = self.page.all(name)[0]
            field.click()
            self.says("cabinet", ".q-menu")
            field.send_keys(Keys.CONTROL, "a")
            field.send_keys(typed)
            self.page.until(lambda: "cabinet" not in self.page.text(".q-menu"), "what is meant")
            field.send_keys(Keys.ENTER)
            self.says(words, ".q-notification")
        self.says("jib", chosen)
        self.page.until(
            lambda: abs(at("x") - 1000 * self.page.pose("jib")[0, 3]) < 0.1, "where it is"
        )

    def test_a_window_may_hold_a_posture_of_its_own(self) -> None:
        other = Window(self, self.address)
        value = "return document.querySelector('[data-joint=slew] .m-field').value"
        other.click("on its own")
        other.until(lambda: "follow mine" in other.text(".m-postures"), "it is on its own")
        other.slide("slew", 0.5)
        other.until(lambda: float(other.js(value)) != 0, "its own posture")
        other.slide("extension", 0.3)
        other.until(lambda: abs(other.pose("boom")[2, 0]) > 0.2, "a loop of its own")
        self.type_into("slew", "-20")
        self.page.until(lambda: self.shown("slew") == -20, "another posture here")
        self.assertAlmostEqual(float(other.js(value)), np.degrees(0.5), delta=0.01)
        # What it says, keeps, takes back and runs to and fro is its own.
        other.click("keep ...")
        other.write(lambda: other.all(".q-dialog input"), "mine")
        other.until(lambda: "slew: 28.6479 deg" in other.text(".m-diff .new"), "its own posture")
        other.click("Cancel")
        other.click("over_ship")
        other.until(lambda: float(other.js(value)) == 80, "a posture")
        other.click("Properties")
        y = ".m-six input[aria-label='y in mm']"
        other.until(
            lambda: float(other.all(y)[0].get_attribute("value") or 0) > 500, "the grip there"
        )
        other.click("Undo")
        other.until(lambda: abs(float(other.js(value)) - np.degrees(0.5)) < 0.01, "taken back")
        other.click("⇄", "[data-joint=rotator] button")
        turned = "return document.querySelector('[data-joint=rotator] .m-field').value"
        other.until(lambda: abs(float(other.js(turned))) > 3, "to and fro")
        other.click("⇄", "[data-joint=rotator] button")
        undo = "return [...document.querySelectorAll('.q-btn')].find((e) => e.textContent == 'Undo').title"
        other.until(lambda: other.js(undo).startswith("rotator to and fro"), "what Undo takes back")
        other.click("Undo")
        other.until(lambda: float(other.js(turned)) == 0, "where it began")
        self.assertEqual((self.shown("slew"), self.shown("rotator")), (-20, 0))
        other.click("follow mine")
        self.page.until(
            lambda: abs(self.shown("slew") - np.degrees(0.5)) < 0.01, "what the other had"
        )
        self.type_into("slew", "10")
        other.until(lambda: float(other.js(value)) == 10, "together again")

    def test_keys_work_wherever_the_pointer_was(self) -> None:
        slider = self.page.all("[data-joint=slew] .m-slider")[0]
        ActionChains(self.page.browser).move_to_element(slider).click().perform()
        self.type_into("slew", "0")
        self.page.until(lambda: self.shown("slew") == 0, "zero")
        self.page.js("document.querySelector('[data-joint=slew] .m-slider').focus()")
        self.press(*[Keys.ARROW_RIGHT] * 25)
        # Each press counts, however late the answer to the one before.
        self.page.until(lambda: self.shown("slew") == 25, "25 presses")
        camera = self.page.js("return mooring.stage.eye.camera.position.toArray()")
        self.press("6")
        self.page.until(
            lambda: (
                np.abs(
                    np.subtract(
                        self.page.js("return mooring.stage.eye.camera.position.toArray()"), camera
                    )
                ).max()
                > 0.1
            ),
            "another view",
        )
        self.page.click("Findings")
        self.page.js("document.querySelector('[role=tab]').focus()")
        self.press(Keys.SPACE)
        self.press("1")
        self.page.click("Show")
        self.assertIn("Play simulates from here", self.page.text(".m-foot"))

    def test_it_is_told_to_those_who_do_not_see_it(self) -> None:
        self.assertTrue(self.page.js("return document.documentElement.lang"))
        self.assertEqual(
            self.page.js("return document.querySelector('.m-note').getAttribute('role')"), "status"
        )
        self.page.js("document.querySelector('.m-skip').focus()")
        self.press(Keys.ENTER)
        self.assertTrue(self.page.js("return document.activeElement.matches('.m-left')"))
        self.page.click("Show")
        self.page.click("names of links")
        named = "return [...document.querySelectorAll('.m-label')].filter((e) => e.style.display != 'none').length"
        lines = "return document.querySelector('.m-labels path').getAttribute('d').split('M').length - 1"
        self.page.until(
            lambda: 3 < self.page.js(named) == self.page.js(lines), "a line to each name"
        )
        self.page.click("names of links")
        self.page.click("Dark")
        self.page.until(
            lambda: self.page.js("return document.body.classList.contains('body--dark')"), "dark"
        )
        script = (
            "const light = (c) => { const [r, g, b] = c.match(/[\\d.]+/g).map(Number).map((v) => v / 255)"
            ".map((v) => (v <= 0.03928 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4)); return 0.2126 * r + 0.7152 * g + 0.0722 * b; };"
            "const back = (e) => { for (; e; e = e.parentElement) { const c = getComputedStyle(e).backgroundColor; if (!/, 0\\)$/.test(c)) return c; } return 'rgb(0,0,0)'; };"
            "return [...document.querySelectorAll('.m-page .q-btn__content, .m-page label, .m-page .m-joint, .m-page .m-link, .m-page .m-note, .m-page .q-tab__label')]"
            ".filter((e) => e.offsetParent && e.textContent.trim() && !e.closest('[disabled], .disabled')).map((e) => { const a = light(getComputedStyle(e).color), b = light(back(e));"
            "return [e.textContent.trim().slice(0, 30), (Math.max(a, b) + 0.05) / (Math.min(a, b) + 0.05)]; })"
        )  # fmt: skip
        # Colors change by and by.
        self.page.until(lambda: not [c for c in self.page.js(script) if c[1] < 4.5], "contrast")
        self.page.click("Light")
        self.page.until(
            lambda: not self.page.js("return document.body.classList.contains('body--dark')"),
            "light",
        )
        self.page.until(lambda: not [c for c in self.page.js(script) if c[1] < 4.5], "contrast")


class Walking(Page):
    machine = WALKER.document

    def test_what_is_included_is_changed_in_its_own_file(self) -> None:
        leg = self.folder / "leg.yaml"
        before = leg.read_text()
        self.choose("port_front_hip_yaw")
        # What is pointed at here has no name in the CAD of the leg's own document.
        self.assertNotIn("Point ...", self.page.text(".m-facts"))
        self.page.write(lambda: self.field("upper"), "25")
        self.says("leg.yaml is included 6 times", ".q-dialog")
        self.page.click("Write")
        self.page.until(
            lambda: "25" in self.page.text("[data-joint=starboard_rear_hip_yaw]"), "all legs"
        )
        self.assertEqual(self.file.read_text(), self.text)
        self.assertNotEqual(leg.read_text(), before)
        self.page.click("Undo")
        self.page.until(lambda: leg.read_text() == before, "as it was")

    def test_named_values_are_changed_for_all_that_use_them(self) -> None:
        self.press(Keys.ESCAPE)
        self.page.click("Properties")
        hull = self.page.pose("port_front_hip")
        about = "return arguments[0].closest('[title]').title"
        self.page.until(
            lambda: re.search(
                r"reach is used \d+ times", self.page.js(about, self.field("reach")[0])
            ),
            "how often it is used",
        )
        said = self.page.until(lambda: self.field("reach")[0].get_attribute("value"), "its value")
        self.page.write(lambda: self.field("reach"), "260")
        self.says("reach: 260 mm", ".m-diff .new")
        self.page.click("Write")
        self.page.until(
            lambda: np.abs(self.page.pose("port_front_hip") - hull).max() > 0.01,
            "the legs elsewhere",
        )
        self.page.click("Undo")
        self.page.until(
            lambda: np.abs(self.page.pose("port_front_hip") - hull).max() < 1e-4,
            "the legs as they were",
        )
        self.page.until(lambda: self.field("reach")[0].get_attribute("value") == said, "its value")

    def test_a_tree_is_folded_and_searched(self) -> None:
        rows = "return [...document.querySelectorAll('.m-row')].filter((e) => e.offsetParent).map((e) => e.dataset.joint).filter(Boolean)"
        every = self.page.js(rows)
        self.assertGreater(len(every), 20)
        find = self.page.all(".m-filter")[0]
        find.send_keys("knee")
        self.page.until(
            lambda: all(
                "knee" in j or "mount" in j or "thigh" in j or "yaw" in j
                for j in self.page.js(rows)
            ),
            "knees",
        )
        self.assertEqual(sum("knee" in joint for joint in self.page.js(rows)), 6)
        find.send_keys(Keys.CONTROL, "a")
        find.send_keys(Keys.BACKSPACE)
        self.page.until(lambda: self.page.js(rows) == every, "all again")
        self.page.click("▾", "[data-joint=port_front_mount] .m-fold")
        self.page.until(lambda: len(self.page.js(rows)) == len(every) - 3, "a leg folded")
        self.page.click("▸", "[data-joint=port_front_mount] .m-fold")

    def test_arrows_and_readings_leave_nothing_behind(self) -> None:
        held = "return mooring.stage.renderer.info.memory.geometries"
        push = "for (let k = 0; k < 300; k++) mooring.stage.symbols.push([[0,0,0,0,0,1+k],[0,0,1,1,0,k]]); mooring.stage.draw();"
        self.page.js(push)
        first = self.page.js(held)
        self.page.js(push)
        self.assertEqual(self.page.js(held), first)
        counts = []
        for number in range(4):
            loaded = self.page.js("return mooring.stage.model.loaded")
            self.file.write_text(self.text + f"# {number}\n")
            self.page.until(
                lambda loaded=loaded: self.page.js("return mooring.stage.model.loaded") > loaded,
                "the model",
            )
            counts.append(
                self.page.js(
                    "mooring.stage.draw(); return mooring.stage.renderer.info.memory.geometries"
                )
            )
        self.assertEqual(len(set(counts)), 1, counts)
        self.file.write_text(self.text)


class Scene(Page):
    machine = DRUM_CART.document.with_name("quay.yaml")

    def test_what_stands_about_is_told_together(self) -> None:
        self.assertIn("that stand still", self.page.text(".m-chain"))


if __name__ == "__main__":
    unittest.main()
