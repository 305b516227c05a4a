"""Scenes: documents, several robots, motions of every kind, and the demo scenes."""

import unittest
from pathlib import Path

import numpy as np

import mooring
from mooring import Robot, Scene, Simulation, simulate
from mooring.demo import DRUM_CART, LINE_TENDER, WALKER
from mooring.errors import DocumentError, ModelError
from mooring.kinematics import frame_poses
from mooring.model.scene import Ground
from mooring.simulation import Recording
from tests.support import folder_for, line_tender, pendulum, run_mooring

QUAY = """
mooring: 1
kind: scene
name: quay
seconds: 0.5 s
step: 2 ms
seed: 7
values: {half: 150 mm}
materials:
  ice: {density: 917 kg/m^3, friction: 0.05}
ground: {height: -100 mm, material: ice}
obstacles:
  bollard: {cylinder: {radius: 100 mm, length: 600 mm}, at: {xyz: [1, 0, 0.2]}}
bodies:
  floe: {box: [=2 * half, =2 * half, 100 mm], material: ice, at: {xyz: [0, 0, -50 mm]}}
  buoy:
    density: 200 kg/m^3
    at: {xyz: [0, 2, 0.3]}
    shapes:
      - {sphere: 200 mm}
      - {cylinder: {radius: 30 mm, length: 1 m}, at: {xyz: [0, 0, 0.6]}}
robots:
  left: {file: arm.yaml, prefix: left_, at: {xyz: [0, -2, 0]}, posture: {swing: 30 deg}}
  right: {file: arm.yaml, prefix: right_, at: {xyz: [0, -4, 1]}, base: floating}
motion:
  - {joints: {left_swing: 60 deg}, over: 0.2 s}
  - {attach: [bollard, buoy], hold: 0.1 s}
"""
ARM = """
mooring: 1
links:
  post: {mass: 5 kg, inertia: [0.1, 0.1, 0.1]}
  arm: {mass: 1 kg, centre: [0, 0, -0.3], inertia: [0.01, 0.01, 0.01]}
joints: {swing: {type: continuous, parent: post, child: arm, axis: y}}
motors: {drive: {joint: swing, p: 500 N*m/rad, d: 30 N*m*s/rad}}
"""


def written(test: unittest.TestCase, text: str) -> Path:
    folder = folder_for(test)
    (folder / "arm.yaml").write_text(ARM)
    (folder / "quay.yaml").write_text(text)
    return folder / "quay.yaml"


