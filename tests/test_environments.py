"""Environments for learning: Gymnasium's own checker, and the same numbers as a simulation."""

import math
import unittest
import warnings
from typing import Any

import numpy as np
from gymnasium.utils.env_checker import check_env

import mooring
from mooring import Robot
from mooring.bridge.environments import Environment, Environments, Seen, Task
from mooring.demo import DRUM_CART
from mooring.errors import ModelError
from mooring.simulation.batch import Batch
from tests.support import line_tender


def balancer() -> Robot:
    robot = Robot("balancer")
    robot.add_link("rail")
    robot.add_link("sled", mass=3, inertia=(0.02, 0.02, 0.02))
    robot.add_link("mast", mass=0.4, centre=(0, 0, 0.5), inertia=(0.033, 0.033, 1e-4))
    robot.add_joint(
        "slide", "prismatic", parent="rail", child="sled", axis="x", lower=-2, upper=2, effort=30
    )
    robot.add_joint("tilt", "continuous", parent="sled", child="mast", axis="y")
    robot.add_motor("drive", joint="slide", mode="effort")
    robot.add_frame("head", link="mast", at=(0, 0, 1))
    robot.add_sensor("gyro", "imu", frame="head", rate=100, rate_noise=0.01)
    return robot


def task(**changed: Any) -> Task:
    said = {
        "observations": ["slide.position", "tilt.position", "tilt.velocity", "gyro.rate.y"],
        "actions": {"slide.effort": None}, "reward": lambda seen, _: np.cos(seen["tilt.position"]),
        "ends": lambda seen: np.abs(seen["tilt.position"]) > 0.5, "seconds": 2.0,
        "start": {"tilt.position": (-0.1, 0.1), "slide.velocity": 0.2},
    }  # fmt: skip
    return Task(**{**said, **changed})


class Single(unittest.TestCase):
    def test_gymnasium_finds_nothing_wrong(self) -> None:
        cart = mooring.read(DRUM_CART.document)
        for sensor in ("quay_scanner", "front_camera"):
            cart.remove("sensor", sensor)
        drive = Task(
            ["base.x", "base.vx", "port_encoder.position"],
            {"port_drive.effort": (-5, 5)},
            lambda s, _: s["base.vx"],
        )
        for what, todo in (
            (balancer(), task()),
            (cart, drive),
            (
                line_tender(),
                Task(["slew.position"], {"slew.position": None}, lambda s, _: s["slew.position"]),
            ),
        ):
            with warnings.catch_warnings():
                # Of bounds that it would like better.
                warnings.simplefilter("ignore", UserWarning)
                check_env(Environment(what, todo), skip_render_check=True)

    def test_it_is_the_simulation(self) -> None:
        environment = Environment(
            balancer(), task(start={"tilt.position": 0.05}, rate=100, ends=None), accuracy=1e-7
        )
        environment.reset(seed=1)
        simulation = mooring.Simulation(balancer(), posture={"tilt": 0.05}, motion=[])
        random = np.random.default_rng(3)
        for _ in range(100):
            action = random.uniform(-30, 30, 1)
            seen, *_ = environment.step(action)
            simulation.command(efforts={"slide": float(action[0])})
            simulation.step(10)
            state = simulation.state
            np.testing.assert_array_equal(
                seen[:3],
                [state.positions["slide"], state.positions["tilt"], state.velocities["tilt"]],
            )
        gyro = simulation.read("gyro")
        assert gyro is not None
        self.assertAlmostEqual(seen[3], gyro["rate.y"], delta=1.0)


