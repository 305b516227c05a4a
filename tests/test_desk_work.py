"""What the desk keeps of a day's work: steps, runs, documents, what one types; without a browser."""

import shutil
import threading
import unittest
from unittest import mock

import numpy as np

import mooring
from mooring.checks import check
from mooring.demo import DRUM_CART, LINE_TENDER, WALKER
from mooring.errors import InputError, ModelError, RunError
from mooring.kinematics import configuration
from mooring.model.placement import Placement
from mooring.page.desk import Desk
from mooring.page.desk.history import History, Posed
from mooring.page.desk.jogging import Swing, jog, pose_of, pull, reach
from mooring.page.desk.opened import ModelSource
from mooring.page.desk.typed import as_typed, read_typed, unit_in
from mooring.simulation import Simulation, read_run
from mooring.simulation.playing import Player
from tests.outside import until
from tests.support import folder_for, line_tender


def four_bar() -> mooring.Robot:
    """A crank that turns without end, and what it drives: a Grashof linkage."""
    robot = mooring.Robot("four_bar")
    robot.add_link("bed", box=(1, 0.1, 0.02), mass=5)
    # The pin at the end is where coupler and rocker meet as it stands.
    for name, end in (("crank", (0.1, 0.0)), ("coupler", (0.2, 0.28)), ("rocker", (-0.05, 0.28))):
        robot.add_link(name, sphere=0.02, at=(*end, 0), mass=1)
    pin = {"axis": "z", "velocity": 9, "effort": 50}
    robot.add_joint("crank_pin", "continuous", parent="bed", child="crank", **pin)
    robot.add_joint(
        "coupler_pin", "continuous", parent="crank", child="coupler", at=(0.1, 0, 0), **pin
    )
    robot.add_joint(
        "rocker_pin", "continuous", parent="bed", child="rocker", at=(0.35, 0, 0), **pin
    )
    robot.add_closure(
        "end_pin", "hinge", between=("coupler", "rocker"), at=(0.2, 0.28, 0), axis="z"
    )
    return robot


