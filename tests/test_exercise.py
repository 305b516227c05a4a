"""Exercise: efforts against closed forms, overlaps where they are, and the command with its files."""

import io
import json
import unittest

import numpy as np
from PIL import Image

import mooring
from mooring import Robot, exercise
from mooring.demo import DRUM_CART, LINE_TENDER
from mooring.drawing.exercise.preview import preview
from mooring.dynamics import STANDARD_GRAVITY
from mooring.errors import ModelError
from mooring.exercising.report import as_markdown
from tests.support import folder_for, run_mooring
from tests.test_loops import CRANK, ROD, slider_crank
from tests.test_mechanisms import parallelogram


class Efforts(unittest.TestCase):
    def test_two_arms_stretched_out(self) -> None:
        robot = Robot("arm")
        robot.add_link("post")
        robot.add_link("upper", mass=3, centre=(0.4, 0, 0), inertia=(0.1, 0.1, 0.1))
        robot.add_link("lower", mass=2, centre=(0.3, 0, 0), inertia=(0.1, 0.1, 0.1))
        limits = {"lower": -3, "upper": 3, "effort": 20, "velocity": 2.0}
        robot.add_joint("shoulder", "revolute", parent="post", child="upper", axis="y", **limits)
        robot.add_joint("elbow", "revolute", parent="upper", child="lower", axis="y",
                        at=(0.8, 0, 0), **limits)  # fmt: skip
        robot.add_motor("shoulder_drive", joint="shoulder", p=100)
        robot.add_posture("out", {})
        robot.add_posture("up", {"shoulder": "-90 deg", "elbow": "-30 deg"})
        done = exercise(robot)
        shoulder, elbow = done.efforts
        out = STANDARD_GRAVITY * (3 * 0.4 + 2 * 1.1)
        self.assertAlmostEqual(abs(shoulder.effort), out, delta=1e-3 * out)
        self.assertTrue(shoulder.too_weak)
        self.assertAlmostEqual(abs(elbow.effort), STANDARD_GRAVITY * 0.6, delta=0.01)
        # Nothing drives it, so nothing there is too weak.
        self.assertFalse(elbow.too_weak)
        self.assertFalse(done.ok)
        self.assertEqual(done.changes[0].slowest, "shoulder")
        self.assertAlmostEqual(done.changes[0].seconds or 0, np.pi / 4)
        self.assertEqual([sweep.mass for sweep in done.sweeps], [5, 2])

    def test_weight_felt_through_a_loop(self) -> None:
        """A slider-crank on its side: the crank holds the rod and itself, by virtual work."""
        robot = slider_crank()
        robot.add_motor("drive", joint="crank", p=10)
        done = exercise(robot, steps=48)
        self.assertEqual([sweep.joint for sweep in done.sweeps], ["crank"])
        angle = np.linspace(0, 2 * np.pi, 100_001)
        rod = -np.arcsin(CRANK * np.sin(angle) / ROD)
        height = 1.0 * CRANK / 2 * np.sin(angle) + 2.0 * (
            CRANK * np.sin(angle) + ROD / 2 * np.sin(rod)
        )
        expected = STANDARD_GRAVITY * np.abs(np.gradient(height, angle)).max()
        self.assertAlmostEqual(abs(done.efforts[0].effort), expected, delta=1e-4 * expected)

    def test_doubts_and_ends_are_told(self) -> None:
        short = exercise(slider_crank(lower="-350 mm"))
        self.assertIn("slide would have to go beyond the limits", " ".join(short.stops))
        self.assertTrue(any(sweep.doubts for sweep in exercise(parallelogram()).sweeps))


class Overlaps(unittest.TestCase):
    def test_a_boom_that_hits_its_post_is_told_where(self) -> None:
        robot = Robot("derrick")
        robot.add_link("post", collision={"box": [0.2, 0.2, 2.0], "at": {"xyz": [1.0, 0, 0]}})
        robot.add_link("hinge", mass=1, inertia=(1, 1, 1))
        robot.add_link("boom", mass=1, inertia=(1, 1, 1),
                       collision={"capsule": {"radius": 0.05, "length": 1.0}, "at": {"xyz": [0, 0.5, 0], "rpy": ["90 deg", 0, 0]}})  # fmt: skip
        robot.add_joint("slew", "revolute", parent="post", child="hinge", lower=-2, upper=0.5)
        robot.add_joint(
            "lift", "revolute", parent="hinge", child="boom", axis="x", lower=-0.1, upper=0.1
        )
        done = exercise(robot)
        self.assertEqual([(m.first, m.second) for m in done.overlaps], [("post", "boom")])
        self.assertIn("while slew moves alone, at -", as_markdown(done))
        self.assertIn("limit the joints", as_markdown(done))