class Many(unittest.TestCase):
    def test_copies_do_not_touch_each_other_and_threads_do_not_matter(self) -> None:
        ends = []
        for count, threads in ((5, 1), (5, 2), (2, 1)):
            environments = Environments(
                balancer(),
                task(
                    observations=["slide.position", "tilt.position"], start={"tilt.position": 0.02}
                ),
                count,
                threads=threads,
            )
            environments.reset(seed=4)
            for k in range(30):
                seen, *_ = environments.step(np.arange(count)[:, None] * math.sin(k))
            ends.append(seen)
        np.testing.assert_array_equal(ends[0], ends[1])
        np.testing.assert_array_equal(ends[0][:2], ends[2])
        self.assertEqual(len(np.unique(ends[0][:, 0])), 5)

    def test_episodes_end_are_cut_off_and_begin_anew(self) -> None:
        environments = Environments(balancer(), task(seconds=0.5), 6)
        first, _ = environments.reset(seed=7)
        again, _ = environments.reset(seed=7)
        np.testing.assert_array_equal(first, again)
        self.assertTrue((np.abs(first[:, 1]) <= 0.1).all())
        self.assertEqual(len(np.unique(first[:, 1])), 6)
        times = np.zeros(6)
        for _ in range(25):
            seen, rewards, ended, cut, _ = environments.step(np.array([[30.0]] * 3 + [[0.0]] * 3))
            times[~ended] += 1
            np.testing.assert_allclose(rewards[3:], np.cos(seen[3:, 1]))
        self.assertTrue(cut[3:].all(), "what stands is cut off after half a second")
        self.assertTrue((times[:3] < times[3:]).all(), "what is pushed falls before")
        fresh, rewards, ended, cut, _ = environments.step(np.zeros((6, 1)))
        self.assertTrue((np.abs(fresh[3:, 1]) <= 0.1).all())
        np.testing.assert_array_equal(rewards[3:], 0.0)
        self.assertFalse(cut[3:].any())

    def test_a_batch_is_as_many_simulations(self) -> None:
        first = mooring.Simulation(line_tender(), posture="stowed", motion=[])
        names = ["slew.position", "telescope.velocity", "extension.effort"]
        batch = Batch(first, 3, names, ["slew.position", "telescope.velocity"])
        told = np.array([[0.0, 0.1], [0.1, 0.0], [0.2, -0.1]])
        batch.tell(told)
        batch.run(300, np.array([True, True, False]))
        read = batch.read()
        for k in range(2):
            one = mooring.Simulation(line_tender(), posture="stowed", motion=[])
            one.command(positions={"slew": told[k, 0]}, velocities={"telescope": told[k, 1]})
            one.step(300)
            state = one.state
            np.testing.assert_allclose(
                read[k],
                [
                    state.positions["slew"],
                    state.velocities["telescope"],
                    state.efforts["extension"],
                ],
                rtol=1e-12,
            )
        self.assertEqual(read[2, 0], first.state.positions["slew"])

    def test_what_makes_no_sense_is_refused(self) -> None:
        cases: list[tuple[Any, str]] = [
            (task(observations=["tilt.positoin"]), "did you mean 'tilt.position'"),
            (task(actions={"tilt.effort": None}), "no motor drives joint 'tilt'"),
            (task(actions={"slide.position": None}), "driven by effort"),
            (task(actions={"slide.effort": (1, 1)}), "bounds of action"),
            (task(start={"tilt": 0.1}), "known: slide.position"),
            (task(rate=5000), "times a second"),
            (task(observations=["gyro.temperature"]), "does not measure"),
        ]
        for wrong, words in cases:
            with self.assertRaisesRegex(ModelError, words):
                Environments(balancer(), wrong, 2)
        environments = Environments(balancer(), task(reward=lambda *_: 1.0), 2)
        environments.reset(seed=0)
        with self.assertRaisesRegex(ModelError, "one entry a copy"):
            environments.step(np.zeros((2, 1)))
        with self.assertRaisesRegex(ModelError, "finite"):
            environments.batch.tell(np.full((2, 1), np.nan))
        with self.assertRaises(KeyError):
            Seen(["a"], np.zeros((2, 1)), np.zeros(2))["b"]
        slow = balancer()
        slow.sensors["gyro"].latency = 0.01
        with self.assertRaisesRegex(ModelError, "has a latency"):
            Environments(slow, task(), 2)
