"""The small solvers below everything else, against brute force and against NumPy."""

import itertools
import os
import unittest
from unittest import mock

import numpy as np
from scipy.spatial.transform import Rotation

from mooring import Robot, Simulation, dynamics, kinematics
from mooring.errors import InputError, RunError
from mooring.geometry import (
    Array,
    apply,
    frame_along,
    inverse,
    placement,
    rotation_about,
    rotation_from_rpy,
    rpy_from_rotation,
)
from mooring.tree import Tree
from mooring.tree.arrays import FLOATING
from tests.support import pendulum, random_robot


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
            if np.linalg.matrix_rank(a[np.ix_(free, free)]) < free.sum():
                continue  # two of them are of one joint
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


class Steps(unittest.TestCase):
    """One step of a machine with friction, stops and couplings, against trying everything."""

    STEP = 1e-3

    def machine(self, seed: int) -> tuple[Robot, dict[str, float], dict[str, float]]:
        random = np.random.default_rng(seed)
        robot = random_robot(seed, moving=5, fixed=1)
        robot.base = "floating" if seed % 3 == 0 else "fixed"
        names = [name for name, joint in robot.joints.items() if joint.type != "fixed"]
        posture, speeds = {}, {}
        for name in names:
            joint = robot.joints[name]
            posture[name], speeds[name] = random.uniform(-0.5, 0.5), random.normal()
            if random.random() < 0.5:
                joint.friction = float(random.uniform(1, 40))
            if joint.type != "continuous" and random.random() < 0.6:
                # At a stop, and mostly running into it.
                stop = joint.limits.lower if speeds[name] < 0 else joint.limits.upper
                posture[name] = float(stop)
        leader, follower = names[0], names[-1]
        robot.add_coupling(follower, follows=leader, ratio=0.1)
        posture.pop(follower)
        return robot, posture, speeds

    def test_it_is_the_one_that_answers_all_conditions(self) -> None:
        bounded = 0
        for seed in range(24):
            robot, posture, speeds = self.machine(seed)
            try:
                simulation = Simulation(
                    robot, posture=posture, velocities=speeds, step=self.STEP, gravity=(0, 0, 0),
                    contact=False, powered=False,
                )  # fmt: skip
            except RunError:
                continue
            tree, v = simulation.tree, simulation.native.v.copy()
            q, v = self.half_way(tree, simulation.native.q.copy(), v)
            middle = v
            for _ in range(5):
                # The coupling alone has a say in the velocities about the middle.
                rows, goals, lower, upper = self.conditions(
                    tree, q, free := self.free(tree, q, v, middle)
                )
                response = np.linalg.solve(dynamics.mass_matrix(tree, q), rows.T)
                tied = response[:, :1] @ ((rows[:1] @ free) / (rows[:1] @ response[:, :1]).ravel())
                middle = 0.5 * (v + free - tied)
            bounded += len(rows) - 1
            x = boxed_by_enumeration(rows @ response, rows @ free - goals, lower, upper)
            simulation.step(1)
            # What floats is told in its axes as they have become.
            moved = slice(6 if tree.arrays.kind[0] == FLOATING else 0, None)
            np.testing.assert_allclose(
                simulation.native.v[moved], (free + response @ x)[moved], atol=3e-6
            )
        self.assertGreater(bounded, 40)

    def half_way(self, tree: Tree, q: Array, v: Array) -> tuple[Array, Array]:
        """Where half a step leads, and the same velocities as told there."""
        q, v, way = q.copy(), v.copy(), 0.5 * self.STEP
        jointed = tree.arrays.position >= 0
        q[tree.arrays.position[jointed]] += way * v[jointed]
        if tree.arrays.kind[0] == FLOATING:
            turn = Rotation.from_rotvec(way * v[:3])
            start = Rotation.from_quat(q[3:7])
            q[:3] += way * start.apply(v[3:6])
            q[3:7] = (start * turn).as_quat()
            v[3:6] = turn.inv().apply(v[3:6])
        return q, v

    def free(self, tree: Tree, q: Array, v: Array, middle: Array) -> Array:
        rates = dynamics.forward_dynamics(tree, q, middle, np.zeros_like(v), (0, 0, 0))
        free = v + self.STEP * rates
        if tree.arrays.kind[0] == FLOATING:
            free[3:6] += self.STEP * np.cross(middle[:3], middle[3:6])
        return np.asarray(free)

    def conditions(self, tree: Tree, q: Array, free: Array) -> tuple[Array, Array, Array, Array]:
        """Rows, the speeds wanted along them, and bounds of their impulses."""
        own = np.eye(len(free))
        loops, joints, h = tree.loops, tree.joints, self.STEP
        rows = [own[f] - r * own[k]
                for f, k, r in zip(loops.follower, loops.leader, loops.ratio, strict=True)]  # fmt: skip
        goals, bounds = [0.0] * len(rows), [(-np.inf, np.inf)] * len(rows)
        for c, at in enumerate(tree.arrays.position):
            if joints.friction[c] > 0:
                rows.append(own[c])
                goals.append(0.0)
                bounds.append((-h * joints.friction[c], h * joints.friction[c]))
            for sign, stop in ((1, joints.lower[c]), (-1, joints.upper[c])):
                left = sign * (q[at] - stop)
                if at >= 0 and left < h * (2 * abs(free[c]) + 1):
                    rows.append(sign * own[c])
                    goals.append(min(0.0, -left) / h)
                    bounds.append((0.0, np.inf))
        lower, upper = np.array(bounds).T
        return np.array(rows), np.array(goals), lower, upper