class Moves(unittest.TestCase):
    def test_a_crank_in_a_loop_turns_on_and_no_number_is_without_end(self) -> None:
        robot = four_bar()
        tree = robot.tree()
        q = configuration(robot, {"crank_pin": 0.5}, tree)
        at = tree.coordinate("crank_pin")
        for turn in range(1, 4):
            moved = jog(robot, tree, q, "crank_pin", 0.5 + 6 * turn)
            self.assertEqual(moved.refused, "")
            self.assertAlmostEqual(moved.q[at], 0.5 + 6 * turn)
            q = moved.q
        moved = jog(robot, tree, q, "crank_pin", 1e9)
        self.assertRegex(moved.refused, "in a loop.* goes 720 deg at a time")
        self.assertAlmostEqual(moved.q[at] - q[at], 4 * np.pi)
        # A loop that has gone round is where it was.
        back = jog(robot, tree, moved.q, "crank_pin", q[at] + 2 * np.pi).q
        rocker = tree.coordinate("rocker_pin")
        self.assertAlmostEqual(np.cos(back[rocker]), np.cos(q[rocker]), delta=1e-6)

    def test_what_runs_to_and_fro_turns_round_where_another_ends(self) -> None:
        robot = line_tender()
        tree = robot.tree()
        q, at = tree.neutral(), tree.coordinate("luff")
        swing = Swing.of(robot, tree, "luff")
        been = []
        for _ in range(900):
            asked = swing.next(float(q[at]), 1 / 30)
            moved = jog(robot, tree, q, "luff", asked)
            if moved.refused:
                self.assertFalse(swing.stopped(float(q[at]), asked))
            else:
                swing.blocked = False
            q = moved.q
            been.append(q[at])
        for part in np.array_split(been, 3):
            self.assertGreater(np.ptp(part), 1.0)

    def test_a_place_is_reached_or_it_is_said_how_near(self) -> None:
        robot = line_tender()
        tree = robot.tree()
        there = pose_of(tree, configuration(robot, "over_ship", tree), "grip")[:3, 3]
        moved = reach(robot, tree, tree.neutral(), "grip", {"xyz": there.tolist()})
        self.assertEqual(moved.refused, "")
        # Turned anyhow, unless that is told: what turns nothing but itself stays.
        at = tree.coordinate("rotator")
        self.assertAlmostEqual(moved.q[at], 0, delta=0.05)
        np.testing.assert_allclose(pose_of(tree, moved.q, "grip")[:3, 3], there, atol=2e-6)
        self.assertIn(
            "does not reach",
            reach(robot, tree, tree.neutral(), "grip", {"xyz": [50, 0, 0]}).refused,
        )

    def test_what_floats_goes_where_it_is_told_and_its_limbs_leave_it(self) -> None:
        robot = mooring.read(WALKER.document)
        tree = robot.tree()
        q = configuration(robot, "standing", tree)
        there = {"xyz": [0.2, -0.1, 0.9], "rpy": [0.1, 0.2, 0.3]}
        for name in ("hull", "imu"):
            moved = reach(robot, tree, q, name, there)
            self.assertEqual(moved.refused, "")
            now = pose_of(tree, moved.q, name)
            np.testing.assert_allclose(now, Placement.of(there).matrix, atol=1e-5)
            self.assertTrue((moved.q[7:] == q[7:]).all())
        foot = pose_of(tree, q, "port_front_foot")[:3, 3] + (0.02, 0, 0.05)
        moved = reach(robot, tree, q, "port_front_foot", {"xyz": foot.tolist()})
        self.assertEqual((moved.refused, moved.q[:7].tolist()), ("", q[:7].tolist()))
        pulled = pull(robot, tree, q, "hull", (0, 0, 0), (0, 0, 2))
        np.testing.assert_allclose(pose_of(tree, pulled.q, "hull")[:3, 3], (0, 0, 2), atol=1e-5)

    def test_what_is_pulled_may_stay_turned_as_it_is(self) -> None:
        robot = mooring.read(WALKER.document)
        tree = robot.tree()
        q = configuration(robot, "standing", tree)
        arm = line_tender()
        bent = configuration(arm, {"luff": 0.4, "wrist_pitch": 0.2}, arm.tree())
        goal = pose_of(arm.tree(), bent, "clamp")[:3, 3] + (0.1, 0, 0.05)
        free = pull(arm, arm.tree(), bent, "clamp", (0, 0, 0), goal)
        held = pull(arm, arm.tree(), bent, "clamp", (0, 0, 0), goal, turned=True)
        before = pose_of(arm.tree(), bent, "clamp")[:3, :3]
        turns = [
            np.abs(pose_of(arm.tree(), m.q, "clamp")[:3, :3] - before).max() for m in (free, held)
        ]
        self.assertLess(turns[1], 1e-5)
        np.testing.assert_allclose(pose_of(arm.tree(), held.q, "clamp")[:3, 3], goal, atol=1e-5)
        self.assertIn(
            "out of reach", pull(robot, tree, q, "port_front_shin", (0, 0, 0), (9, 9, 9)).refused
        )

    def test_steps_that_follow_each_other_are_one(self) -> None:
        history = History()
        for value in range(5):
            history.posed(Posed("slew", {"slew": float(value)}, {"slew": value + 1.0}))
        history.posed(Posed("luff", {"luff": 0.0}, {"luff": 0.0}))
        self.assertEqual(len(history.past), 1)
        self.assertEqual(
            (history.past[0].before, history.past[0].after), ({"slew": 0.0}, {"slew": 5.0})
        )
        history.taken_back()
        self.assertEqual((len(history.past), len(history.future)), (0, 1))
        history.posed(Posed("luff", {"luff": 0.0}, {"luff": 1.0}))
        self.assertEqual(history.future, [])


