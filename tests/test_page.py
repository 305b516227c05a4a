"""The live page in a real browser, and the saved page without a server."""

import shutil
import unittest
import urllib.error
import urllib.request
from pathlib import Path

import numpy as np
from fuzz.chaos import BROKEN, GOOD, chaos, write

import mooring
from mooring.demo import LINE_TENDER, WALKER
from mooring.kinematics import configuration, link_poses
from tests.browser import Window, serve
from tests.support import folder_for, run_mooring


def pose(robot: mooring.Robot, link: str, posture: object) -> np.ndarray:
    tree = robot.tree()
    return link_poses(tree, configuration(robot, posture, tree))[tree.link(link)]


class LivePage(unittest.TestCase):
    """One server and one window for all of it: each test begins at neutral."""

    @classmethod
    def setUpClass(cls) -> None:
        folder = folder_for(cls)
        for file in (LINE_TENDER.document, LINE_TENDER.step):
            shutil.copy(file, folder)
        cls.file = folder / LINE_TENDER.document.name
        cls.text = cls.file.read_text()
        cls.address = serve(cls, cls.file)
        cls.window = Window(cls, cls.address)
        cls.tender = mooring.read(LINE_TENDER.document)

    def setUp(self) -> None:
        self.page = self.window
        self.page.click("neutral")
        self.page.until_at("clamp", pose(self.tender, "clamp", None))

    def travel(self, joint: str) -> str:
        return self.page.text(f"[data-joint='{joint}'] .m-travel")

    def test_sliders_move_links_and_loops_as_the_core_computes(self) -> None:
        self.page.slide("slew", 0.7)
        self.page.slide("luff", 0.5)
        for link in ("clamp", "barrel", "rod"):
            self.page.until_at(link, pose(self.tender, link, {"slew": 0.7, "luff": 0.5}))
        self.page.slide("starboard_jaw_hinge", -0.4)
        there = {"slew": 0.7, "luff": 0.5, "port_jaw_hinge": 0.4}
        self.page.until_at("port_jaw", pose(self.tender, "port_jaw", there))
        self.assertEqual(self.page.complaints(), [])

    def test_over_travel_is_refused_and_said(self) -> None:
        field = "[data-joint=telescope] .m-field"
        self.page.write(lambda: self.page.all(field), "2000")
        self.page.until(
            lambda: "ends at 820 mm" in self.page.text("[data-joint=telescope] .m-note"),
            "the refusal",
        )
        self.page.until_at("jib", pose(self.tender, "jib", {"telescope": "820 mm"}))
        self.page.write(lambda: self.page.all(field), "a lot")
        self.page.until(
            lambda: "expected a length such as" in self.page.text(".refused .m-note"), "the refusal"
        )
        self.page.until_at("jib", pose(self.tender, "jib", {"telescope": "820 mm"}))

    def test_postures(self) -> None:
        self.page.click("over_ship")
        self.page.until_at("clamp", pose(self.tender, "clamp", "over_ship"))
        self.page.slide("slew", 0.2)
        self.page.click("keep ...")
        self.page.write(lambda: self.page.all(".q-dialog input"), "over_stern")
        self.page.until(lambda: "over_stern" in self.page.text(".m-diff .new"), "the change")
        self.page.click("Write")
        self.page.until(lambda: "over_stern" in self.page.text(".m-postures"), "the new posture")
        self.page.click("neutral")
        self.page.click("over_stern")
        there = dict(self.tender.postures["over_ship"]) | {"slew": 0.2}
        self.page.until_at("clamp", pose(self.tender, "clamp", there))
        self.assertIn("# weighed with its hoses", self.file.read_text())
        # Moves and changes are taken back in the order in which they were done.
        self.page.click("Undo")
        self.page.until_at("clamp", pose(self.tender, "clamp", "neutral"))
        self.page.click("Undo")
        self.page.until_at("clamp", pose(self.tender, "clamp", there))
        self.page.click("Undo")
        self.page.until(lambda: "over_stern" not in self.page.text(".m-postures"), "it is gone")
        self.assertEqual(self.file.read_text(), self.text)

    def test_choosing_and_layers(self) -> None:
        self.page.js("mooring.hub.tell('view', 'front')")
        self.page.click("clamp", ".m-link")
        self.page.until(lambda: "weighed" in self.page.text(".m-table"), "properties")
        self.page.click("Show")
        shown = "return mooring.stage.model.meshes.filter((m) => m.layer === 'collision' && m.mesh.visible).length"
        self.assertEqual(self.page.js(shown), 0)
        self.page.click("collision shapes")
        count = sum(bool(link.collisions) for link in self.tender.links.values())
        self.page.until(lambda: self.page.js(shown) == count, "collision shapes")
        self.page.click("collision shapes")
        self.page.click("joint axes")
        # Labels come one after the other, while the view is still turning.
        self.page.until(
            lambda: "slew" in [e.text for e in self.page.all(".m-label.axis") if e.is_displayed()],
            "axes",
        )
        self.page.click("joint axes")
        self.page.click("overlaps in red")
        self.page.until(
            lambda: "nothing overlaps" in self.page.text(".m-right"), "overlaps are looked for"
        )
        self.page.click("overlaps in red")

    def test_a_tool_frame_follows_the_pointer(self) -> None:
        self.page.click("over_ship")
        self.page.until_at("clamp", pose(self.tender, "clamp", "over_ship"))
        self.page.js("mooring.hub.tell('view', 'fit')")
        self.page.js("document.querySelector('.m-frame input').click()")
        self.page.click("move")
        seen = (
            "const s = mooring.stage, b = s.renderer.domElement.getBoundingClientRect();"
            "const h = s.symbols.handles.find((ball) => ball.parent.visible);"
            "const c = h.getWorldPosition(s.eye.target.clone()).project(s.eye.camera);"
            "return [b.left + (c.x + 1) / 2 * b.width, b.top + (1 - c.y) / 2 * b.height]"
        )
        x, y = (round(v) for v in self.page.until(lambda: self.page.js(seen), "the grip"))
        goal = (x - 30, y + 45)
        self.page.drag((x, y), goal)
        self.page.until(
            lambda: np.abs(np.subtract(self.page.js(seen), goal)).max() < 2,
            "the grip under the pointer",
        )
        # Whatever was pulled, the loop of the cylinder is still closed.
        luff = self.page.js("return mooring.stage.model.q[1]")
        field = self.page.all("[data-joint=extension] .m-field")[0].get_attribute("value")
        tree = self.tender.tree()
        there = configuration(self.tender, {"luff": luff}, tree)[tree.coordinate("extension")]
        self.assertAlmostEqual(float(field), 1000 * there, delta=0.06)
        self.page.click("look")
        self.page.js("document.querySelector('.m-frame input').click()")

    def test_a_limit_is_changed_in_the_document_and_back(self) -> None:
        self.page.click("slew", ".m-joint")
        self.page.write(
            lambda: [
                e for e in self.page.all(".m-table input") if e.get_attribute("value") == "170 deg"
            ],
            "120 deg",
        )
        self.page.until(lambda: "upper: 120 deg" in self.page.text(".m-diff .new"), "the change")
        self.assertEqual(self.file.read_text(), self.text)
        self.page.click("Write")
        self.page.until(lambda: "120" in self.travel("slew"), "the limit")
        self.assertEqual(
            self.file.read_text(), self.text.replace("upper: 170 deg", "upper: 120 deg")
        )
        self.page.click("Undo")
        self.page.until(lambda: "120" not in self.travel("slew"), "the limit as it was")
        self.assertEqual(self.file.read_text(), self.text)

    def test_it_follows_the_file_and_keeps_the_last_good_model(self) -> None:
        self.page.slide("luff", 0.5)
        self.page.until_at("clamp", pose(self.tender, "clamp", {"luff": 0.5}))
        self.file.write_text(self.text.replace("type: revolute", "type: revolving", 1))
        self.page.until(lambda: "got 'revolving'" in self.page.text(".m-banner"), "the error")
        self.assertIn("line_tender.yaml:48", self.page.text(".m-banner"))
        self.page.slide("slew", 0.3)
        self.page.until_at("clamp", pose(self.tender, "clamp", {"slew": 0.3, "luff": 0.5}))
        self.file.write_text(self.text.replace("lower: -170 deg", "lower: -90 deg"))
        self.page.until(lambda: "-90" in self.travel("slew"), "the new limit")
        self.assertEqual(self.page.text(".m-banner"), "")
        self.page.until_at("clamp", pose(self.tender, "clamp", {"slew": 0.3, "luff": 0.5}))
        self.file.write_text(self.text)
        self.page.until(lambda: "-170" in self.travel("slew"), "the old limit")

    def test_two_windows_and_a_simulation(self) -> None:
        other = Window(self, self.address)
        self.page.slide("slew", 0.4)
        other.until_at("clamp", pose(self.tender, "clamp", {"slew": 0.4}))
        self.page.click("Run")
        self.page.click("Play")
        self.page.until(lambda: "times real time" in self.page.text(".m-foot"), "time passes")
        other.until(lambda: "Pause" in other.text(".m-foot"), "the other window sees it")
        self.page.click("Pause")
        self.page.until(lambda: "Play" in self.page.text(".m-foot"), "a pause")
        held = self.page.text(".m-foot")
        self.page.click("Step")
        self.page.until(lambda: self.page.text(".m-foot") != held, "a step")
        self.page.click("Reset")
        self.page.until(lambda: "0.000 s" in self.page.text(".m-foot"), "the start")
        self.page.click("Play")
        self.page.until(
            lambda: "0.0" not in self.page.text(".m-foot") and " s," in self.page.text(".m-foot"),
            "motion",
        )
        self.page.click("Stop")
        self.page.until(lambda: "recorded" in self.page.text(".m-foot"), "the recording")
        self.assertEqual(self.page.complaints() + other.complaints(), [])


