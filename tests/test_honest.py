"""What a simulation must not get wrong without a word: free motion, motors, resuming, refusals."""

import unittest
from typing import Any

import numpy as np
import pandas as pd

import mooring
from mooring import Ground, Robot, Scene, Simulation, kinematics, simulate
from mooring.demo import WALKER
from mooring.errors import InputError, ModelError
from mooring.geometry import Array
from mooring.kinematics import link_poses
from mooring.model import Limits
from mooring.simulation import Recording
from mooring.simulation.saving import SavedState
from mooring.standard import STANDARD_GRAVITY
from tests.support import folder_for, pendulum, random_robot


class FreeBodies(unittest.TestCase):
    def momentum(self, simulation: Simulation) -> Array:
        """Of one loose body about its centre, in the world."""
        arrays, native = simulation.tree.arrays, simulation.native
        body = int(np.flatnonzero(arrays.kind == 3)[0])
        turn = link_poses(simulation.tree, native.q)[body, :3, :3]
        c = arrays.freedom[body]
        return np.asarray(turn @ arrays.tensor[body] @ native.v[c : c + 3])

    def test_bars_plates_rods_and_bricks_keep_energy_and_momentum(self) -> None:
        random = np.random.default_rng(7)
        for _ in range(12):
            sides = tuple(float(side) for side in 10 ** random.uniform(-3, 0, size=3))
            scene = Scene("sky")
            scene.add_body("thing", box=sides, mass=float(random.uniform(0.1, 10)))
            spin = dict(zip(("wx", "wy", "wz", "vx"), random.normal(size=4) * 8, strict=True))
            simulation = Simulation(
                scene, gravity=(0, 0, 0), velocities={f"thing.{k}": v for k, v in spin.items()}
            )
            before = self.momentum(simulation)
            simulation.step(seconds=10)
            energy = simulation.recording.table["energy.kinetic"]
            self.assertLess(np.ptp(energy) / energy.iloc[0], 1e-9, sides)
            np.testing.assert_allclose(
                self.momentum(simulation), before, atol=1e-9 * np.linalg.norm(before)
            )

    def test_free_trees_keep_energy_and_momentum(self) -> None:
        for seed in range(3):
            robot = random_robot(seed)
            robot.base = "floating"
            for joint in robot.joints.values():
                joint.limits = Limits(motion=joint.motion)
            tree = robot.tree()
            random = np.random.default_rng(seed)
            simulation = Simulation(
                robot, gravity=(0, 0, 0), ground="none", contact=False,
                velocities={name: float(random.normal() * 2) for name in tree.freedoms},
            )  # fmt: skip
            before = self.momentum_of_all(simulation)
            simulation.step(seconds=10)
            energy = simulation.recording.table["energy.kinetic"]
            self.assertLess(np.ptp(energy) / energy.iloc[0], 1e-4)
            after = self.momentum_of_all(simulation)
            np.testing.assert_allclose(after, before, atol=1e-9 * np.linalg.norm(before))

    def momentum_of_all(self, simulation: Simulation) -> Array:
        """Linear, and angular about the world's origin."""
        tree, q, v = simulation.tree, simulation.native.q, simulation.native.v
        sums = np.zeros((2, 3))
        for k, link in enumerate(tree.links):
            mass, centre = tree.arrays.mass[k], tree.arrays.centre[k]
            pose = simulation.pose(link)
            twist = kinematics.jacobian(tree, q, link, centre) @ v
            place, turn = pose[:3, :3] @ centre + pose[:3, 3], pose[:3, :3]
            spin = turn @ tree.arrays.tensor[k] @ turn.T @ twist[:3]
            sums += mass * twist[3:], mass * np.cross(place, twist[3:]) + spin
        return sums.ravel()

    def test_dropped_poles_and_plates_never_gain_energy(self) -> None:
        for shape in (
            {"box": (1, 0.05, 0.05)}, {"cylinder": {"radius": 0.01, "length": 1.0}},
            {"box": (1, 1, 0.002)}, {"capsule": {"radius": 0.01, "length": 1.0}},
        ):  # fmt: skip
            scene = Scene("quay")
            scene.ground = Ground()
            scene.add_body(
                "pole", mass=2.0, at={"xyz": (0, 0, 1.2), "rpy": (0.5, 0.4, 0.1)}, **shape
            )
            table = simulate(scene, seconds=3).table
            energy = (table["energy.kinetic"] + table["energy.potential"]).to_numpy()
            self.assertLess(np.diff(energy).max(), 1e-5 * energy[0], shape)


