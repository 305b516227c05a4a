"""What stands behind the live page, without a browser."""

import json
import math
import os
import shutil
import time
import unittest
from unittest import mock

import numpy as np

import mooring
from mooring.access import Access, Address, address, with_token
from mooring.bridge.following import follow
from mooring.caching import cache_folder
from mooring.demo import LINE_TENDER, WALKER
from mooring.errors import InputError, ModelError
from mooring.kinematics import configuration, link_poses
from mooring.kinematics.loops.equations import equations
from mooring.page.desk import Desk
from mooring.page.desk.editing import Edits
from mooring.page.desk.jogging import jog, pull
from mooring.page.desk.opened import ModelSource
from mooring.page.desk.remembered import remember, remembered
from mooring.page.desk.watching import FileWatch
from mooring.page.facts.geometry import geometry
from mooring.page.facts.structure import equivalent_box, structure
from mooring.simulation.playing import Player
from tests.outside import until
from tests.support import folder_for, line_tender
from tests.urdf_set import FOLDER


class Jogging(unittest.TestCase):
    def test_a_loop_stops_a_joint_where_another_ends(self) -> None:
        robot = mooring.read(LINE_TENDER.document)
        luff = robot.joints["luff"]
        luff.limits = luff.limits.model_copy(update={"upper": 1.4})
        extension = robot.joints["extension"]
        extension.limits = extension.limits.model_copy(update={"upper": 0.5})
        tree = robot.tree()
        moved = jog(robot, tree, tree.neutral(), "luff", 1.2)
        self.assertRegex(moved.refused, "extension would have to go beyond")
        there = dict(zip(tree.coordinates, moved.q, strict=True))
        # As far as it goes, to a hundredth of the way, and no farther.
        self.assertLessEqual(there["extension"], 0.5 + 1e-6)
        ahead = configuration(line_tender(), {"luff": there["luff"] + 0.0125})
        self.assertGreater(ahead[tree.coordinate("extension")], 0.5)
        self.assertLess(np.abs(equations(tree, moved.q)[0]).max(), 1e-7)

    def test_pulling_beyond_reach_comes_near_and_says_so(self) -> None:
        robot = line_tender()
        tree = robot.tree()
        moved = pull(robot, tree, tree.neutral(), "wrist", (0, 0, 0), (30.0, 0, 2.0))
        self.assertIn("out of reach", moved.refused)
        self.assertIn("telescope", moved.refused)
        self.assertGreater(link_poses(tree, moved.q)[tree.link("wrist"), 0, 3], 2.5)

    def test_a_swing_keeps_its_speed_and_its_ends(self) -> None:
        desk = Desk(ModelSource(WALKER.document))
        desk.start_swing("port_front_hip_yaw")
        at = desk.tree.coordinate("port_front_hip_yaw")
        row = []
        for _ in range(400):
            desk.pass_time(0.02)
            row.append(desk.q[at])
        low, high = np.radians([-28, 28])
        self.assertAlmostEqual(min(row), low, delta=1e-9)
        self.assertAlmostEqual(max(row), high, delta=1e-9)
        self.assertLessEqual(np.abs(np.diff(row)).max(), 0.6 * 0.02 + 1e-12)


class Simulating(unittest.TestCase):
    def test_sliders_lead_motors_no_faster_than_joints_may(self) -> None:
        desk = Desk(ModelSource(WALKER.document))
        desk.take_posture("standing")
        desk.put_player(desk.new_player(None, 1.0))
        self.addCleanup(desk.close_player)
        player = desk.player
        player.step(300)
        joint = "port_front_hip_yaw"
        self.assertEqual(desk.jog(joint, 0.3).refused, "")
        fastest = np.radians(300)
        for _ in range(3):
            before = float(
                player.simulation.commands.position[player.simulation.driven.index(joint)]
            )
            player.step(10)
            after = float(
                player.simulation.commands.position[player.simulation.driven.index(joint)]
            )
            self.assertLessEqual(abs(after - before), fastest * 0.01 + 1e-9 if before else 1)
        player.step(800)
        self.assertAlmostEqual(player.simulation.state.positions[joint], 0.3, delta=0.02)
        # The feet press on the ground with the walker's weight.
        forces = desk.instruments.forces()
        self.assertAlmostEqual(forces[:, 5].sum(), desk.robot.mass() * 9.80665, delta=30)
        desk.look_through(player.recording())
        self.assertEqual(desk.instruments.status()["mode"], "recording")
        desk.show_instant(0)
        np.testing.assert_allclose(desk.q, desk.recording.positions()[0])
        self.assertEqual(len(desk.instruments.trace(f"{joint}.position", 10)[0]), 2)

    def test_a_pull_moves_what_floats(self) -> None:
        desk = Desk(ModelSource(WALKER.document))
        desk.take_posture("standing")
        desk.put_player(desk.new_player(None, 1.0))
        self.addCleanup(desk.close_player)
        desk.player.step(200)
        before = desk.player.simulation.pose("hull")[2, 3]
        place = desk.player.simulation.pose("hull")[:3, 3]
        desk.pull("hull", (0, 0, 0), place + np.array([0, 0, 0.5]))
        desk.player.step(400)
        self.assertGreater(desk.player.simulation.pose("hull")[2, 3], before + 0.02)
        desk.pull("hull", (0, 0, 0), None)
        desk.player.step(1)
        self.assertEqual(np.abs(desk.player.simulation.commands.push).max(), 0)


