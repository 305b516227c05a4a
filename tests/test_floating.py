"""What floats: against the same machine on six simple joints, and in free flight."""

import unittest

import numpy as np
from scipy.spatial.transform import Rotation

import mooring
from mooring import Robot, dynamics, kinematics
from mooring.errors import InputError, ModelError
from mooring.geometry import Array
from tests.support import random_robot

SIX = ("along_x", "along_y", "along_z", "yaw", "pitch", "roll")
GRAVITY = (0.4, -0.7, -9.6)


def on_six_joints(robot: Robot, floats: str) -> Robot:
    """The same robot with simple joints instead of a floating one, or of a floating base."""
    result = Robot("six")
    if floats == "base":
        result.add_link("world")
        parent, child, place = "world", "link_0", None
    else:
        joint = robot.joints[floats]
        parent, child, place = joint.parent, joint.child, None
    result.links.update(robot.links)
    for number, name in enumerate(SIX):
        last = number == len(SIX) - 1
        if not last:
            result.add_link(f"carrier_{number}", carrier=True)
        result.add_joint(
            f"{floats}_{name}", "prismatic" if number < 3 else "continuous",
            parent=parent, child=child if last else f"carrier_{number}", at=place,
            axis=("x", "y", "z", "z", "y", "x")[number],
        )  # fmt: skip
        parent, place = f"carrier_{number}", None
    result.joints.update({n: j for n, j in robot.joints.items() if n != floats})
    return result


class AgainstSimpleJoints(unittest.TestCase):
    def pair(self, floats: str) -> tuple[Robot, Robot]:
        robot = random_robot(7)
        if floats == "base":
            robot.base = "floating"
        else:
            old = robot.joints[floats]
            del robot.joints[floats]
            robot.add_joint(floats, "floating", parent=old.parent, child=old.child, at=old.at)
        return robot, on_six_joints(robot, floats)

    def test_a_floating_base(self) -> None:
        self.agree("base")

    def test_a_floating_joint(self) -> None:
        self.agree("joint_4")

    def agree(self, floats: str) -> None:
        """Places, velocities, masses and forces are those of the simple joints."""
        robot, simple = self.pair(floats)
        free, six = robot.tree(), simple.tree()
        body = "link_0" if floats == "base" else robot.joints[floats].child
        own = [six.coordinate(f"{floats}_{name}") for name in SIX]
        rest = [(six.coordinate(n), free.freedom(n)) for n in robot.joints if n in free.freedoms]
        begin = free.freedoms.index(f"{floats}.wx")
        size = len(free.freedoms)
        random = np.random.default_rng(3)
        q6, v6, a6 = random.normal(size=(3, len(six.coordinates)))

        def position(q6: Array) -> Array:
            q = free.neutral()
            at = free.coordinate(f"{floats}.x")
            x, y, z, yaw, pitch, roll = q6[own]
            q[at : at + 3] = x, y, z
            q[at + 3 : at + 7] = Rotation.from_euler("xyz", [roll, pitch, yaw]).as_quat()
            for name in free.coordinates:
                if name in six.coordinates:
                    q[free.coordinate(name)] = q6[six.coordinate(name)]
            return q

        def change(q6: Array) -> Array:
            """v of the floating robot = change @ v of the other."""
            matrix = np.zeros((size, size))
            poses = kinematics.link_poses(six, q6)
            turn = poses[six.link(body), :3, :3].T
            j = kinematics.jacobian(six, q6, body)[:, own]
            matrix[begin : begin + 3, own] = turn @ j[:3]
            matrix[begin + 3 : begin + 6, own] = turn @ j[3:]
            for column, row in rest:
                matrix[row, column] = 1
            return matrix

        q = position(q6)
        np.testing.assert_allclose(
            kinematics.link_poses(free, q)[[free.link(n) for n in robot.links]],
            kinematics.link_poses(six, q6)[[six.link(n) for n in robot.links]], atol=1e-12,
        )  # fmt: skip
        t = change(q6)
        h = 1e-6
        t_rate = (change(q6 + h * v6) - change(q6 - h * v6)) / (2 * h)
        v, a = t @ v6, t @ a6 + t_rate @ v6
        point = (0.3, 0.1, -0.2)
        for link in robot.links:
            np.testing.assert_allclose(
                kinematics.jacobian(free, q, link, point) @ t,
                kinematics.jacobian(six, q6, link, point), atol=1e-11,
            )  # fmt: skip
        m = dynamics.mass_matrix(free, q)
        np.testing.assert_allclose(t.T @ m @ t, dynamics.mass_matrix(six, q6), rtol=1e-9, atol=1e-9)
        tau = dynamics.inverse_dynamics(free, q, v, a, GRAVITY)
        expected = dynamics.inverse_dynamics(six, q6, v6, a6, GRAVITY)
        np.testing.assert_allclose(t.T @ tau, expected, rtol=1e-6, atol=1e-5)
        back = dynamics.forward_dynamics(free, q, v, tau, GRAVITY)
        np.testing.assert_allclose(back, a, rtol=1e-8, atol=1e-8)

    def test_wrong_states_and_descriptions_are_refused(self) -> None:
        robot, _ = self.pair("base")
        tree = robot.tree()
        with self.assertRaisesRegex(InputError, "quaternion of 'base'.*tree.neutral"):
            kinematics.link_poses(tree, np.zeros(len(tree.coordinates)))
        with self.assertRaisesRegex(InputError, "base.vz, joint_"):
            dynamics.inverse_dynamics(tree, tree.neutral(), np.zeros(3), np.zeros(3))
        with self.assertRaisesRegex(ModelError, "a floating joint has no limits"):
            robot.add_joint("x", "floating", parent="link_0", child="new", lower=-1)
        other, _ = self.pair("joint_4")
        with self.assertRaisesRegex(ModelError, "joint 'joint_4' is floating and has no position"):
            other.add_posture("away", {"joint_4": 1.0})