class Motors(unittest.TestCase):
    def arm(self, **motor: Any) -> Robot:
        robot = pendulum(1.0, 5.0, velocity=1.0, effort=100.0)
        robot.add_motor(
            "drive", joint="swing", **({"mode": "position", "p": 5000.0, "d": 100.0} | motor)
        )
        return robot

    def test_all_the_effort_is_there_below_the_speed_limit(self) -> None:
        for stepper, over in (("robust", 1.02), ("accurate", 1.15)):
            simulation = Simulation(self.arm(), posture={"swing": 1.57}, stepper=stepper)
            simulation.step(seconds=2)
            held = 5.0 * STANDARD_GRAVITY
            self.assertAlmostEqual(simulation.state.efforts["swing"], held, delta=0.5)
            self.assertAlmostEqual(
                simulation.state.positions["swing"], 1.57 - held / 5000, delta=1e-3
            )
            simulation.command(positions={"swing": -1.5})
            simulation.step(seconds=5)
            speed = simulation.recording.table["swing.velocity"].abs().max()
            self.assertTrue(0.95 < speed < over, speed)
            self.assertAlmostEqual(simulation.state.positions["swing"], -1.5, delta=0.02)

    def damping_found(self, frequency: float, damping: float, by_motor: bool) -> float:
        """The damping ratio of a ringing joint, by its decaying peaks."""
        inertia = 0.1
        stiffness = inertia * (2 * np.pi * frequency) ** 2
        resists = 2 * damping * np.sqrt(stiffness * inertia)
        robot = Robot("bell")
        robot.add_link("post")
        robot.add_link("arm", mass=1.0, inertia=(inertia,) * 3)
        own = {} if by_motor else {"damping": resists, "stiffness": stiffness}
        robot.add_joint("turn", "continuous", parent="post", child="arm", axis="z", **own)
        if by_motor:
            robot.add_motor("drive", joint="turn", mode="position", p=stiffness, d=resists)
        simulation = Simulation(robot, posture={"turn": 0.1}, gravity=(0, 0, 0), rate=1000)
        if by_motor:
            simulation.command(positions={"turn": 0.0})
        simulation.step(seconds=0.5)
        q = np.abs(simulation.recording.table["turn.position"].to_numpy())
        peaks = q[1:-1][(q[1:-1] > q[:-2]) & (q[1:-1] >= q[2:])]
        decay = np.log(peaks[0] / peaks[-1]) / (len(peaks) - 1) / np.pi
        return float(decay / np.sqrt(1 + decay**2))

    def test_servos_and_springs_ring_as_they_would(self) -> None:
        for by_motor in (True, False):
            for frequency in (5.0, 30.0, 71.0):
                found = self.damping_found(frequency, 0.011, by_motor)
                self.assertAlmostEqual(found, 0.011, delta=0.0003)
        # Stiffer than a step can resolve: stable, and told in the docs.
        self.assertGreater(self.damping_found(200.0, 0.011, True), 0.011)

    def test_stiff_springs_never_give_more_than_they_hold(self) -> None:
        """Whatever is light inboard, floats, or hangs in a chain: where inertias mislead."""
        for mass in (10.0, 0.1, 0.01):
            for p in (1e2, 1e4, 1e6):
                robot = Robot("satellite")
                robot.base = "floating"
                robot.add_link("hub", mass=mass, inertia=(1e-3 * mass,) * 3)
                robot.add_link("wheel", mass=10.0, inertia=(1.0, 1.0, 1.0))
                robot.add_joint("spin", "continuous", parent="hub", child="wheel", axis="z")
                robot.add_motor("drive", joint="spin", mode="position", p=p, d=0.0)
                held = Simulation(robot, posture={"spin": 0.1}, gravity=(0, 0, 0), ground="none",
                                  rate=1000)  # fmt: skip
                held.command(positions={"spin": 0.0})
                self.assertTrue(held.step(seconds=1))
                codes = {finding.code for finding in held.recording.findings}
                self.assertLessEqual(codes, {"damping-too-low", "step-too-long"}, (mass, p))
                most = held.recording.table["energy.kinetic"].max()
                self.assertLess(most, 0.5 * p * 0.1**2 * 1.05)
        for links in (2, 6, 12):
            for stiffness in (1e1, 1e2, 1e3, 1e4):
                robot = Robot("rod")
                robot.add_link("post")
                for k in range(links):
                    robot.add_link(f"r{k}", mass=0.5**k, centre=(0, 0, -0.1),
                                   inertia=(0.003 * 0.5**k, 0.003 * 0.5**k, 1e-4))  # fmt: skip
                    robot.add_joint(f"j{k}", "continuous", parent=f"r{k - 1}" if k else "post",
                                    child=f"r{k}", at=(0, 0, -0.2 if k else 0), axis="y",
                                    stiffness=stiffness * 0.5**k)  # fmt: skip
                bent = {f"j{k}": 0.2 * (-1) ** k for k in range(links)}
                run = simulate(robot, posture=bent, contact=False, seconds=2, rate=1000)
                self.assertLessEqual(
                    {f.code for f in run.findings}, {"step-too-long"}, (links, stiffness)
                )

    def test_what_keeps_a_target_from_being_reached_is_the_first_finding(self) -> None:
        stuck = self.arm()
        stuck.joints["swing"].friction = 150.0
        sagging = self.arm(p=60.0, d=20.0)
        soft = self.arm()
        soft.joints["swing"].limits.soft = {"lower": -0.2, "upper": 0.2}
        strong = self.arm(mode="motion", p=None, d=None)
        strong.joints["swing"].limits.effort = 10.0
        turn = [{"joints": {"swing": 1.0}, "over": 3.0}]
        for robot, code, options in (
            (stuck, "friction-too-large", {"motion": [{"joints": {"swing": 0.5}, "over": 1.0}]}),
            (sagging, "gain-too-low", {"posture": {"swing": 1.0}}),
            (soft, "soft-limit", {"motion": turn}),
            (strong, "motion-too-strong", {"motion": turn}),
        ):
            run = simulate(robot, seconds=4, **options)
            self.assertEqual([f.code for f in run.findings][:1], [code], run.findings)
        free = pendulum()
        free.joints["swing"].type = "revolute"
        free.joints["swing"].limits = {"lower": -0.5, "upper": 0.5}
        run = simulate(
            free, posture={"swing": 0.4}, velocities={"swing": 2.0}, stepper="accurate", seconds=1
        )
        self.assertEqual(run.findings[0].code, "stop-passed")