class Previews(unittest.TestCase):
    def test_what_moves_a_joint_is_shown_and_what_cannot_be_is_told(self) -> None:
        tender = mooring.read(LINE_TENDER.document)
        shown = preview(tender, "starboard_jaw_hinge", (160, 100))
        self.assertEqual(
            shown.words, "starboard_jaw_hinge, which port_jaw_hinge from 0 deg to 55 deg moves"
        )
        film = Image.open(io.BytesIO(shown.film))
        frames = []
        for number in range(film.n_frames):
            film.seek(number)
            frames.append(np.asarray(film.convert("L"), dtype=float))
        # It goes from end to end and back: what is a way off looks different, and the ways alike.
        middle = len(frames) // 2
        self.assertGreater(np.abs(frames[0] - frames[middle]).max(), 60)
        self.assertLess(np.abs(frames[1] - frames[-1]).mean(), 1.0)
        bare = Robot("bare")
        for name in ("post", "arm", "hand"):
            bare.add_link(name, mass=1, inertia=(1, 1, 1))
        bare.add_joint("turn", "continuous", parent="post", child="arm")
        bare.add_joint("held", "fixed", parent="arm", child="hand")
        for joint, words in (("turn", "no link has a shape"), ("held", "does not move")):
            with self.assertRaisesRegex(ModelError, words):
                preview(bare, joint)


class Command(unittest.TestCase):
    def test_the_tender_is_exercised_with_pictures_and_a_film(self) -> None:
        folder = folder_for(self)
        done = run_mooring("exercise", LINE_TENDER.document, "-o", folder, "--json")
        self.assertEqual(done.returncode, 0, done.stderr)
        told = json.loads(done.stdout)
        self.assertTrue(told["ok"])
        self.assertEqual([j["joint"] for j in told["joints"]],
                         ["slew", "telescope", "wrist_pitch", "rotator", "port_jaw_hinge", "extension"])  # fmt: skip
        self.assertEqual(told["mobility"]["actual"], 6)
        with Image.open(folder / "exercise.png") as image:
            self.assertEqual(image.size, (1280, 800))
            self.assertGreater(len(image.convert("RGB").getcolors(1 << 24) or []), 2000)
        self.assertIn("| over_bollard | released | 0.375 s | port_jaw_hinge |",
                      (folder / "exercise.md").read_text())  # fmt: skip

    def test_a_film_of_the_cart_and_a_robot_that_fails(self) -> None:
        import av

        folder = folder_for(self)
        document = folder / "weak.yaml"
        document.write_text(
            "mooring: 1\nlinks:\n  a: {}\n"
            "  b: {mass: 5 kg, centre: [1, 0, 0], inertia: [0.1, 0.1, 0.1], visuals: [{box: [1, 0.1, 0.1]}]}\n"
            "joints: {j: {type: revolute, parent: a, child: b, axis: y, limits: {lower: -1, upper: 1, effort: 20 N*m}}}\n"
            "motors: {m: {joint: j, p: 100 N*m/rad}}\n"
        )
        done = run_mooring("exercise", document, "-o", folder / "out", "--film")
        self.assertEqual(done.returncode, 1, done.stderr)
        self.assertIn("too weak to hold the machine everywhere: j", done.stdout)
        with av.open(str(folder / "out" / "exercise.mp4")) as film:
            frames = [frame.to_ndarray(format="rgb24") for frame in film.decode(video=0)]
        self.assertGreater(len(frames), 60)
        self.assertGreater(np.abs(frames[0].astype(int) - frames[10]).max(), 60)
        cart = exercise(mooring.read(DRUM_CART.document), samples=20)
        self.assertTrue(cart.ok)