class FreeFlight(unittest.TestCase):
    def body(self) -> Robot:
        robot = Robot("wrench")
        robot.base = "floating"
        robot.add_link("wrench", mass=2.0, centre=(0.1, -0.2, 0.3), inertia=(0.02, 0.05, 0.06))
        return robot

    def test_a_thrown_body_flips_and_keeps_what_it_has(self) -> None:
        """About the middle axis the spin is unstable (Poinsot); energy and momentum stay."""
        run = mooring.simulate(
            self.body(), seconds=20, stepper="accurate", step=1e-3, gravity=(0, 0, 0),
            velocities={"base.wx": 1e-3, "base.wy": 6.0, "base.vx": 1.0, "base.vz": -0.5},
        )  # fmt: skip
        table = run.table
        omega = table[["base.wx", "base.wy", "base.wz"]].to_numpy()
        linear = table[["base.vx", "base.vy", "base.vz"]].to_numpy()
        turn = Rotation.from_quat(table[["base.qx", "base.qy", "base.qz", "base.qw"]].to_numpy())
        spin = turn.apply(omega * [0.02, 0.05, 0.06])
        flow = 2.0 * turn.apply(linear + np.cross(omega, [0.1, -0.2, 0.3]))
        self.assertLess(np.abs(spin - spin[0]).max(), 1e-8)
        self.assertLess(np.abs(flow - flow[0]).max(), 1e-8)
        energy = table["energy.kinetic"]
        self.assertLess(np.abs(energy / energy.iloc[0] - 1).max(), 1e-8)
        flips = np.count_nonzero(np.diff(np.sign(omega[:, 1])))
        self.assertGreaterEqual(flips, 3)
        self.assertLess(omega[:, 1].min(), -5.5)

    def test_a_dropped_body_falls_as_galilei_says(self) -> None:
        for stepper, tolerance in (("accurate", 1e-9), ("robust", 6e-3)):
            run = mooring.simulate(
                self.body(), seconds=1, stepper=stepper, posture={"base.z": "5 m", "base.qw": 2.0}
            )
            fallen = 5 - run.table["base.z"].iloc[-1]
            self.assertAlmostEqual(fallen, 0.5 * dynamics.STANDARD_GRAVITY, delta=tolerance)

    def test_a_legged_machine_keeps_its_momentum_in_flight(self) -> None:
        """Internal motors cannot move the centre of mass."""
        walker = mooring.read(mooring.demo.WALKER.document)
        walker.base = "floating"
        run = mooring.simulate(
            walker, seconds=0.3, motion=None, posture=None, step=5e-4, gravity=(0, 0, 0)
        )
        tree = walker.tree()
        poses = kinematics.link_poses(tree, run.positions())
        centres = np.einsum("tlij,lj->tli", poses[..., :3, :3], tree.arrays.centre)
        total = np.einsum("l,tli->ti", tree.arrays.mass, centres + poses[..., :3, 3])
        drift = np.abs(total - total[0]).max() / tree.arrays.mass.sum()
        self.assertLess(drift, 1e-4)