class Symmetry(unittest.TestCase):
    def turned(self, sense: float) -> float:
        """How far a symmetric cart on wide wheels turns on the spot in two seconds [rad]."""
        robot = Robot("cart")
        robot.base = "floating"
        skid = [{"sphere": 0.04, "at": {"xyz": (0.25, 0, -0.06)}}]
        robot.add_link("hull", mass=10.0, inertia=(0.3, 0.3, 0.4), collision=skid)
        tyre = [{"cylinder": {"radius": 0.1, "length": 0.04}, "at": {"rpy": (np.pi / 2, 0, 0)}}]
        for side, y in (("left", 0.2), ("right", -0.2)):
            robot.add_link(side, mass=1.0, inertia=(0.005, 0.01, 0.005), collision=tyre)
            robot.add_joint(f"{side}_drive", "continuous", parent="hull", child=side,
                            at=(0, y, 0), axis="y")  # fmt: skip
            robot.add_motor(f"{side}_motor", joint=f"{side}_drive", mode="velocity", d=5.0)
        simulation = Simulation(robot, rate=50)
        simulation.command(velocities={"left_drive": -4.0 * sense, "right_drive": 4.0 * sense})
        simulation.step(seconds=3)
        table = simulation.recording.table
        heading = 2 * np.unwrap(np.arctan2(table["base.qz"], table["base.qw"]), period=np.pi)
        return float(heading[-1] - heading[50])

    def test_left_is_as_right(self) -> None:
        left, right = self.turned(1.0), self.turned(-1.0)
        self.assertGreater(left, 3.0)
        self.assertAlmostEqual(left / -right, 1.0, delta=1e-6)

    def test_wide_wheels_turn_about_their_middles(self) -> None:
        for width in (0.04, 0.1):
            robot = Robot("trolley")
            robot.base = "floating"
            robot.add_material("slick", density=1000, friction=0.0)
            robot.add_link("frame", mass=10, centre=(0, 0, -0.02), inertia=(0.2, 0.2, 0.3),
                           collision={"sphere": 0.03, "at": (-0.3, 0, -0.07)}, surface="slick")  # fmt: skip
            tyre = {"cylinder": {"radius": 0.1, "length": width}, "at": {"rpy": (np.pi / 2, 0, 0)}}
            for side, y in (("left", 0.3), ("right", -0.3)):
                robot.add_link(side, mass=1, inertia=(3e-3, 5e-3, 3e-3), collision=tyre)
                robot.add_joint(side, "continuous", parent="frame", child=side, at=(0, y, 0),
                                axis="y")  # fmt: skip
                robot.add_motor(side, joint=side, mode="velocity", d=50)
            simulation = Simulation(robot)
            simulation.command(velocities={"left": 1.5, "right": 4.5})
            simulation.step(seconds=3)
            self.assertAlmostEqual(simulation.state.velocities["base.wz"], 0.5, delta=0.005)