class Safe(unittest.TestCase):
    def answer(self, address: str, **headers: str) -> int:
        try:
            with urllib.request.urlopen(urllib.request.Request(address, headers=headers)) as reply:
                return reply.status
        except urllib.error.HTTPError as error:
            error.close()
            return error.code

    def test_only_the_page_itself_may_ask(self) -> None:
        address, token = serve(type(self), WALKER.document).split("?token=")
        cookie = f"mooring_{address.rstrip('/').rsplit(':', 1)[1]}={token}"
        # Other users of the machine do not have the cookie.
        self.assertEqual(self.answer(address), 403)
        self.assertEqual(self.answer(address, Cookie=cookie), 200)
        self.assertEqual(self.answer(address, Cookie=cookie, Host="harbour.example"), 403)
        for path in ("", "_nicegui_ws/socket.io/?EIO=4&transport=polling"):
            foreign = {"Cookie": cookie, "Origin": "http://harbour.example"}
            self.assertEqual(self.answer(address + path, **foreign), 403)
        self.assertEqual(self.answer(address + "model/../../walker.yaml", Cookie=cookie), 404)
        asked = urllib.request.Request(address, headers={"Cookie": cookie})
        with urllib.request.urlopen(asked) as reply:
            self.assertIn("frame-ancestors 'none'", reply.headers["Content-Security-Policy"])
            self.assertEqual(reply.headers["X-Frame-Options"], "DENY")
        # The page itself lives with its policy, and the token goes off the address.
        page = Window(self, f"{address}?token={token}")
        self.assertEqual(page.browser.current_url, address)
        self.assertEqual(page.complaints(), [])

    def test_an_open_address_wants_its_token(self) -> None:
        address = serve(type(self), WALKER.document, "--address", "0.0.0.0")
        plain, token = address.split("?token=")
        self.assertGreater(len(token), 20)
        port = plain.rstrip("/").rsplit(":", 1)[1]
        local = f"http://127.0.0.1:{port}/"
        self.assertEqual(self.answer(local), 403)
        self.assertEqual(self.answer(f"{local}?token={token[:-1]}"), 403)
        self.assertEqual(self.answer(f"{local}model/1.glb", Cookie=f"mooring_{port}={token}"), 200)
        # With the token the browser gets a cookie, and its sockets are let in.
        page = Window(self, f"{local}?token={token}")
        page.slide("port_front_hip_yaw", 0.2)
        walker = mooring.read(WALKER.document)
        page.until_at(
            "port_front_shin", pose(walker, "port_front_shin", {"port_front_hip_yaw": 0.2})
        )


