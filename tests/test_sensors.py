"""Sensors against statics and geometry, their noise, and what diagnosis makes of broken robots."""

import unittest

import numpy as np

from mooring import Robot, Scene, Simulation, simulate
from mooring.drawing import camera_pictures
from mooring.dynamics import STANDARD_GRAVITY as G
from mooring.errors import ModelError
from mooring.model.scene import Ground
from tests.support import pendulum
from tests.test_simulation import slider


class Measurements(unittest.TestCase):
    def test_a_held_pendulum_feels_its_weight(self) -> None:
        robot = pendulum(1.0, 2.0)
        robot.add_motor("drive", joint="swing", p=1e6, d=1e4)
        robot.add_frame("tip", link="bob", at={"xyz": (0, 0, -1), "rpy": (0, "90 deg", 0)})
        robot.add_sensor(
            "imu", "imu", frame="tip", rate=100, orientation=True, force_bias=(0.5, 0, 0)
        )
        robot.add_sensor("encoder", "encoder", joint="swing", rate="30 Hz", counts=100)
        robot.add_sensor("torque", "joint_torque", joint="swing", rate=100)
        robot.add_sensor("wrench", "force_torque", joint="swing", rate=100, latency="20 ms")
        run = simulate(robot, posture={"swing": 0.5}, seconds=0.5)
        imu = run.sensors["imu"].iloc[-1]
        # Standing still it reads gravity, upwards: along -x of a frame that looks down.
        force = imu[["force.x", "force.y", "force.z"]].to_numpy(float) - (0.5, 0, 0)
        np.testing.assert_allclose(force, G * np.array([-np.cos(0.5), 0, -np.sin(0.5)]), atol=1e-3)
        self.assertAlmostEqual(imu["qy"], np.sin((0.5 + np.pi / 2) / 2), places=4)
        self.assertAlmostEqual(
            run.sensors["torque"]["effort"].iloc[-1], 2 * G * np.sin(0.5), places=3
        )
        wrench = run.sensors["wrench"].iloc[-1]
        np.testing.assert_allclose(
            wrench[["force.x", "force.z", "moment.y"]].to_numpy(float),
            2 * G * np.array([-np.sin(0.5), np.cos(0.5), np.sin(0.5)]), atol=2e-3,
        )  # fmt: skip
        self.assertAlmostEqual(wrench["arrives"] - wrench.name, 0.02)
        counted = run.sensors["encoder"]
        self.assertAlmostEqual(counted["position"].iloc[0], 7 * 2 * np.pi / 100)
        self.assertEqual(len(counted), 16)
        np.testing.assert_allclose(np.diff(counted.index), 1 / 30, atol=1e-3)

    def test_noise_is_what_its_density_says_and_the_seed_decides_it(self) -> None:
        runs = []
        for seed in (1, 1, 2):
            robot = pendulum(1.0, 2.0)
            robot.add_sensor(
                "imu", "imu", link="bob", rate=1000, force_noise=0.01, rate_noise=0.002
            )
            runs.append(simulate(robot, seconds=4, seed=seed).sensors["imu"])
        np.testing.assert_array_equal(runs[0], runs[1])
        self.assertTrue((runs[0]["rate.x"] != runs[2]["rate.x"]).all())
        self.assertAlmostEqual(runs[0]["rate.x"].std(), 0.002 * np.sqrt(1000), delta=0.004)
        self.assertAlmostEqual(runs[0]["force.y"].std(), 0.01 * np.sqrt(1000), delta=0.02)
        with self.assertRaisesRegex(ModelError, "steps of 0.01 s are too long for it"):
            simulate(robot, step=0.01)

    def test_contact_rays_and_pictures_see_the_scene(self) -> None:
        scene = Scene("room", ground=Ground())
        scene.add_obstacle("wall", box=(0.2, 6, 4), at=(2.1, 0, 1))
        scene.add_body("head", mass=3, box=(0.2, 0.2, 0.2), at=(0, 0, 0.1))
        eye = {"link": "head", "at": {"xyz": (0.11, 0, 0.1)}}
        scene.robot.add_frame("eye", **eye)
        scene.robot.add_sensor("feet", "contact", link="head", rate=100)
        scene.robot.add_sensor("scan", "range_scanner", frame="eye", rate=10, field="60 deg", rays=5,
                               layers=3, layer_field="30 deg", farthest=5)  # fmt: skip
        scene.robot.add_sensor("camera", "camera", frame="eye", rate=10, field="60 deg",
                               size=[80, 60], channels=["color", "depth", "label"])  # fmt: skip
        run = simulate(scene, seconds=0.3)
        feet = run.sensors["feet"].iloc[-1]
        self.assertAlmostEqual(feet["force.z"], 3 * G, places=3)
        self.assertAlmostEqual(feet["pressed"], 3 * G, places=3)
        scan = run.sensors["scan"].iloc[-1]
        far = 2.0 - 0.11
        for ray, angle in enumerate(np.radians([-30, -15, 0, 15, 30])):
            self.assertAlmostEqual(scan[f"1.{ray}"], far / np.cos(angle), places=3)
        self.assertAlmostEqual(scan["0.2"], 0.2 / np.sin(np.radians(15)), places=3)
        picture = next(camera_pictures(scene.robot, run, "camera"))
        self.assertEqual(picture.color.shape, (60, 80, 3))  # type: ignore[union-attr]
        self.assertAlmostEqual(float(picture.depth[20, 40]), far, places=3)  # type: ignore[index]
        self.assertEqual(picture.names[picture.label[20, 40]], "wall")  # type: ignore[index]
        self.assertEqual(picture.names[picture.label[59, 40]], "ground")  # type: ignore[index]
        # On the ground the depth follows from the eye's height and the pixel's slope.
        slope = (59.5 - 30) / 40 * np.tan(np.radians(30))
        self.assertAlmostEqual(float(picture.depth[59, 40]), 0.2 / slope, delta=1e-3)  # type: ignore[index]

    def test_a_controller_reads_late_what_was_measured_and_runs_at_its_own_rate(self) -> None:
        robot = pendulum(1.0, 2.0, effort=100)
        robot.add_motor("drive", joint="swing", mode="effort")
        robot.add_sensor("encoder", "encoder", joint="swing", rate=500, latency="4 ms")
        calls = []

        def hold(simulation: Simulation) -> None:
            seen = simulation.read("encoder")
            calls.append((simulation.time, None if seen is None else seen["time"]))
            position = 0.5 if seen is None else seen["position"]
            rate = simulation.state.velocities["swing"]
            simulation.command(efforts={"swing": 200 * (0.2 - position) - 20 * rate})

        run = simulate(robot, posture={"swing": 0.5}, seconds=2, controllers=[(hold, "250 Hz")])
        np.testing.assert_allclose(np.diff([t for t, _ in calls]), 0.004, atol=1e-12)
        self.assertTrue(all(t - seen >= 0.004 - 1e-9 for t, seen in calls if seen is not None))
        sag = 2 * G * np.sin(0.2) / 200
        self.assertAlmostEqual(run.table["swing.position"].iloc[-1], 0.2 - sag, delta=0.01)
        simulation = Simulation(robot)
        with self.assertRaisesRegex(
            ModelError, "no motor drives joint 'swin'; did you mean 'swing'"
        ):
            simulation.command(efforts={"swin": 1.0})