class Impacts(unittest.TestCase):
    def test_a_row_of_balls_passes_on_as_many_as_hit_it(self) -> None:
        for hitting in (1, 2):
            robot = Robot("cradle")
            robot.add_link("beam")
            robot.add_material("steel", density=7800, friction=0.0, restitution=1.0)
            for k in range(5):
                robot.add_link(f"ball_{k}", mass=1.0, centre=(0, 0, -1), inertia=(4e-4,) * 3,
                               material="steel", collision={"sphere": 0.05, "at": (0, 0, -1)})  # fmt: skip
                robot.add_joint(f"arm_{k}", "continuous", parent="beam", child=f"ball_{k}",
                                at=(0.1 * k, 0, 0), axis="y")  # fmt: skip
            simulation = Simulation(robot, posture={f"arm_{k}": 0.4 for k in range(hitting)})
            while simulation.state.velocities["arm_4"] > -0.1 and simulation.step():
                pass
            speeds = np.array([simulation.state.velocities[f"arm_{k}"] for k in range(5)])
            # Each comes down with the speed of a pendulum of that height.
            inertia = 1.0 + 4e-4
            fast = np.sqrt(2 * STANDARD_GRAVITY * (1 - np.cos(0.4)) / inertia)
            np.testing.assert_allclose(speeds, [0.0] * (5 - hitting) + [-fast] * hitting, atol=0.02)

    def test_what_lies_flat_lies_still(self) -> None:
        for thick, step in ((0.002, 1e-3), (0.0005, 1e-3), (0.002, 5e-3)):
            scene = Scene("bench", ground=Ground())
            scene.add_body("plate", box=(0.5, 0.4, thick), mass=1.0,
                           at={"xyz": (0, 0, 0.05), "rpy": (0.05, 0.02, 0)})  # fmt: skip
            table = simulate(scene, seconds=3, step=step, sleep=False).table
            self.assertLess(table["energy.kinetic"].loc[2:].max(), 1e-6)
            self.assertAlmostEqual(table["plate.z"].iloc[-1], thick / 2, delta=1e-4)