class Scenes(unittest.TestCase):
    def test_what_stands_in_a_scene_is_changed_in_its_document(self) -> None:
        folder = folder_for(self)
        for file in DRUM_CART.document.parent.iterdir():
            if file.suffix in (".yaml", ".step"):
                shutil.copy(file, folder)
        file = folder / "quay.yaml"
        lines = file.read_text().splitlines()
        desk = Desk(ModelSource(file))
        desk.documents.look(desk.robot)
        for item, home, word in (
            (("links", "crate", "mass"), ("bodies", "crate", "mass"), "crate:"),
            (("joints", "crate", "xyz"), ("bodies", "crate", "xyz"), "crate:"),
            (("links", "wall", "material"), ("obstacles", "wall", "material"), "wall:"),
            (("joints", "wall_stands", "rpy"), ("obstacles", "wall", "rpy"), "wall:"),
            (("joints", "base", "xyz"), ("robots", "cart", "xyz"), "cart:"),
        ):
            edits, own = desk.documents.home_of(desk.robot, item)
            self.assertEqual((edits.file, own), (file, home))
            self.assertIn(word, lines[desk.robot.place(item[:2]).line - 1])
        edits, _ = desk.documents.home_of(desk.robot, ("joints", "port_drive", "damping"))
        self.assertEqual(edits.file.name, "drum_cart.yaml")
        self.assertIsNone(desk.documents.home_of(desk.robot, ("joints", "wall", "xyz")))
        edits = desk.edits
        place = edits.place_changes(("obstacles", "wall", "xyz"), ["1 m", "2.9 m", "500 mm"])
        moved = edits.place_changes(("robots", "cart", "xyz"), ["1 m", 0, 0])
        mass = {("bodies", "crate", "mass"): "80 kg"}
        edits.make(edits.propose("moved", {**place, **moved, **mass}))
        scene = mooring.read_scene(file)
        self.assertEqual(scene.robot.links["crate"].mass, 80)
        for joint in ("wall_stands", "base"):
            self.assertEqual(scene.robot.joints[joint].at.matrix[0, 3], 1)
        after = file.read_text().splitlines()
        self.assertEqual(sum(a != b for a, b in zip(lines, after, strict=True)), 3)
        # What was moved by hand stays there when it is read anew; the rest goes where it is now.
        desk.jog("port_drive", 0.5)
        mass = {("bodies", "crate", "at"): {"xyz": [0, 3, 1]}}
        edits.make(edits.propose("moved", mass))
        desk.put(desk.read())
        now = desk.standing.by_name()
        self.assertEqual((now["port_drive"], now["base.x"]), (0.5, 1.0))
        self.assertEqual([now[f"crate.{axis}"] for axis in "xyz"], [0, 3, 1])
        desk.undo()
        now = desk.standing.by_name()
        self.assertEqual((now["port_drive"], now["crate.y"]), (0.0, 3.0))


class Typing(unittest.TestCase):
    def test_bare_numbers_have_the_unit_that_is_shown(self) -> None:
        for said, unit, meant in (
            ("45", "deg", "45 deg"), ("-.5", "mm", "-.5 mm"), ("1e3", "N*m", "1e3 N*m"), ("45 deg", "mm", "45 deg"),
            ("=stroke/2", "mm", "=stroke/2"), ("", "deg", None), ("3", "", 3), ("2.5", "", 2.5), ("steel", "", "steel"),
            ("0.3 m", "mm", "0.3 m"),
        ):  # fmt: skip
            self.assertEqual(read_typed(said, unit), meant)
        several = read_typed("[1, =max(a, b), 30 mm]", "m", several=True)
        self.assertEqual(several, ["1 m", "=max(a, b)", "30 mm"])
        self.assertEqual(as_typed(several), "1 m, =max(a, b), 30 mm")
        self.assertEqual(
            [unit_in(t) for t in ("-170 deg", "1, 2", "25 mm, 0 m", "none")], ["deg", "", "mm", ""]
        )

    def test_what_could_mean_two_things_is_asked_about(self) -> None:
        for said, words in (
            ("1,000", "1000 or 1.000"),
            ("12,500", "12500 or 12.500"),
            ("1,000,000", "1000000;"),
            ("0,5", "write 0.5"),
        ):
            with self.assertRaisesRegex(InputError, words):
                read_typed(said, "mm")


