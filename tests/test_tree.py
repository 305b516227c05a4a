"""Kinematics and dynamics of open trees against independent formulations."""

import unittest

import numpy as np
from scipy.spatial.transform import Rotation

from mooring import Robot, dynamics, kinematics
from mooring.errors import InputError, ModelError, UnsoundRobotError
from mooring.geometry import Array
from tests.support import line_tender, pendulum, random_robot

GRAVITY = np.array([0.3, -1.1, -9.7])
SEEDS = range(6)


def poses_by_hand(robot: Robot, q: dict[str, float]) -> dict[str, Array]:
    """World poses by walking the description with SciPy's rotations, not the compiled tree."""
    poses = {"link_0": np.eye(4)}
    for joint in robot.joints.values():
        own = np.eye(4)
        value = q.get(joint.name, 0.0)
        if joint.type == "prismatic":
            own[:3, 3] = value * np.array(joint.axis)
        elif joint.moves:
            own[:3, :3] = Rotation.from_rotvec(value * np.array(joint.axis)).as_matrix()
        poses[joint.child] = poses[joint.parent] @ joint.at.matrix @ own
    return poses


class OpenTrees(unittest.TestCase):
    def states(self, seed: int) -> tuple[Robot, object, Array, Array, Array]:
        robot = random_robot(seed)
        tree = robot.tree()
        q, v, a = np.random.default_rng(100 + seed).normal(size=(3, len(tree.coordinates)))
        return robot, tree, q, v, a

    def test_poses_agree_with_composing_them_by_hand(self) -> None:
        for seed in SEEDS:
            robot, tree, q, _, _ = self.states(seed)
            poses = kinematics.link_poses(tree, q)
            expected = poses_by_hand(robot, dict(zip(tree.coordinates, q, strict=True)))
            for name, pose in zip(tree.links, poses, strict=True):
                np.testing.assert_allclose(pose, expected[name], atol=1e-12)

    def test_jacobians_are_the_derivatives_of_poses(self) -> None:
        step = 1e-6
        for seed in SEEDS:
            robot, tree, q, _, _ = self.states(seed)
            link, point = list(robot.links)[-1], np.array([0.3, -0.2, 0.5])
            jacobian = kinematics.jacobian(tree, q, link, point)
            for k in range(len(q)):
                shift = step * np.eye(len(q))[k]
                ahead, behind = kinematics.link_poses(tree, [q + shift, q - shift])[
                    :, tree.link(link)
                ]
                moved = (ahead - behind) @ np.append(point, 1) / (2 * step)
                np.testing.assert_allclose(jacobian[3:, k], moved[:3], atol=1e-7)
                turn = Rotation.from_matrix(ahead[:3, :3] @ behind[:3, :3].T).as_rotvec()
                np.testing.assert_allclose(jacobian[:3, k], turn / (2 * step), atol=1e-7)

    def test_the_mass_matrix_is_the_sum_over_bodies(self) -> None:
        for seed in SEEDS:
            _, tree, q, _, _ = self.states(seed)
            expected = np.zeros((len(q), len(q)))
            poses = kinematics.link_poses(tree, q)
            for number, name in enumerate(tree.links):
                j = kinematics.jacobian(tree, q, name, tree.arrays.centre[number])
                turn = poses[number, :3, :3]
                tensor = turn @ tree.arrays.tensor[number] @ turn.T
                expected += j[:3].T @ tensor @ j[:3] + tree.arrays.mass[number] * j[3:].T @ j[3:]
            np.testing.assert_allclose(dynamics.mass_matrix(tree, q), expected, atol=1e-11)

    def test_inverse_dynamics_agrees_with_lagranges_equations(self) -> None:
        for seed in SEEDS:
            _, tree, q, v, a = self.states(seed)

            def lagrangian(q: Array, v: Array, tree: object = tree) -> float:
                # Energies body by body, from poses and Jacobians alone.
                total = 0.0
                poses = kinematics.link_poses(tree, q)
                for number, name in enumerate(tree.links):
                    centre, mass = tree.arrays.centre[number], tree.arrays.mass[number]
                    twist = kinematics.jacobian(tree, q, name, centre) @ v
                    local = poses[number, :3, :3].T @ twist[:3]
                    total += 0.5 * mass * twist[3:] @ twist[3:]
                    total += 0.5 * local @ tree.arrays.tensor[number] @ local
                    total += mass * GRAVITY @ (poses[number] @ np.append(centre, 1))[:3]
                return float(total)

            h = 1e-4
            unit = np.eye(len(q))
            tau = dynamics.inverse_dynamics(tree, q, v, a, GRAVITY)
            for k in (0, len(q) - 1):

                def momentum(t: float, k: int = k) -> float:
                    at_q, at_v = q + t * v + t * t / 2 * a, v + t * a
                    return (
                        lagrangian(at_q, at_v + h * unit[k]) - lagrangian(at_q, at_v - h * unit[k])
                    ) / (2 * h)

                expected = (momentum(h) - momentum(-h)) / (2 * h) - (
                    lagrangian(q + h * unit[k], v) - lagrangian(q - h * unit[k], v)
                ) / (2 * h)
                self.assertAlmostEqual(tau[k], expected, delta=2e-4 * max(1, abs(expected)))

    def test_forward_dynamics_undoes_inverse_dynamics_and_solves_the_equation_of_motion(
        self,
    ) -> None:
        for seed in SEEDS:
            _, tree, q, v, a = self.states(seed)
            tau = dynamics.inverse_dynamics(tree, q, v, a, GRAVITY)
            np.testing.assert_allclose(
                dynamics.forward_dynamics(tree, q, v, tau, GRAVITY), a, atol=1e-9
            )
            bias = dynamics.inverse_dynamics(tree, q, v, 0 * a, GRAVITY)
            np.testing.assert_allclose(dynamics.mass_matrix(tree, q) @ a + bias, tau, atol=1e-10)

    def test_a_batch_is_the_same_as_one_by_one(self) -> None:
        tree = line_tender().tree()
        q, v, tau = np.random.default_rng(5).normal(size=(3, 2, 3, len(tree.coordinates)))
        a = dynamics.forward_dynamics(tree, q, v, tau)
        poses = kinematics.link_poses(tree, q)
        self.assertEqual(poses.shape, (2, 3, 11, 4, 4))
        for i in range(2):
            for j in range(3):
                one = dynamics.forward_dynamics(tree, q[i, j], v[i, j], tau[i, j])
                np.testing.assert_array_equal(a[i, j], one)
        np.testing.assert_array_equal(
            dynamics.forward_dynamics(tree, q, v[0, 0], tau).shape, q.shape
        )

    def test_wrong_states_are_refused_in_words(self) -> None:
        tree = pendulum().tree()
        for q, words in (([0, 0], "one value for each of: swing"), ([np.nan], "not finite")):
            with self.assertRaisesRegex(InputError, words):
                dynamics.mass_matrix(tree, q)
        with self.assertRaisesRegex(
            ModelError, "no link or frame is called 'bobb'; did you mean 'bob'"
        ):
            kinematics.jacobian(tree, [0], "bobb")
        bare = Robot("bare")
        bare.add_link("a")
        bare.add_link("b")
        bare.add_joint("j", "continuous", parent="a", child="b")
        with self.assertRaisesRegex(UnsoundRobotError, "nothing that has mass"):
            dynamics.forward_dynamics(bare.tree(), [0], [0], [1])