class Resuming(unittest.TestCase):
    def test_a_run_that_goes_on_from_its_folder_is_the_uninterrupted_one(self) -> None:
        walker = mooring.read(WALKER.document)
        folder = folder_for(self)
        simulate(walker, posture="standing", seconds=0.3).write(folder)
        rest = simulate(walker, posture="standing", seconds=0.6, resume=Recording.read(folder))
        whole = simulate(walker, posture="standing", seconds=0.6)
        pd.testing.assert_frame_equal(
            whole.table.loc[rest.table.index], rest.table, check_exact=True
        )
        for name, table in whole.sensors.items():
            later = rest.sensors[name].loc[0.3:]
            pd.testing.assert_frame_equal(table.loc[later.index], later, check_exact=True)
        self.assertEqual(rest.notes, whole.notes)

    def test_damaged_states_are_refused_and_change_nothing(self) -> None:
        simulation = Simulation(mooring.read(WALKER.document), posture="standing")
        simulation.step(10)
        file = folder_for(self) / "kept.state"
        simulation.save().write(file)
        whole, q = file.read_bytes(), simulation.native.q.tobytes()
        random = np.random.default_rng(3)
        for cut in random.integers(0, len(whole), 40):
            file.write_bytes(whole[:cut])
            with self.assertRaises(InputError):
                SavedState.read(file)
        for _ in range(60):
            spoiled = bytearray(whole)
            spoiled[random.integers(0, len(whole))] ^= int(random.integers(1, 256))
            file.write_bytes(bytes(spoiled))
            with self.assertRaisesRegex(InputError, "damaged"):
                SavedState.read(file)
        self.assertEqual(simulation.native.q.tobytes(), q)
        with self.assertRaisesRegex(ModelError, "another robot"):
            Simulation(pendulum()).restore(simulation.save())

    def test_what_is_attached_anew_holds_and_is_gone_on_with(self) -> None:
        """Pendulums side by side: those attached swing as one, and those let go by themselves."""
        robot = Robot("rig")
        robot.add_link("post")
        for name, length in (("a", 0.2), ("b", 0.2), ("c", 0.6)):
            robot.add_link(name, mass=1.0, centre=(0, 0, -length), inertia=(0.02, 0.02, 0.001))
            robot.add_joint(f"{name}_pin", "continuous", parent="post", child=name, axis="y")
        start = {f"{name}_pin": 0.3 for name in "abc"}
        for stepper in ("robust", "accurate"):
            simulation = Simulation(robot, posture=start, stepper=stepper, contact=False)
            simulation.attach("a", "b")
            simulation.step(20)
            simulation.release("a", "b")
            simulation.attach("b", "c")
            simulation.step(20)
            kept, apart = simulation.save(), simulation.native.q[1] - simulation.native.q[2]
            simulation.step(60)
            a, b, c = simulation.native.q
            self.assertGreater(abs(a - b), 1e-3, stepper)
            self.assertAlmostEqual(b - c, apart, delta=1e-6)
            simulation.restore(kept)
            simulation.step(60)
            self.assertEqual(simulation.native.q.tolist(), [a, b, c])
        robot.base = "floating"
        robot.links["post"].mass, robot.links["post"].inertia = 1.0, (0.1, 0.1, 0.1)
        robot.set_collision("*", {"sphere": 0.05})
        free = Simulation(robot, stepper="accurate", ground="none")
        self.assertTrue(free.step(10))


class Refusals(unittest.TestCase):
    def test_what_has_no_meaning_is_refused_where_it_is_given(self) -> None:
        nan = float("nan")
        robot = pendulum(effort=10.0, velocity=2.0)
        robot.add_motor("drive", joint="swing", mode="velocity", d=5.0)
        simulation = Simulation(robot)
        scene = Scene("quay")
        scene.ground = Ground()
        scene.add_body("crate", box=(1, 1, 1), mass=1.0, at=(0, 0, 0.5))
        for call, said in (
            (lambda: simulation.push("bob", (nan, 0, 0)), "the force is three finite numbers"),
            (lambda: simulation.push("bob", (0, 0, 1), moment=(0, nan, 0)), "the moment is three"),
            (lambda: Simulation(robot, velocities={"swing": nan}), "velocity of 'swing'.* finite"),
            (lambda: Simulation(robot, gravity=(0, 0, nan)), "gravity is three finite numbers"),
            (lambda: simulate(robot, copies=2, vary={"bob.mass": (1.0, nan)}), "must be finite"),
            (
                lambda: simulation.command(positions={"swing": 1.0}),
                "driven by velocity; a position",
            ),
            (lambda: Simulation(robot, step=0.5), "the step is from 1e-07 to 0.02 s"),
            (lambda: Simulation(scene, stepper="accurate"), "no contact, and crate would fall"),
        ):
            with self.assertRaisesRegex(ModelError, said):
                call()
        self.assertTrue(simulation.step(10))
