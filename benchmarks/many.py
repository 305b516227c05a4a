"""Scenes that grow, and what a call from Python costs."""

from __future__ import annotations

import time
from collections.abc import Callable

import numpy as np

import mooring
from benchmarks.mechanics import chain
from mooring import Ground, Scene, Simulation, dynamics
from mooring.demo import WALKER


def cpu(call: Callable[[], object]) -> float:
    """Processor seconds of one call."""
    began = time.process_time()
    call()
    return time.process_time() - began


def _boxes(places: list[tuple[float, float, float]]) -> Simulation:
    scene = Scene("boxes")
    scene.ground = Ground()
    for number, place in enumerate(places):
        scene.add_body(f"box_{number}", box=(0.2, 0.2, 0.2), mass=2.0, at=place)
    return Simulation(scene, rate=10, sleep=False, threads=1)


def growing() -> None:
    """Resting boxes, a pyramid that settles, and a chain: how a step grows with the scene."""
    spent = {}
    for count in (10, 30, 100, 300):
        side = int(np.ceil(np.sqrt(count)))
        simulation = _boxes([(0.5 * (k % side), 0.5 * (k // side), 0.1) for k in range(count)])
        simulation.step(20)
        spent[count] = cpu(lambda s=simulation: s.step(300)) / 300
    growth = np.log(spent[300] / spent[10]) / np.log(30)
    print(
        f"100 resting boxes: {1e3 * spent[100]:.2f} ms a step; from 10 to 300 as the power "
        f"{growth:.2f}"
    )
    levels = [
        (0.205 * (k + up / 2), 0.0, 0.1 + 0.2001 * up) for up in range(9) for k in range(9 - up)
    ]
    pyramid = _boxes(levels)
    print(
        f"a pyramid of {len(levels)} boxes while it settles: "
        f"{1e3 * cpu(lambda: pyramid.step(500)) / 500:.2f} ms a step"
    )
    steps = {}
    for joints in (10, 100):
        simulation = Simulation(chain(joints), contact=False, rate=10)
        simulation.step(100)
        steps[joints] = cpu(lambda s=simulation: s.step(2000))
    print(f"a chain of 100 joints against one of 10: {steps[100] / steps[10]:.1f} times")


def calls() -> None:
    """One state, one step, a controller: what Python pays."""
    tree = chain(7).tree()
    q, v, tau = np.random.default_rng(0).normal(size=(3, 7))
    count = 5000
    one = cpu(lambda: [dynamics.forward_dynamics(tree, q, v, tau) for _ in range(count)]) / count
    walker = mooring.read(WALKER.document)
    simulation = Simulation(walker, posture="standing", rate=10)
    simulation.step(500)
    step = cpu(lambda: [simulation.step(1) for _ in range(count)]) / count
    sensors = list(walker.sensors)[:2]

    def control(run: Simulation) -> None:
        for sensor in sensors:
            run.read(sensor)
        run.command(positions={run.driven[0]: 0.1})

    controlled = Simulation(walker, posture="standing", rate=10, controllers=[(control, 1000)])
    each = cpu(lambda: controlled.step(2000)) / 2000
    print(
        f"from Python: forward dynamics of 7 joints {1e6 * one:.0f} us, a step of the walker "
        f"{1e6 * step:.0f} us, with a controller that reads {len(sensors)} sensors "
        f"{1e6 * each:.0f} us"
    )