class Kept(unittest.TestCase):
    def desk(self, machine: str = "line_tender") -> Desk:
        self.folder = folder_for(self)
        home = (LINE_TENDER if machine == "line_tender" else WALKER).document
        for file in home.parent.iterdir():
            if file.suffix in (".yaml", ".step"):
                shutil.copy(file, self.folder)
        desk = Desk(ModelSource(self.folder / home.name))
        self.addCleanup(lambda: desk.player and desk.player.close())
        desk.documents.look(desk.robot)
        return desk

    def ran(self, desk: Desk, hold: bool = True) -> None:
        desk.put_player(desk.new_player(None, np.inf, hold=hold), None, hold=hold)
        desk.player.play()
        until(lambda: desk.player.moment().time > 0.2, "a run")

    def test_whatever_ends_a_run_keeps_it(self) -> None:
        desk = self.desk()
        for number, (end, words) in enumerate({
            "posture stowed": lambda: desk.take_posture("stowed"), "to and fro": lambda: desk.start_swing("slew"),
            "another": lambda: self.ran(desk), "read anew": lambda: desk.put(desk.read()),
            "stopped": lambda: desk.close_player("was stopped"),
        }.items(), 1):  # fmt: skip
            if desk.player is None:
                self.ran(desk)
            words()
            self.assertEqual(desk.runs.kept[0].name, f"run {number}")
            self.assertIn(end, desk.runs.news[-1])
            self.assertGreater(len(desk.runs.kept[0].recorded().table), 5)
        # One that has not gone a step is none.
        count = len(desk.runs.kept)
        desk.put_player(desk.new_player(None, 1.0, hold=True), None, hold=True)
        desk.take_posture(None)
        self.assertEqual(len(desk.runs.kept), count)
        for _ in range(8):
            self.ran(desk)
            desk.close_player("was stopped")
        self.assertEqual(len(desk.runs.kept), 8)
        self.assertIn("is let go, as 8 are kept", desk.runs.news[-1])

    def test_a_run_is_gone_on_from_saved_and_let_go(self) -> None:
        desk = self.desk()
        self.ran(desk)
        run = desk.close_player("was stopped")
        desk.look_through(run.recorded())
        self.assertIs(desk.runs.of(desk.recording), run)
        desk.show_instant(10)
        there = desk.q.copy()
        player = desk.player_from(run, desk.replay.time, 1.0)
        desk.put_player(player, run.motion, hold=run.hold)
        np.testing.assert_allclose(desk.q, there, atol=1e-12)
        self.assertAlmostEqual(player.moment().time, 0.1)
        run.save(self.folder / "run")
        self.assertEqual(len(read_run(self.folder / "run")[1].table), len(run.recorded().table))
        (self.folder / "mine").mkdir()
        (self.folder / "mine" / "letter.txt").write_text("dear harbour master")
        with self.assertRaises(InputError):
            run.save(self.folder / "mine")
        desk.runs.let_go(run.name)
        with self.assertRaisesRegex(ModelError, "was let go"):
            desk.runs.called(run.name)

    def test_steps_go_back_through_moves_and_changes(self) -> None:
        desk = self.desk()
        edits, before = desk.edits, desk.edits.file.read_text()
        desk.jog("slew", 0.5)
        proposal = edits.propose("upper of slew", {("joints", "slew", "limits", "upper"): "90 deg"})
        edits.make(proposal)
        desk.history.did(proposal)
        desk.take_posture("stowed")
        slew = desk.tree.coordinate("slew")
        said = [desk.undo(), desk.undo(), desk.undo()]
        self.assertEqual(said, ["posture stowed", "upper of slew", "slew"])
        self.assertEqual((edits.file.read_text(), desk.q[slew]), (before, 0.0))
        with self.assertRaisesRegex(InputError, "nothing to take back"):
            desk.undo()
        self.assertEqual([desk.redo(), desk.redo()], ["slew", "upper of slew"])
        self.assertEqual((edits.file.read_text(), desk.q[slew]), (proposal.after, 0.5))
        # A joint that ran to and fro goes back to where it began.
        desk.start_swing("luff")
        for _ in range(20):
            desk.pass_time(0.05)
        luff = desk.tree.coordinate("luff")
        self.assertGreater(abs(desk.q[luff]), 0.1)
        desk.start_swing(None)
        self.assertEqual((desk.undo(), round(desk.q[luff], 9)), ("luff to and fro", 0.0))
        with mock.patch("mooring.page.desk.standing.close_loops", side_effect=RunError("no")):
            moved = desk.standing.of({"extension": 0.1})
        self.assertIn("do not close as they stood; it stands neutral", moved.refused)
        np.testing.assert_array_equal(moved.q, desk.standing.neutral)
        # What somebody else has written since is not undone, and does not stand in the way.
        edits.file.write_text(proposal.after + "# mine\n")
        with self.assertRaisesRegex(InputError, "somebody else"):
            desk.undo()
        self.assertEqual(desk.undo(), "slew")

    def test_documents_that_are_included_know_their_items_and_copies(self) -> None:
        desk = self.desk("walker")
        edits, path = desk.documents.home_of(
            desk.robot, ("joints", "starboard_rear_knee_pitch", "limits", "upper")
        )
        self.assertEqual(
            (edits.file.name, path), ("leg.yaml", ("joints", "knee_pitch", "limits", "upper"))
        )
        self.assertEqual(
            (
                desk.documents.copies_of(desk.robot, edits),
                desk.documents.copies_of(desk.robot, desk.edits),
            ),
            (6, 1),
        )
        self.assertIsNone(desk.documents.home_of(desk.robot, ("joints", "nothing", "axis")))
        wrong = edits.propose("upper", {path: "-75 deg"})
        with self.assertRaisesRegex(InputError, "not written, as it would be wrong"):
            desk.documents.refuse_wrong(edits, wrong, None)
        desk.documents.refuse_wrong(edits, edits.propose("upper", {path: "70 deg"}), None)
        self.assertGreater(desk.edits.uses_of("reach"), 1)

    def test_a_place_is_changed_however_it_is_written(self) -> None:
        file = folder_for(self) / "posts.yaml"
        head = "mooring: 1\nlinks:\n  a: {sphere: 0.1, mass: 1}\n  b: {sphere: 0.1, mass: 1}\n"
        for written, last, there in (
            ("at: [0, 0, 1 m], ", "xyz", (0, 0, 2)), ("at: {xyz: [0, 0, 1 m]}, ", "xyz", (0, 0, 2)),
            ("", "xyz", (0, 0, 2)), ("at: [0, 0, 1 m], ", "rpy", (0, 0, 1)), ("at: {rpy: [0, 0, 1]}, ", "rpy", (0, 0, 0)),
        ):  # fmt: skip
            with self.subTest(f"{last} in {written}"):
                file.write_text(
                    f"{head}joints:\n  j: {{type: fixed, parent: a, {written}child: b}}\n"
                )
                edits = Desk(ModelSource(file)).edits
                value = ["0 m", "0 m", "2 m"] if last == "xyz" else ["0 deg", "0 deg", "90 deg"]
                after = edits.propose(
                    "place", edits.place_changes(("joints", "j", "at", last), value)
                ).after
                pose = edits.robot_of(after).joints["j"].at.matrix
                np.testing.assert_allclose(pose[:3, 3], there, atol=1e-12)
                if last == "rpy":
                    np.testing.assert_allclose(pose[:3, 0], (0, 1, 0), atol=1e-9)

    def test_a_run_of_nothing_cannot_be_shown(self) -> None:
        empty = Simulation(line_tender(), posture="stowed").recording
        with self.assertRaisesRegex(ModelError, "nothing was recorded"):
            line_tender().show(recording=empty)

    def test_what_is_no_tree_or_no_document_is_shown_and_judged(self) -> None:
        folder = folder_for(self)
        text = (
            "mooring: 1\nlinks:\n  a: {box: [1, 1, 1], mass: 1}\n  b: {box: [1, 1, 1], mass: 1}\n"
        )
        (folder / "two.yaml").write_text(text)
        desk = Desk(ModelSource(folder / "two.yaml"))
        self.assertIn("hangs on nothing", desk.opened.patches[0])
        self.assertEqual(desk.judge().findings, check(mooring.read(folder / "two.yaml")).findings)
        with self.assertRaisesRegex(ModelError, "mend the document"):
            desk.new_player(None, 1.0)
        (folder / "none.yaml").write_text("mooring: 1\nlinks: [")
        desk = Desk(ModelSource(folder / "none.yaml"))
        self.assertFalse(desk.judge().ok)
        self.assertIn("not readable", desk.problem)
        (folder / "none.yaml").write_text(text.replace("  b: {box: [1, 1, 1], mass: 1}\n", ""))
        desk.put(desk.read())
        self.assertEqual(
            (desk.problem, desk.opened.patches, list(desk.robot.links)), ("", (), ["a"])
        )
        with self.assertRaisesRegex(InputError, "there is no such file"):
            Desk(ModelSource(folder / "nowhere.yaml"))

    def test_nobody_waits_for_a_slow_simulation(self) -> None:
        here, go = threading.Event(), threading.Event()

        def slow(_: Simulation) -> None:
            here.set()
            go.wait(60)

        player = Player(
            Simulation(line_tender(), posture="stowed", controllers=[(slow, 100)]), np.inf
        )
        self.addCleanup(player.close)
        self.addCleanup(go.set)
        player.play()
        self.assertTrue(here.wait(60))
        # The step is being computed, and its lock is held; all of this would wait for ever.
        self.assertFalse(player.lock.acquire(blocking=False))
        self.assertEqual(player.moment().time, 0.0)
        self.assertTrue(player.command("slew", 0.3))
        player.pull("boom", np.zeros(3), np.array([2.0, 0, 3]))
        player.pull("boom", np.zeros(3), None)
        player.hold()
        go.set()
        until(lambda: player.moment().time > 0, "the slice that was computed")
        self.assertFalse(player.running)


if __name__ == "__main__":
    unittest.main()