class Diagnosis(unittest.TestCase):
    """Each of these robots is broken in one way, and that is what comes first."""

    def first(self, run: object) -> tuple[str, str]:
        findings = run.diagnose()  # type: ignore[attr-defined]
        self.assertTrue(findings)
        return findings[0].code, findings[0].item

    def test_shapes_inside_each_other(self) -> None:
        robot = Robot("arm")
        robot.add_link("post", collision={"box": (0.2, 0.2, 1.0)})
        robot.add_link("elbow", mass=1, inertia=(0.01, 0.01, 0.01))
        robot.add_link("hand", mass=1, inertia=(0.01, 0.01, 0.01), collision={"sphere": 0.1})
        robot.add_joint("a", "continuous", parent="post", child="elbow", at=(0.18, 0, 0.2), axis="z",
                        effort=5)  # fmt: skip
        robot.add_joint("b", "continuous", parent="elbow", child="hand", axis="y", effort=5)
        robot.add_motor("ma", joint="a", p=1000, d=10)
        self.assertEqual(
            self.first(simulate(robot, seconds=0.5)), ("overlap-at-start", "post and hand")
        )

    def test_motors_that_are_too_weak_or_asked_too_much(self) -> None:
        weak = pendulum(1.0, 2.0, effort=5.0)
        weak.add_motor("drive", joint="swing", p=1000, d=50)
        run = simulate(weak, posture={"swing": 1.5}, seconds=1)
        self.assertEqual(self.first(run), ("motor-saturated", "swing"))
        self.assertIn("holding the robot there takes 19", run.diagnose()[0].message)

    def test_gains_that_are_too_high_for_their_controller(self) -> None:
        robot = pendulum(1.0, 2.0, effort=100)
        robot.add_motor("drive", joint="swing", mode="effort")

        def wild(simulation: Simulation) -> None:
            now = simulation.state
            effort = -5e4 * now.positions["swing"] - 4e3 * now.velocities["swing"]
            simulation.command(efforts={"swing": effort})

        run = simulate(robot, posture={"swing": 0.5}, seconds=1, controllers=[(wild, 100)])
        self.assertEqual(self.first(run), ("gains-unstable", "swing"))

    def test_targets_that_jump_and_stops_that_are_hit(self) -> None:
        robot = slider(effort=500, velocity=1.0)
        robot.add_motor("drive", joint="slide", p=1e4, d=1e3)
        simulation = Simulation(robot)
        simulation.step(seconds=0.2)
        simulation.command(positions={"slide": "1 m"})
        simulation.step(seconds=0.5)
        self.assertEqual(self.first(simulation.recording), ("target-jumps", "slide"))
        run = simulate(slider(upper="300 mm"), velocities={"slide": 1.0}, seconds=1)
        self.assertEqual(self.first(run), ("at-stop", "slide"))

    def test_loops_pulled_open_and_feet_that_slip(self) -> None:
        robot = Robot("press")
        robot.add_link("frame")
        for name, x in (("left", 0.0), ("right", 1.0)):
            robot.add_link(name, mass=1, inertia=(0.1, 0.1, 0.1))
            robot.add_joint(name, "prismatic", parent="frame", child=name, at=(x, 0, 0))
            robot.add_motor(name, joint=name, mode="motion")
        robot.add_closure("bar", "ball", between=("left", "right"))

        def pull(simulation: Simulation) -> None:
            way = 0.2 * simulation.time
            simulation.command(positions={"left": way, "right": -way})

        run = simulate(robot, seconds=0.5, controllers=[(pull, 1000)])
        self.assertEqual(self.first(run)[0], "loop-open")
        dragged = Scene("dragged", ground=Ground())
        sledge = Robot("sledge")
        sledge.add_link("rail")
        sledge.add_link("shoe", mass=2, inertia=(0.1, 0.1, 0.1))
        sledge.add_link("foot", mass=2, inertia=(0.1, 0.1, 0.1), collision={"box": (0.2, 0.1, 0.1)})
        sledge.add_joint("slide", "prismatic", parent="rail", child="shoe", axis="x", effort=500)
        sledge.add_joint("drop", "prismatic", parent="shoe", child="foot", axis="z")
        sledge.add_motor("pull", joint="slide", p=1e4, d=1e3)
        dragged.add_robot(sledge, at=(0, 0, 0.05))
        run = simulate(dragged, motion=[{"joints": {"slide": 0.4}, "over": 1}])
        self.assertEqual(self.first(run), ("slipped", "foot"))

    def test_what_falls_away_or_cannot_be_solved(self) -> None:
        scene = Scene("void")
        scene.add_body("stone", mass=1, sphere=0.1, at=(0, 0, 0))
        run = simulate(scene, seconds=4, step=0.01, rate=10)
        self.assertEqual(self.first(run), ("fell-away", "stone"))
        crushed = Scene("crushed", ground=Ground())
        for k, (x, y) in enumerate(((-0.3, -0.3), (-0.3, 0.3), (0.3, -0.3), (0.3, 0.3))):
            crushed.add_body(f"chock_{k}", mass=0.05, box=(0.1, 0.1, 0.1), at=(x, y, 0.05))
        crushed.add_body("slab", mass=4000, box=(1, 1, 0.2), at=(0, 0, 0.2))
        code, item = self.first(simulate(crushed, seconds=1))
        self.assertEqual((code, item.partition(" and ")[2]), ("mass-ratio", "slab"))
        healthy = simulate(pendulum(), posture={"swing": 0.5}, seconds=1)
        self.assertEqual(healthy.diagnose(), [])