class Loops(unittest.TestCase):
    def test_the_boom_rises_with_its_cylinder_as_the_triangle_says(self) -> None:
        # Pins of the drawing, from the boom's pivot: the barrel's eye and the rod's eye.
        robot = line_tender()
        eye, rod = np.array([0.23, -1.05]), np.array([0.9, -0.17])
        neutral = np.linalg.norm(rod - eye)
        for luff in np.radians([-4, 0, 10, 33, 52]):
            c, s = np.cos(luff), np.sin(luff)
            raised = np.array([c * rod[0] - s * rod[1], s * rod[0] + c * rod[1]])
            extension = np.linalg.norm(raised - eye) - neutral
            by_boom = kinematics.configuration(robot, {"luff": luff})
            by_rod = kinematics.configuration(robot, {"extension": extension})
            tree = robot.tree()
            self.assertAlmostEqual(by_boom[tree.coordinate("extension")], extension, places=9)
            self.assertAlmostEqual(by_rod[tree.coordinate("luff")], luff, places=8)

    def test_followers_follow(self) -> None:
        robot = line_tender()
        q = kinematics.configuration(robot, {"port_jaw_hinge": "20 deg"})
        self.assertAlmostEqual(q[robot.tree().coordinate("starboard_jaw_hinge")], -np.radians(20))
