"""The small solvers below everything else, against brute force and against NumPy."""

import itertools
import unittest

import numpy as np

from mooring import dynamics
from mooring.compiling import entry
from mooring.geometry import (
    apply,
    frame_along,
    inverse,
    placement,
    rotation_about,
    rotation_from_rpy,
    rpy_from_rotation,
)
from mooring.simulation.stepping.kernels.solve import eliminate, put_in, restore, sweep
from mooring.tree.kernels.branches import factorise_branches, solve_lower, solve_upper
from mooring.tree.kernels.dense import factorise, solve_factorised
from tests.support import random_robot


@entry
def call_boxed(a, b, equations, lower, upper, x):  # type: ignore[no-untyped-def]
    n = b.shape[0]
    none = np.zeros(0, dtype=np.int64)
    answer, w = np.zeros((n, max(1, equations))), np.zeros(n)
    eliminate(a, equations, n, answer)
    put_in(a, b, equations, n)
    sweep(a, b, equations, n, n, lower, upper, none, answer, 0, x, w, 20000, 1e-14)
    restore(b, equations, n, answer, x)


@entry
def call_dense(a, x):  # type: ignore[no-untyped-def]
    factorise(a)
    solve_factorised(a, x)


@entry
def call_branches(before, h, x):  # type: ignore[no-untyped-def]
    factorise_branches(before, h)
    solve_upper(before, h, x)
    solve_lower(before, h, x)


def boxed_by_enumeration(a, b, lower, upper):  # type: ignore[no-untyped-def]
    """Try every combination of free, lower and upper until one answers all conditions."""
    n = len(b)
    for guess in itertools.product((0, 1, 2), repeat=n):
        x = np.where(np.array(guess) == 1, lower, np.where(np.array(guess) == 2, upper, 0.0))
        if not np.isfinite(x).all():
            continue
        free = np.array(guess) == 0
        if free.any():
            rest = b[free] + a[np.ix_(free, ~free)] @ x[~free]
            x[free] = -np.linalg.solve(a[np.ix_(free, free)], rest)
        w = a @ x + b
        inside = (x >= lower - 1e-9).all() and (x <= upper + 1e-9).all()
        pushed = all(
            (g == 0) or (g == 1 and w[i] >= -1e-9) or (g == 2 and w[i] <= 1e-9)
            for i, g in enumerate(guess)
        )
        if inside and pushed:
            return x
    raise AssertionError("there is always an answer")


class Boxed(unittest.TestCase):
    def test_answers_are_those_of_trying_everything(self) -> None:
        random = np.random.default_rng(11)
        for _ in range(80):
            n = int(random.integers(1, 6))
            equations = int(random.integers(0, n + 1))
            root = random.normal(size=(n, n))
            a = root @ root.T + 0.1 * np.eye(n)
            b = random.normal(size=n)
            lower = np.where(random.random(n) < 0.3, -np.inf, -random.random(n))
            upper = np.where(random.random(n) < 0.3, np.inf, random.random(n))
            # Equations have no bounds.
            lower[:equations], upper[:equations] = -np.inf, np.inf
            x = np.zeros(n)
            call_boxed(a.copy(), b.copy(), equations, lower, upper, x)
            np.testing.assert_allclose(x, boxed_by_enumeration(a, b, lower, upper), atol=1e-8)


class Dense(unittest.TestCase):
    def test_cholesky_agrees_with_numpy(self) -> None:
        random = np.random.default_rng(13)
        for n in (1, 2, 7, 24):
            root = random.normal(size=(n, n))
            a, b = root @ root.T + np.eye(n), random.normal(size=n)
            x = b.copy()
            call_dense(a.copy(), x)
            np.testing.assert_allclose(x, np.linalg.solve(a, b), atol=1e-9)

    def test_systems_as_sparse_as_a_tree_agree_too(self) -> None:
        for seed in range(4):
            robot = random_robot(seed, moving=9)
            robot.base = "floating"
            tree = robot.tree()
            h = dynamics.mass_matrix(tree, tree.neutral())
            x = np.random.default_rng(seed).normal(size=len(h))
            expected = np.linalg.solve(h, x)
            call_branches(tree.arrays.before, h.copy(), x)
            np.testing.assert_allclose(x, expected, atol=1e-9 * np.abs(expected).max())

    def test_repeated_equations_with_a_little_softness_stay_finite(self) -> None:
        row = np.array([[1.0, 2.0]])
        a = np.vstack([row, row]) @ np.vstack([row, row]).T + 1e-11 * np.eye(2)
        x = np.array([5.0, 5.0])
        call_dense(a.copy(), x)
        self.assertAlmostEqual(float(x.sum()), 1.0, places=6)


class Geometry(unittest.TestCase):
    def test_rotations_agree_with_each_other(self) -> None:
        random = np.random.default_rng(14)
        for rpy in random.uniform(-3, 3, size=(50, 3)):
            turn = rotation_from_rpy(rpy)
            yaw, pitch, roll = (
                rotation_about(axis, angle)
                for axis, angle in zip(np.eye(3)[::-1], rpy[::-1], strict=True)
            )
            np.testing.assert_allclose(turn, yaw @ pitch @ roll, atol=1e-12)
            np.testing.assert_allclose(rotation_from_rpy(rpy_from_rotation(turn)), turn, atol=1e-12)

    def test_placements_undo_and_frames_point(self) -> None:
        random = np.random.default_rng(15)
        place = placement(random.normal(size=3), rotation_from_rpy(random.normal(size=3)))
        points = random.normal(size=(9, 3))
        np.testing.assert_allclose(apply(inverse(place), apply(place, points)), points, atol=1e-12)
        for axis in [*np.eye(3), *-np.eye(3), *random.normal(size=(20, 3))]:
            frame = frame_along(axis)
            np.testing.assert_allclose(frame[:, 2], axis / np.linalg.norm(axis), atol=1e-12)
            np.testing.assert_allclose(frame @ frame.T, np.eye(3), atol=1e-12)
            self.assertGreater(np.linalg.det(frame), 0)
