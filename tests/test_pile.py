"""Many bodies at once: a thousand poured on the ground, and what sleeps and wakes."""

import unittest

import numpy as np

from mooring import Ground, Scene, Simulation
from mooring.geometry import Array
from mooring.standard import STANDARD_GRAVITY

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