class Elsewhere(unittest.TestCase):
    """A machine is shown, and controllers are let in."""

    def test_a_table_of_joint_states_is_shown_until_it_is_played(self) -> None:
        desk = Desk(ModelSource(LINE_TENDER.document))
        file = folder_for(self) / "states.csv"
        file.write_text("time,slew,extension.position,winch\n0,0.1,0.2,7\n0.01,0.3,0.2,7\n")
        desk.follow(follow(str(file)))
        self.addCleanup(desk.stop_following)

        def arrived() -> bool:
            desk.pass_time(0.03)
            return math.isclose(desk.standing.positions().get("slew", 0.0), 0.3)

        until(arrived, "the last joint state")
        luff = desk.q[desk.tree.coordinate("luff")]
        self.assertGreater(abs(luff), 0.05, "the loop follows its cylinder")
        status = desk.instruments.status()
        self.assertEqual(status["mode"], "following")
        self.assertIn("not known here: winch", status["words"])
        self.assertIn("nothing is said of telescope", status["words"])
        self.assertIn("stands as states.csv says", desk.jog("slew", 0.5).refused)
        desk.put_player(desk.new_player(None, 1.0, hold=True))
        self.addCleanup(desk.close_player)
        self.assertEqual(desk.instruments.status()["mode"], "paused")

    def test_controllers_are_let_in_and_shown(self) -> None:
        desk = Desk(ModelSource(LINE_TENDER.document))
        desk.listen()
        self.assertIsNone(desk.listening, "without a simulation there is nothing to connect to")
        desk.put_player(desk.new_player("lay_line", 1.0))
        self.addCleanup(desk.close_player)
        desk.listen()
        with mooring.connect(desk.listening.url, name="crew", rate=0.5) as tender:
            tender.signal("clamp.open", True)
            tender.client.ask("play")
            until(lambda: desk.player.signals()["clamp.open"], "the signal")
            (crew,) = desk.listening.connected()
            self.assertEqual((crew.name, crew.controls), ("crew", True))
            events = desk.listening.happened
            until(lambda: "clamp.open is true" in " ".join(events(5)), "what is told of it")
            desk.player.signal("clamp.close", True)
            until(lambda: tender.step(seconds=0.05) and tender.signals["clamp.close"], "the page's")
            # Pause in the page, as its time bar does it.
            desk.player.hold()
            desk.player.pause()
            until(lambda: "time stands" in " ".join(events(3)), "the pause")
            tender.client.ask("play")
            until(lambda: desk.player.running, "time")
            desk.stop_listening()
            with self.assertRaises(mooring.MooringError):
                for _ in range(10_000):
                    tender.step(seconds=0.1)