class Documents(unittest.TestCase):
    def test_a_scene_is_what_its_document_says(self) -> None:
        scene = mooring.read_scene(written(self, QUAY))
        self.assertEqual((scene.settings.seconds, scene.settings.seed), (0.5, 7))
        self.assertEqual(scene.ground.height, -0.1)  # type: ignore[union-attr]
        frames = scene.robot.link_frames()
        floe = scene.robot.inertia("floe", frames["floe"])
        self.assertAlmostEqual(floe.mass, 917 * 0.3 * 0.3 * 0.1)  # type: ignore[union-attr]
        buoy = scene.robot.inertia("buoy", frames["buoy"])
        ball, mast = 200 * 4 / 3 * np.pi * 0.2**3, 200 * np.pi * 0.03**2
        self.assertAlmostEqual(buoy.mass, ball + mast)  # type: ignore[union-attr]
        self.assertAlmostEqual(buoy.centre[2], 0.6 * mast / (ball + mast))  # type: ignore[union-attr]
        self.assertIn("right_base.qw", scene.robot.coordinates)
        run = simulate(scene)
        self.assertAlmostEqual(run.table.index[-1], 0.5)
        self.assertAlmostEqual(run.table["left_swing.position"].iloc[0], np.radians(30))
        self.assertAlmostEqual(run.table["left_swing.target"].iloc[-1], np.radians(60))
        # Nothing holds the arm that floats, and it has no shapes to land on.
        heights = run.table["right_base.z"]
        self.assertLess(heights.iloc[-1], heights.iloc[0] - 1)
        self.assertEqual(run.diagnose()[0].code, "fell-through")

    def test_mistakes_are_told_with_their_lines(self) -> None:
        for wrong, right, words in (
            ("material: ice}\nobs", "material: ise}\nobs", r":11: .*no material is called 'ise'"),
            ("ground:", "grund:", r":11: unknown key 'grund'; did you mean 'ground'"),
            ("file: arm.yaml, prefix: left_", "file: leg.yaml", r":23: robot 'left'"),
            (
                "prefix: right_",
                "prefix: left_",
                r":24: .*already a robot whose names begin with 'left_'",
            ),
            ("left_swing: 60 deg", "left_swing: 60 mm", r":26: .*is a length"),
            ("[bollard, buoy]", "[bollard, boy]", r"no link is called 'boy'"),
            ("step: 2 ms", "step: 2 s", r"the step is from 1e-07 to 0.02 s"),
            ("box: [=2 * half", "ball: [=2 * half", r":15: .*unknown key 'ball'"),
        ):
            text = QUAY.replace(wrong, right)
            self.assertNotEqual(text, QUAY, wrong)
            with self.subTest(words), self.assertRaisesRegex(DocumentError, words):
                mooring.read_scene(written(self, text))
        with self.assertRaisesRegex(DocumentError, "this is a scene, and not a robot"):
            mooring.read(written(self, QUAY))

    def test_a_command_runs_it_and_goes_on_from_where_it_was(self) -> None:
        document = written(self, QUAY)
        out = document.parent / "out"
        first = run_mooring("run", document, "-o", out, "--no-plot")
        self.assertEqual(first.returncode, 0, first.stderr)
        self.assertIn("found: right_post fell through", first.stdout)
        more = run_mooring(
            "run", document, "-o", out / "b", "--resume", out, "--at", "0.1", "--no-plot"
        )
        self.assertEqual(more.returncode, 0, more.stderr)
        whole, rest = simulate(mooring.read_scene(document)), Recording.read(out / "b")
        self.assertAlmostEqual(rest.table.index[0], 0.1)
        self.assertAlmostEqual(
            rest.table["floe.z"].iloc[-1], whole.table["floe.z"].iloc[-1], delta=1e-5
        )
        self.assertEqual(set(rest.columns), set(rest.table.columns))
        bad = run_mooring("run", document, "-o", out, "--speed", "slow")
        self.assertEqual(bad.returncode, 2)


