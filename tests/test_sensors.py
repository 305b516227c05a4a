"""Sensors against statics and geometry, their noise, and what diagnosis makes of broken robots."""

import unittest

import numpy as np

from mooring import Scene, Simulation, simulate
from mooring.drawing import camera_pictures
from mooring.dynamics import STANDARD_GRAVITY as G
from mooring.errors import ModelError
from mooring.model.scene import Ground
from tests.support import pendulum


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