class Documents(unittest.TestCase):
    def setUp(self) -> None:
        self.folder = folder_for(self)
        for file in WALKER.document.parent.glob("*.*"):
            shutil.copy(file, self.folder)
        self.file = self.folder / WALKER.document.name

    def test_changes_are_proposed_made_and_taken_back(self) -> None:
        before = self.file.read_bytes()
        edits = Edits(self.file)
        proposal = edits.propose(
            "kneel", {("postures", "kneeling"): {"port_front_hip_yaw": "5 deg"}}
        )
        self.assertEqual(self.file.read_bytes(), before)
        self.assertIn("+  kneeling:", proposal.diff)
        edits.make(proposal)
        self.assertIn("kneeling", mooring.read(self.file).postures)
        with self.assertRaisesRegex(InputError, "meanwhile"):
            edits.make(proposal)
        edits.take_back(proposal)
        self.assertEqual(self.file.read_bytes(), before)
        with self.assertRaisesRegex(InputError, "somebody else"):
            edits.take_back(proposal)

    def test_what_is_wrong_or_elsewhere_is_refused(self) -> None:
        edits = Edits(self.file)
        with self.assertRaisesRegex(ModelError, "document that it includes"):
            edits.propose("hip", {("joints", "port_front_hip_yaw", "limits", "upper"): "20 deg"})
        with self.assertRaises(InputError):
            edits.propose("kneel", {("postures", "kneeling"): {"port_front_hip": "5 kg"}})
        kneel = edits.propose("kneel", {("postures", "kneeling"): {}})
        edits.make(kneel)
        self.file.write_text(self.file.read_text() + "\n# somebody else was here\n")
        with self.assertRaisesRegex(InputError, "somebody else"):
            edits.take_back(kneel)

    def test_a_urdf_file_is_changed_in_place(self) -> None:
        file = folder_for(self) / "arm.urdf"
        shutil.copy(FOLDER / "quay_arm.urdf", file)
        before = file.read_text()
        opened = ModelSource(file).read()
        self.assertEqual(opened.editable, file)
        edits = Edits(file)
        path = ("joints", "luff", "limits", "upper")
        self.assertEqual(edits.written(path), 1.6)
        self.assertEqual(edits.written(("joints", "elbow", "at", "xyz")), [0, 0, 0.65])
        proposal = edits.propose("upper of luff", {path: "1.5 rad"})
        self.assertEqual(proposal.diff.count("\n-"), 1)
        edits.make(proposal)
        self.assertEqual(file.read_text(), before.replace('upper="1.6"', 'upper="1.5"', 1))
        place = edits.propose("place", {("joints", "elbow", "at", "xyz"): [0, 0, "0.7 m"]})
        edits.make(place)
        with self.assertRaisesRegex(ModelError, "no place for"):
            edits.propose("motor", {("motors", "drive", "p"): 5})
        edits.take_back(place)
        edits.take_back(proposal)
        self.assertEqual(file.read_text(), before)

    def test_all_files_are_followed_also_when_one_is_broken(self) -> None:
        desk = Desk(ModelSource(self.file))
        self.assertEqual({f.name for f in desk.watch.files} >= {"walker.yaml", "leg.yaml"}, True)
        leg = self.folder / "leg.yaml"
        good = leg.read_text()
        leg.write_text("mooring: 1\nname: [")
        self.assertEqual(desk.watch.changed(), [])
        self.assertEqual(desk.watch.changed(), [leg.resolve()])
        with self.assertRaises(InputError):
            desk.read()
        leg.write_text(good)
        os.utime(leg, (time.time() + 5,) * 2)
        desk.watch.changed()
        self.assertEqual(desk.watch.changed(), [leg.resolve()])

    def test_a_file_that_is_still_written_is_waited_for(self) -> None:
        file = self.folder / "growing.yaml"
        file.write_text("a")
        watch = FileWatch([file])
        for text in ("ab", "abc"):
            file.write_text(text)
            self.assertEqual(watch.changed(), [])
        self.assertEqual(watch.changed(), [file])
        self.assertEqual(watch.changed(), [])

    def test_settings_last(self) -> None:
        with mock.patch.dict(os.environ, {"MOORING_CACHE_DIR": str(self.folder / "cache")}):
            self.assertEqual(remembered(self.file), {})
            remember(self.file, {"theme": "dark"})
            self.assertEqual(remembered(self.file), {"theme": "dark"})
            self.assertEqual(remembered(self.folder / "other.yaml"), {})