class Springs(unittest.TestCase):
    def test_a_mass_on_a_spring_swings_at_its_frequency(self) -> None:
        robot = Robot("scale")
        robot.add_link("hook")
        robot.add_link("load", mass=2.0, inertia=(0.1, 0.1, 0.1))
        robot.add_joint("way", "prismatic", parent="hook", child="load", at=(0, 0, -0.5))
        robot.add_frame("above", link="hook")
        robot.add_frame("eye", link="load")
        robot.add_spring("coil", between=("above", "eye"), stiffness="800 N/m", rest_length=0.5)
        other = Robot("torsion")
        other.add_link("post")
        other.add_link("disc", mass=3.0, inertia=(0.2, 0.2, 0.02))
        other.add_joint("turn", "continuous", parent="post", child="disc", stiffness=8.0, rest=0.1)
        for machine, joint, period, rest in (
            (robot, "way", 2 * np.pi * np.sqrt(2 / 800), -2 * dynamics.STANDARD_GRAVITY / 800),
            (other, "turn", 2 * np.pi * np.sqrt(0.02 / 8), 0.1),
        ):
            run = mooring.simulate(
                machine, seconds=period * 8, stepper="accurate", step=period / 400, rate=50 / period
            )
            way = run.table[f"{joint}.position"]
            expected = rest * (1 - np.cos(2 * np.pi * way.index / period))
            np.testing.assert_allclose(way, expected, atol=2e-5 * abs(rest) * 8)
            energy = run.table["energy.kinetic"] + run.table["energy.potential"]
            self.assertLess(np.ptp(energy), 1e-6 * run.table["energy.kinetic"].max())
            # The robust stepper comes to rest where the forces balance, however stiff the spring.
            for name in machine.joints:
                machine.joints[name].damping = 5.0
            still = mooring.simulate(machine, seconds=20, step=2e-3)
            self.assertAlmostEqual(still.table[f"{joint}.position"].iloc[-1], rest, places=6)

    def test_rotors_gears_and_trips(self) -> None:
        robot = Robot("winch")
        robot.add_link("frame")
        robot.add_link("drum", mass=10, inertia=(1, 1, 0.3))
        robot.add_joint("turn", "continuous", parent="frame", child="drum", rotor_inertia=0.1)
        robot.add_motor(
            "drive", joint="turn", mode="velocity", d=50, gear_ratio=20, rotor_inertia=5e-4,
            torque="0.2 N*m", at_limit="trip",
        )  # fmt: skip
        tree = robot.tree()
        self.assertAlmostEqual(dynamics.mass_matrix(tree, [0.0])[0, 0], 0.3 + 0.1 + 0.2)
        self.assertAlmostEqual(dynamics.forward_dynamics(tree, [0], [0], [1.2])[0], 2.0)
        self.assertAlmostEqual(dynamics.inverse_dynamics(tree, [0], [0], [2.0])[0], 1.2)
        self.assertEqual(tree.joints.effort.tolist(), [4.0])
        for stepper in ("robust", "accurate"):
            run = mooring.simulate(
                robot, seconds=0.5, velocities={"turn": 1.0}, stepper=stepper, gravity=(0, 0, 0)
            )
            self.assertEqual(run.diagnose()[0].code, "motor-tripped")
            self.assertEqual(run.table["turn.effort"].iloc[-1], 0.0)
            self.assertGreater(run.table["turn.velocity"].iloc[-1], 0.9)