class Motions(unittest.TestCase):
    def test_a_tool_goes_straight_and_turns_with_it(self) -> None:
        tender = line_tender()
        steps = [
            {"to": "gripping"},
            {"reach": {"grip": {"xyz": (0.4, 2.3, 2.4), "rpy": (0, 0, "80 deg")}}, "over": 2},
        ]
        simulation = Simulation(tender, motion=steps)
        tree, points = simulation.tree, simulation.plan.timeline.points
        poses = frame_poses(tree, points)["grip"]
        start, end = poses[0][:3, 3], np.array([0.4, 2.3, 2.4])
        along = (end - start) / np.linalg.norm(end - start)
        off = poses[:, :3, 3] - start
        off = off - np.outer(off @ along, along)
        self.assertLess(np.linalg.norm(off, axis=1).max(), 1e-4)
        np.testing.assert_allclose(poses[-1][:3, 3], end, atol=1e-4)
        with self.assertRaisesRegex(
            ModelError, "'grip' cannot go straight to where it is to reach"
        ):
            Simulation(tender, motion=[{"to": "gripping"}, {"reach": {"grip": {"xyz": (9, 0, 0)}}}])

    def test_cycles_go_on_without_end_and_wheels_roll_on(self) -> None:
        robot = pendulum(1.0, 1.0, velocity=2.0)
        robot.add_motor("drive", joint="swing", p=1e4, d=100)
        swing = [{"joints": {"swing": 0.5}, "over": 0.2}, {"joints": {"swing": -0.5}, "over": 0.2}]
        with self.assertRaisesRegex(ModelError, "the motion has no end"):
            simulate(robot, motion=[{"cycle": swing}])
        target = simulate(robot, motion=[{"cycle": swing}], seconds=2).table["swing.target"]
        np.testing.assert_allclose(target.loc[1.0:1.3], target.loc[0.6:0.9].to_numpy(), atol=1e-12)
        turns = [{"drive": {"wheels": ["swing"], "forward": 1}, "over": 1}]
        robot.add_link("tyre", mass=1, inertia=(1, 1, 1), collision={"sphere": 0.5})
        robot.add_joint("wheel", "continuous", parent="post", child="tyre", axis="y")
        robot.add_motor("wheels", joint="wheel", p=1e4, d=100)
        turns = [{"cycle": [{"drive": {"wheels": ["wheel"], "forward": 1}, "over": 1}]}]
        wheel = simulate(robot, motion=turns, seconds=5).table["wheel.target"]
        self.assertAlmostEqual(wheel.loc[4.0] - wheel.loc[2.0], 2 / 0.5, places=6)
        fast = Simulation(robot, motion=[{"joints": {"swing": 1.0}, "profile": "trapezoid"}])
        self.assertAlmostEqual(fast.plan.seconds, 4 / 3 / 2.0)

    def test_what_makes_no_sense_is_refused(self) -> None:
        robot = pendulum()
        for step, words in (
            ({"to": "up", "reach": {"bob": {"xyz": (0, 0, 0)}}}, "one in a step"),
            ({"times": 3}, "times belongs to a cycle"),
            ({"joints": {"swin": 1}}, "did you mean 'swing'"),
            ({"drive": {"wheels": ["swing"]}}, "drive needs over"),
            ({"attach": ("post", "bobb"), "hold": 1}, "did you mean 'bob'"),
        ):
            with self.subTest(words), self.assertRaisesRegex(ModelError, words):
                Simulation(robot, motion=[step])

    def test_prescribed_motion_says_what_it_takes(self) -> None:
        robot = pendulum(1.0, 2.0)
        robot.add_motor("drive", joint="swing", mode="motion")
        steps = [{"joints": {"swing": 1.0}, "over": 0.5, "hold": 0.1}]
        # The robust stepper's efforts are means over the step that begins.
        for stepper, later in (("robust", 5e-4), ("accurate", 0.0)):
            table = simulate(robot, motion=steps, stepper=stepper).table
            s = np.clip((table.index.to_numpy() + later) / 0.5, 0, 1)
            q = 10 * s**3 - 15 * s**4 + 6 * s**5
            a = (60 * s - 180 * s**2 + 120 * s**3) / 0.25
            needed = 2.0 * a + 2.0 * 9.80665 * np.sin(q)
            np.testing.assert_allclose(table["swing.effort"], needed, atol=0.07)
            self.assertLess(float(np.median(np.abs(table["swing.effort"] - needed))), 2e-3)
            np.testing.assert_allclose(table["swing.position"], table["swing.target"], atol=1e-5)

    def test_integral_feed_forward_and_held_links(self) -> None:
        for gains, miss in (({}, 0.1), ({"i": 400}, 2e-3), ({"feed_forward": "gravity"}, 1e-4)):
            robot = pendulum(1.0, 2.0, effort=100)
            robot.add_motor("drive", joint="swing", p=200, d=40, **gains)
            table = simulate(robot, posture={"swing": 1.0}, seconds=4).table
            found = abs(table["swing.position"].iloc[-1] - 1.0)
            self.assertLess(found, miss, gains)
            self.assertEqual(found > 0.04, not gains)
        scene = Scene("crane", ground=Ground())
        scene.add_obstacle("hook", box=(0.1, 0.1, 0.1), at=(0, 0, 2))
        scene.add_body("load", mass=3, sphere=0.1, at=(0, 0, 1.5))
        steps = [
            {"attach": ("hook", "load"), "hold": 0.2},
            {"release": ("hook", "load"), "hold": 0.3},
        ]
        z = simulate(scene, motion=steps).table["load.z"]
        self.assertLess(abs(z.loc[0.2] - 1.5), 1e-9)
        self.assertAlmostEqual(z.loc[0.5], 1.5 - 9.80665 * 0.09 / 2, delta=3e-5)