class Facts(unittest.TestCase):
    def test_the_browser_gets_every_triangle(self) -> None:
        robot = line_tender()
        data = geometry(robot)
        length = int.from_bytes(data[12:16], "little")
        told = json.loads(data[20 : 20 + length])
        counts: dict[str, int] = {}
        for node in told["nodes"]:
            primitive = told["meshes"][node["mesh"]]["primitives"][0]
            if node["extras"]["layer"] == "visual":
                link = node["extras"]["link"]
                counts[link] = (
                    counts.get(link, 0) + told["accessors"][primitive["indices"]]["count"] // 3
                )
        parts = {
            name: sum(len(p.mesh.faces) for p in link.parts) for name, link in robot.links.items()
        }
        self.assertEqual(counts, parts)
        self.assertEqual(len(structure(robot, robot.tree())["joints"]), len(robot.joints))

    def test_an_equivalent_block_has_the_inertia(self) -> None:
        random = np.random.default_rng(3)
        edges = random.uniform(0.1, 1.0, 3)
        mass = 7.0
        own = mass / 12 * np.diag((edges**2).sum() - edges**2)
        turn = np.linalg.qr(random.normal(size=(3, 3)))[0]
        size, _ = equivalent_box(mass, turn @ own @ turn.T)
        np.testing.assert_allclose(sorted(size), sorted(edges), rtol=1e-9)

    def test_a_controller_that_raises_stops_the_run_and_no_more(self) -> None:
        def controller(run: mooring.Simulation) -> None:
            if run.time > 0.05:
                raise ZeroDivisionError("the gait has no feet")

        run = mooring.Simulation(line_tender(), posture="stowed", controllers=[(controller, 100)])
        player = Player(run, math.inf)
        self.addCleanup(player.close)
        for _ in range(2):
            player.play()
            until(lambda: player.moment().ended, "the end")
            self.assertFalse(player.running)
            said = player.moment().ended
            self.assertIn("ZeroDivisionError: the gait has no feet; raised by the contr", said)
            self.assertNotIn("inside Mooring", said)
            self.assertAlmostEqual(player.moment().time, 0.06, places=6)
            player.reset()
            self.assertEqual(player.moment().ended, "")

    def test_who_is_let_in(self) -> None:
        local = Access(Address("127.0.0.1", 8620, "secret"))
        self.assertEqual(local.problem({"host": "127.0.0.1:8620"}, "secret"), "")
        self.assertIn("not evil", local.problem({"host": "evil:8620"}, "secret"))
        for origin, fine in (
            ("http://127.0.0.1:8620", True),
            ("http://evil", False),
            ("null", False),
        ):
            said = local.problem({"host": "127.0.0.1:8620", "origin": origin}, "secret")
            self.assertEqual(said == "", fine, origin)
        open_ = Access(Address("0.0.0.0", 8621, "secret"))
        for headers, said, fine in (
            ({}, "secret", True), ({}, "", False), ({}, "secre", False), ({}, "sécret", False),
            ({"cookie": "mooring_8621=secret"}, "", True), ({"cookie": "mooring_8621=x"}, "", False),
            ({"cookie": "mooring_8620=secret"}, "", False), ({"cookie": "a=[; mooring_8621=secret"}, "", True),
        ):  # fmt: skip
            self.assertEqual(open_.problem({"host": "h", **headers}, said) == "", fine)
        one, other = address(), address()
        self.addCleanup(one.socket.close)
        self.addCleanup(other.socket.close)
        self.assertGreater(len(one.token), 20)
        self.assertNotEqual(one.token, other.token)
        # Whoever begins while another still reads its robot does not get the same port.
        self.assertNotEqual(one.port, other.port)
        with self.assertRaisesRegex(InputError, "in use"):
            address(port=one.port)
        for token in ("short", "with a space inside it"):
            with (
                mock.patch.dict(os.environ, MOORING_TOKEN=token),
                self.assertRaises(InputError) as refused,
            ):
                address()
            self.assertIn("at least 16", str(refused.exception))

    def test_only_programs_of_the_same_user_find_the_token(self) -> None:
        where = address(scheme="ws")
        self.addCleanup(where.socket.close)
        bare = f"ws://127.0.0.1:{where.port}"
        with mock.patch.dict(os.environ, MOORING_CACHE_DIR=str(folder_for(self))):
            self.assertEqual(with_token(bare), bare)
            where.publish()
            self.assertEqual(with_token(bare), where.url)
            (file,) = cache_folder("tokens").iterdir()
            self.assertEqual(file.stat().st_mode & 0o777, 0o600)
            elsewhere = f"ws://quay.example:{where.port}/"
            self.assertEqual(with_token(elsewhere), elsewhere)
            where.withdraw()
            self.assertEqual(list(cache_folder("tokens").iterdir()), [])

    def test_addresses_of_others_are_refused(self) -> None:
        with self.assertRaises(InputError):
            address("203.0.113.7")


if __name__ == "__main__":
    unittest.main()
