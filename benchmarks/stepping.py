"""Simulation: contact, batches, starting, memory."""

from __future__ import annotations

import os
import subprocess
import sys
import tempfile
import time
from pathlib import Path

import mooring
from benchmarks.timing import best_of
from mooring import Simulation
from mooring.demo import LINE_TENDER, WALKER

_COPIES = 100


def walking() -> None:
    """The walker on six feet, and a hundred of them at once."""
    walker = mooring.read(WALKER.document)
    simulation = Simulation(walker, posture="standing", rate=10)
    simulation.step(seconds=1)
    spent = best_of(lambda: simulation.step(seconds=2), 5) / 2
    print(f"the walker, six feet down, 1 ms steps: {1 / spent:.0f} times real time on one core")
    began = time.perf_counter()
    mooring.simulate(walker, posture="standing", rate=10, copies=_COPIES, seconds=5)
    each = (time.perf_counter() - began) / 5 / _COPIES
    print(
        f"{_COPIES} walkers on {os.cpu_count()} cores: {1 / each:.0f} times real time each and "
        f"core-shared, {spent / each:.1f} times one alone"
    )


def memory() -> None:
    """An endless run keeps what it is told to, and no more."""
    walker = mooring.read(WALKER.document)
    simulation = Simulation(walker, posture="standing", keep="1 s")
    sizes = []
    for _ in range(2):
        simulation.step(seconds=20)
        sizes.append(_resident())
    print(f"memory after 40 s of an endless run: {sizes[1] / sizes[0]:.3f} of that after 20 s")


def _resident() -> float:
    return float(Path("/proc/self/statm").read_text().split()[1])


def first_and_later_runs() -> None:
    """From nothing in the caches to the first step, and the same again."""
    script = (
        "import time, sys; began = time.perf_counter(); import mooring; from mooring import demo;"
        f"robot = mooring.read({str(LINE_TENDER.document)!r});"
        "simulation = mooring.Simulation(robot, motion='lay_line'); simulation.step(1);"
        "print(time.perf_counter() - began)"
    )
    with tempfile.TemporaryDirectory() as folder:
        seconds = []
        for _ in range(2):
            done = subprocess.run(
                [sys.executable, "-c", script], capture_output=True, text=True, check=True,
                env={**os.environ, "MOORING_CACHE_DIR": folder},
            )  # fmt: skip
            seconds.append(float(done.stdout))
    print(
        f"to the tender's first step: {seconds[0]:.1f} s with nothing in the caches, "
        f"{seconds[1]:.1f} s later"
    )