class Lanes(unittest.TestCase):
    def test_many_states_at_once_are_the_same_bytes_as_one_at_a_time(self) -> None:
        random = np.random.default_rng(13)
        for seed in range(4):
            robot = random_robot(seed, moving=9)
            robot.base = "floating"
            tree = robot.tree()
            q = np.tile(tree.neutral(), (7, 1))
            q[:, 7:] = random.normal(size=q[:, 7:].shape) * 10 ** random.uniform(-3, 7)
            v, tau = random.normal(size=(2, 7, len(tree.freedoms)))
            for call in (dynamics.forward_dynamics, dynamics.inverse_dynamics):
                one = np.array([call(tree, *state) for state in zip(q, v, tau, strict=True)])
                self.assertEqual(call(tree, q, v, tau).tobytes(), one.tobytes())
            # Enough of them to be shared among threads.
            many = [np.tile(state, (501, 1)) for state in (q, v, tau)]
            answers = set()
            for threads in ("1", "2", "7"):
                with mock.patch.dict(os.environ, MOORING_THREADS=threads):
                    answers.add(dynamics.forward_dynamics(tree, *many).tobytes())
            self.assertEqual(len(answers), 1)
        with (
            mock.patch.dict(os.environ, MOORING_THREADS="many"),
            self.assertRaisesRegex(InputError, "MOORING_THREADS is a number of threads"),
        ):
            dynamics.forward_dynamics(tree, q, v, tau)

    def test_a_rotation_of_any_size_is_one_to_rounding(self) -> None:
        tree = pendulum().tree()
        angles = np.concatenate([
            np.linspace(-30, 30, 4001), 10 ** np.linspace(-9, 12, 400), np.pi * np.arange(-40, 40) / 4
        ])  # fmt: skip
        turns = kinematics.link_poses(tree, angles[:, None])[:, 1]
        np.testing.assert_allclose(turns[:, 0, 0], np.cos(angles), atol=3e-16)
        np.testing.assert_allclose(turns[:, 0, 2], np.sin(angles), atol=3e-16)

    def test_far_from_the_origin_nothing_is_lost(self) -> None:
        robot = random_robot(5, moving=9)
        robot.base = "floating"
        tree = robot.tree()
        q, (v, tau) = tree.neutral(), np.random.default_rng(1).normal(size=(2, len(tree.freedoms)))
        near = dynamics.forward_dynamics(tree, q, v, tau)
        q[:3] = (3e5, -2e5, 1e5)
        np.testing.assert_allclose(dynamics.forward_dynamics(tree, q, v, tau), near, rtol=1e-8)


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
