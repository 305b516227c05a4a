"""Many bodies at once: a thousand poured on the ground, and what sleeps and wakes."""

import threading
import unittest

import numpy as np

import mooring
from mooring import Ground, Scene, Simulation
from mooring.demo import WALKER
from mooring.geometry import Array
from mooring.standard import STANDARD_GRAVITY
from tests.support import line_tender

_LOOSE = {"friction": 0.5, "rolling_friction": 0.02, "spinning_friction": 0.005}


def poured(count: int, seed: int = 3) -> Scene:
    """Boxes, balls, drums and capsules above each other in a loose lattice, turned anyhow."""
    random = np.random.default_rng(seed)
    scene = Scene("pile")
    scene.robot.add_material("gravel", density=1000.0, **_LOOSE)
    scene.ground = Ground(material="gravel")
    side = int(np.ceil(np.sqrt(count / 3)))
    for number in range(count):
        cell = np.array([number % side, number // side % side, number // side**2])
        spot = 0.3 * cell + random.uniform(-0.03, 0.03, 3) + (0, 0, 0.2)
        long, wide = random.uniform(0.1, 0.15), random.uniform(0.04, 0.08)
        shape = (
            {"box": tuple(random.uniform(0.1, 0.15, 3))},
            {"sphere": wide},
            {"cylinder": {"radius": wide, "length": long}},
            {"capsule": {"radius": wide, "length": long}},
        )[number % 4]
        scene.add_body(
            f"stone_{number}",
            mass=float(random.uniform(0.5, 3)),
            surface="gravel",
            at={"xyz": tuple(spot), "rpy": tuple(random.uniform(-3, 3, 3))},
            **shape,
        )
    return scene


def energies(simulation: Simulation) -> Array:
    """Mechanical energy, and that with what has been lost in contacts [J]."""
    table = simulation.recording.table
    held = table["energy.kinetic"] + table["energy.potential"]
    return np.array([held, held + table["energy.contact"]])


class Poured(unittest.TestCase):
    def test_a_thousand_bodies_come_to_rest_on_the_ground_that_carries_them(self) -> None:
        simulation = Simulation(poured(1000), rate=10, keep="1 s")
        weight = simulation.tree.arrays.mass.sum() * STANDARD_GRAVITY
        before, moving = np.inf, []
        for _ in range(5):
            simulation.step(seconds=1)
            now = energies(simulation)
            # Energy never grows, beyond the millionth that taking overlaps apart puts in.
            self.assertLess(now[0].max(), before + 1e-4 * weight)
            before = now[0, -1]
            moving.append(simulation.recording.table["energy.kinetic"].iloc[-1])
        self.assertLess(moving[-1], 1e-3 * moving[0])
        contacts = simulation.recording.contacts
        last = contacts[contacts["time"] == contacts["time"].max()]
        carried = last.loc[last["first"] == "ground", "fz"].sum()
        self.assertAlmostEqual(carried / weight, 1.0, delta=0.01)

    def test_runs_are_the_same_bytes_with_one_core_or_more(self) -> None:
        runs = []
        for threads in (1, 1, 2, 5):
            simulation = Simulation(poured(90), rate=10, threads=threads)
            simulation.step(seconds=0.6)
            runs.append(simulation.native.q.tobytes())
        self.assertEqual(len(set(runs)), 1)


class Kept(unittest.TestCase):
    def test_what_goes_on_from_a_saved_state_is_the_uninterrupted_run(self) -> None:
        walker = mooring.read(WALKER.document)
        for make in (
            lambda: Simulation(poured(30), rate=50),
            lambda: Simulation(walker, posture="standing", rate=50),
            lambda: Simulation(line_tender(), motion="lay_line", rate=50),
        ):
            whole, other = make(), make()
            whole.step(400)
            saved = whole.native.save()
            whole.step(300)
            # Into a simulation that has been somewhere else.
            other.step(50)
            other.native.restore(saved)
            other.step(300)
            for name in ("q", "v", "effort", "integral", "steps"):
                one, two = (np.array(getattr(s.native, name)) for s in (whole, other))
                self.assertEqual(one.tobytes(), two.tobytes(), name)
            self.assertEqual(whole.recorder.forces().tobytes(), other.recorder.forces().tobytes())

    def test_a_second_thread_is_told_and_nothing_breaks(self) -> None:
        simulation = Simulation(poured(200), rate=10, threads=1)
        said: list[str] = []

        def step() -> None:
            for _ in range(200):
                try:
                    simulation.native.run(5)
                except RuntimeError as error:
                    said.append(str(error))

        others = [threading.Thread(target=step) for _ in range(2)]
        for other in others:
            other.start()
        for other in others:
            other.join()
        self.assertTrue(said and all("stepped in another thread" in text for text in said))
        self.assertTrue(np.isfinite(simulation.native.q).all())


class Sleeping(unittest.TestCase):
    def boxes(self, **options: bool) -> Simulation:
        scene = Scene("quay")
        scene.ground = Ground()
        for number in range(3):
            scene.add_body(f"crate_{number}", box=(0.4, 0.4, 0.4), mass=10.0,
                           at=(0.0, 0.0, 0.2 + 0.4 * number))  # fmt: skip
        scene.add_body("far", box=(0.4, 0.4, 0.4), mass=10.0, at=(3.0, 0.0, 0.2))
        scene.add_body("ball", sphere=0.1, mass=5.0, at=(-3.0, 0.0, 1.1))
        return Simulation(scene, rate=100, **options)

    def asleep(self, simulation: Simulation) -> list[str]:
        awake = simulation.native.awake[1:]
        return [n for n, a in zip(simulation.tree.links[1:], awake, strict=True) if not a]

    def test_what_rests_sleeps_and_wakes_by_touch_push_and_bond(self) -> None:
        simulation = self.boxes()
        simulation.step(seconds=0.8)
        stack = ["crate_0", "crate_1", "crate_2"]
        self.assertEqual(self.asleep(simulation), [*stack, "far"])
        forces = simulation.recording.contacts
        last = forces[forces["time"] == forces["time"].max()]
        held = last[(last["first"] == "ground") & (last["second"] == "crate_0")]["fz"].sum()
        self.assertAlmostEqual(held, 30 * STANDARD_GRAVITY, delta=0.01)
        simulation.push("crate_2", (0.5, 0, 0))
        simulation.step(1)
        self.assertEqual(self.asleep(simulation), ["far"])
        simulation.push("crate_2", (0, 0, 0))
        simulation.attach("far", "crate_0")
        self.assertEqual(self.asleep(simulation), [])
        simulation.release("far", "crate_0")
        simulation.step(seconds=1.0)
        self.assertEqual(self.asleep(simulation), [*stack, "far", "ball"])
        # A ball that is thrown at the stack wakes it.
        simulation.push("ball", (10_000, 0, 0))
        simulation.step(10)
        simulation.push("ball", (0, 0, 0))
        self.assertEqual(self.asleep(simulation), [*stack, "far"])
        simulation.step(seconds=0.3)
        self.assertNotIn("crate_1", self.asleep(simulation))

    def test_it_may_be_told_not_to(self) -> None:
        simulation = self.boxes(sleep=False)
        simulation.step(seconds=1.0)
        self.assertEqual(self.asleep(simulation), [])