class Chaos(unittest.TestCase):
    def test_it_follows_a_file_that_is_broken_and_mended_in_every_way(self) -> None:
        folder = folder_for(type(self))
        file = folder / "davit.yaml"
        write(file, GOOD.replace("POSTURE", "start"))
        address = serve(type(self), file)
        page = Window(self, address)
        chaos(page, file, address, len(BROKEN))
        page.click("Play")
        page.until(lambda: "times real time" in page.text(".m-foot"), "a run")


class SavedPage(unittest.TestCase):
    def test_it_shows_and_jogs_and_plays_with_no_server(self) -> None:
        folder = folder_for(self)
        done = run_mooring("open", LINE_TENDER.document, "--save", folder / "tender.html")
        self.assertEqual(done.returncode, 0, done.stderr)
        page = Window(self, (folder / "tender.html").as_uri())
        tender = mooring.read(LINE_TENDER.document)
        page.click("over_ship")
        slew = "[data-joint=slew] .m-field"
        page.write(lambda: page.all(slew), "1,000")
        page.until(lambda: "two things" in page.text(".refused .m-note"), "the question")
        page.write(lambda: page.all(slew), "0.5 rad")
        page.slide("port_jaw_hinge", 0.3)
        there = dict(tender.postures["over_ship"]) | {"slew": 0.5, "port_jaw_hinge": 0.3}
        for link in ("clamp", "starboard_jaw", "rod"):
            page.until_at(link, pose(tender, link, there))
        page.slide("luff", 0.1)
        page.until(lambda: "in a loop" in page.text(".refused .m-note"), "the refusal")
        run = mooring.simulate(tender, motion="lay_line", seconds=1)
        self.save_and_play(tender, run, folder / "run.html")

    def save_and_play(self, robot: mooring.Robot, run: mooring.Recording, file: Path) -> None:
        from mooring.page.saving import save_page

        save_page(robot, file, recording=run)
        page = Window(self, file.as_uri())
        page.click("Play")
        page.until(lambda: "1.00 s of 1.00 s" in page.text(".m-foot"), "the end")
        tree = robot.tree()
        page.until_at("clamp", link_poses(tree, run.positions()[-1])[tree.link("clamp")])
        self.assertEqual(page.complaints(), [])


if __name__ == "__main__":
    unittest.main()
