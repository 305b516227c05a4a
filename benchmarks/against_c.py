"""Forward dynamics against the same algorithm in plain C, compiled here with -O3."""

from __future__ import annotations

import shutil
import subprocess
import tempfile
from pathlib import Path

import numpy as np

from benchmarks.mechanics import chain
from benchmarks.timing import best_of
from mooring import dynamics
from mooring.tree import Tree

_STATES, _TIMES = 2000, 7
_GRAVITY = np.array([0.0, 0.0, -9.80665])


def forward_dynamics_against_c() -> None:
    """Ratios for chains of 7, 30 and 100 joints; first that both say the same."""
    compiler = shutil.which("cc") or shutil.which("gcc")
    if compiler is None:
        print("forward dynamics against C: there is no C compiler here")
        return
    with tempfile.TemporaryDirectory() as folder:
        program = Path(folder) / "articulated"
        source = Path(__file__).with_name("articulated.c")
        subprocess.run([compiler, "-O3", "-o", program, source, "-lm"], check=True)
        for joints in (7, 30, 100):
            tree = chain(joints).tree()
            q, v, tau = np.random.default_rng(0).normal(size=(3, _STATES, joints))
            theirs, there = _in_c(program, tree, q, v, tau)
            ours = dynamics.forward_dynamics(tree, q, v, tau, _GRAVITY)
            scale = np.abs(theirs).max()
            assert np.abs(ours - theirs).max() < 1e-8 * scale, "the two disagree"
            here = best_of(lambda: dynamics.forward_dynamics(tree, q, v, tau, _GRAVITY), _TIMES)
            print(
                f"forward dynamics, {joints:>3} joints: {here / there:.2f} of plain C with -O3 "
                f"({1e9 * here / _STATES / joints:.0f} and {1e9 * there / _STATES / joints:.0f} ns "
                "a joint)"
            )


def _in_c(
    program: Path, tree: Tree, q: np.ndarray, v: np.ndarray, tau: np.ndarray
) -> tuple[np.ndarray, float]:
    arrays = tree.arrays
    count = len(arrays.parent)
    bodies = np.hstack(
        [arrays.rotation.reshape(count, 9), arrays.translation, arrays.axis,
         arrays.mass[:, None], arrays.centre, arrays.tensor.reshape(count, 9)]
    )  # fmt: skip
    data = b"".join(
        [np.array([count, len(q), _TIMES], dtype=np.int64).tobytes(), arrays.parent.tobytes(),
         bodies.tobytes(), _GRAVITY.tobytes(), q.tobytes(), v.tobytes(), tau.tobytes()]
    )  # fmt: skip
    done = subprocess.run([program], input=data, capture_output=True, check=True)
    return np.frombuffer(done.stdout).reshape(q.shape), float(done.stderr)
