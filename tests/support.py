"""What several tests need."""

from __future__ import annotations

import os
import subprocess
import sys
import tempfile
import unittest
from collections.abc import Mapping
from functools import cache
from pathlib import Path

import numpy as np

import mooring
from mooring.demo import LINE_TENDER
from mooring.model import Robot

ROOT = Path(__file__).parents[1]


@cache
def line_tender() -> Robot:
    """The demo machine; tests must not change it."""
    return mooring.read(LINE_TENDER.document)


def run_mooring(
    *arguments: str | Path,
    timeout: float = 300,
    cwd: Path | None = None,
    env: Mapping[str, str] | None = None,
) -> subprocess.CompletedProcess[str]:
    """The command line in a process of its own."""
    command = [sys.executable, "-c", "from mooring.cli import main; main()", *map(str, arguments)]
    return subprocess.run(
        command,
        capture_output=True,
        text=True,
        timeout=timeout,
        check=False,
        cwd=cwd,
        env={**os.environ, **(env or {})},
    )


def folder_for(test: unittest.TestCase | type[unittest.TestCase]) -> Path:
    """A temporary folder that goes away with the test, or with all tests of a class."""
    folder = tempfile.TemporaryDirectory()
    (test.addClassCleanup if isinstance(test, type) else test.addCleanup)(folder.cleanup)
    return Path(folder.name)


def tracked_files() -> set[str]:
    """What belongs to the project; skips the test where it is no clone."""
    if not (ROOT / ".git").exists():
        raise unittest.SkipTest("these files are no clone, so nobody knows which belong to it")
    asked = ["git", "ls-files"]
    done = subprocess.run(asked, cwd=ROOT, capture_output=True, text=True, check=True)
    return set(done.stdout.split())


def random_robot(seed: int, moving: int = 6, fixed: int = 2) -> Robot:
    """A branched robot with random geometry and mass properties."""
    random = np.random.default_rng(seed)
    robot = Robot(f"random_{seed}")
    robot.add_link("link_0", mass=1.0, inertia=(1, 1, 1))
    kinds = ["revolute", "prismatic", "continuous"]
    types = [kinds[random.integers(3)] for _ in range(moving)] + ["fixed"] * fixed
    for number, kind in enumerate(random.permutation(types), start=1):
        root = random.normal(size=(3, 3))
        # A sum of squares over points: the inertia of a body that can exist.
        second = root @ root.T
        tensor = np.trace(second) * np.eye(3) - second
        robot.add_link(
            f"link_{number}",
            mass=random.uniform(0.5, 5),
            centre=random.normal(size=3),
            inertia=tensor[[0, 1, 2, 0, 0, 1], [0, 1, 2, 1, 2, 2]],
        )
        robot.add_joint(
            f"joint_{number}",
            str(kind),
            parent=f"link_{random.integers(number)}",
            child=f"link_{number}",
            at={"xyz": random.normal(size=3), "rpy": random.uniform(-3, 3, size=3)},
            axis=random.normal(size=3),
            velocity=random.uniform(1, 3),
            effort=random.uniform(1, 3),
            **({} if kind == "continuous" else {"lower": -2, "upper": random.uniform(1, 2)}),
        )
    return robot


def pendulum(length: float = 1.0, mass: float = 2.0, **joint: object) -> Robot:
    """A point mass on a rod that turns about y; hangs straight down at zero."""
    robot = Robot("pendulum")
    robot.add_link("post")
    robot.add_link("bob", mass=mass, centre=(0, 0, -length), inertia=(0, 0, 0))
    robot.add_joint("swing", "continuous", parent="post", child="bob", axis="y", **joint)  # type: ignore[arg-type]
    return robot


def written(test: unittest.TestCase, text: str, name: str = "robot.yaml") -> Path:
    """A file with a text, in a folder that goes when the test ends."""
    file = folder_for(test) / name
    file.write_text(text)
    return file