class Machines(unittest.TestCase):
    def test_the_tender_lays_the_eye_over_the_bollard(self) -> None:
        scene = mooring.read_scene(LINE_TENDER.document.with_name("bollard.yaml"))
        simulation = Simulation(scene, rate=20)
        simulation.step(seconds=simulation.plan.seconds)
        bollard, eye = (simulation.pose(name)[:3, 3] for name in ("bollard", "eye"))
        self.assertLess(np.linalg.norm((eye - bollard)[:2]), 0.1)
        self.assertAlmostEqual(eye[2] - bollard[2], 0.03, delta=2e-3)
        self.assertFalse(simulation.ended)

    def test_the_walker_crosses_the_step_upright(self) -> None:
        scene = mooring.read_scene(WALKER.document.with_name("breakwater.yaml"))
        simulation = Simulation(scene, rate=20)
        simulation.step(seconds=26)
        state = simulation.state.positions
        self.assertGreater(state["base.x"], 1.5)
        self.assertGreater(state["base.qw"] ** 2 + state["base.qz"] ** 2, 0.97)

    def test_the_cart_comes_back_to_where_its_eight_began(self) -> None:
        scene = mooring.read_scene(DRUM_CART.document.with_name("quay.yaml"))
        run = simulate(scene, rate=20)
        place = run.table[["base.x", "base.y"]].to_numpy()
        # Driven blindly, 20 m in all.
        self.assertLess(np.linalg.norm(place[-1] - place[0]), 0.2)
        self.assertGreater(np.ptp(place[:, 1]), 2.0)
        scans = run.sensors["quay_scanner"]
        self.assertAlmostEqual(float(np.diff(scans.index).mean()), 0.1, places=6)
        # The wall is 2.8 m to port of where it stood at first.
        port = scans.iloc[0]["0.450"]
        self.assertAlmostEqual(port, 2.8 - 0.12, delta=0.03)

    def test_copies_differ_in_what_is_varied_and_in_nothing_else(self) -> None:
        robot = pendulum(1.0, 2.0)
        runs = simulate(robot, copies=4, vary={"swing.position": [0.1, 0.2, 0.2, 0.3]}, seconds=1)
        alone = simulate(robot, posture={"swing": 0.2}, seconds=1)
        for number in (1, 2):
            np.testing.assert_array_equal(runs[number].table, alone.table)
        self.assertNotEqual(runs[0].table.iloc[-1, 0], runs[3].table.iloc[-1, 0])
        drawn = [simulate(robot, copies=3, vary={"bob.mass": (1.0, 3.0)}, seconds=0.1, seed=5)
                 for _ in range(2)]  # fmt: skip
        masses = [r.table["energy.potential"].iloc[0] for r in drawn[0]]
        self.assertEqual(masses, [r.table["energy.potential"].iloc[0] for r in drawn[1]])
        self.assertEqual(len(set(masses)), 3)
        with self.assertRaisesRegex(ModelError, "'swing.positon' cannot be varied; did you mean"):
            simulate(robot, copies=2, vary={"swing.positon": [0, 1]})

    def test_coordinates_of_what_floats_are_the_worlds(self) -> None:
        scene = Scene("quay")
        scene.add_body("crate", box=(1, 1, 1), mass=1, at={"xyz": (1, 2, 3), "rpy": (0, 0, 1.0)})
        state = Simulation(scene).state.positions
        place = [state[f"crate.{k}"] for k in ("x", "y", "z", "qz", "qw")]
        np.testing.assert_allclose(place, [1, 2, 3, np.sin(0.5), np.cos(0.5)], atol=1e-12)
        lifted = Simulation(scene, posture={"crate.z": "5 m"})
        np.testing.assert_allclose(lifted.pose("crate")[:3, 3], (1, 2, 5), atol=1e-12)

    def test_a_robot_that_floats_stands_on_ground_below_it(self) -> None:
        robot = Robot("stool")
        robot.base = "floating"
        robot.add_link("seat", mass=3, inertia=(0.1, 0.1, 0.1), collision={"box": (0.4, 0.4, 0.5)})
        run = simulate(robot, seconds=0.5)
        self.assertLess(abs(run.table["base.z"]).max(), 1e-4)
        falls = simulate(robot, seconds=0.5, ground="none")
        self.assertAlmostEqual(falls.table["base.z"].iloc[-1], -9.80665 / 8, delta=5e-3)
