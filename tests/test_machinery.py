"""Motors, gears, cables, grips, conveyors, surfaces that give, forces with a law, couplings and
motions as they are bought and built: against closed forms."""

import unittest
from typing import Any

import numpy as np
import pandas as pd

import mooring
from mooring import Ground, Robot, Scene, Simulation, simulate
from mooring.errors import ModelError
from mooring.simulation import Recording
from mooring.standard import STANDARD_GRAVITY as G
from tests.support import folder_for, pendulum, written

UNIT = (0.01, 0.01, 0.01)


def wheel(inertia: float = 0.5, **joint: Any) -> Robot:
    """A wheel that turns about z."""
    robot = Robot("winch")
    robot.add_link("frame")
    robot.add_link("drum", mass=1.0, inertia=(inertia,) * 3)
    robot.add_joint("spin", "continuous", parent="frame", child="drum", axis="z", **joint)
    return robot


class MotorsAsBought(unittest.TestCase):
    def test_a_motor_runs_up_its_torque_speed_curve(self) -> None:
        """J dw/dt = T (1 - w / w0): an exponential."""
        for entry in (
            {"curve": {"stall_torque": 0.4, "no_load_speed": 100.0}},
            {"winding": {"torque_constant": 0.1, "resistance": 2.5, "voltage": 10.0}},
        ):
            robot = wheel(0.5)
            robot.add_motor("drive", joint="spin", mode="effort", gear_ratio=5.0, **entry)
            simulation = Simulation(robot)
            simulation.command(efforts={"spin": 100.0})
            simulation.step(seconds=3)
            top, stall = 100.0 / 5, 0.4 * 5
            expected = top * (1 - np.exp(-3 * stall / (0.5 * top)))
            self.assertAlmostEqual(simulation.state.velocities["spin"], expected, delta=2e-3)
            table = simulation.recording.motor_table()
            self.assertAlmostEqual(table.loc["spin", "peak_effort"], stall, delta=1e-2)
            done = 0.5 * 0.5 * expected**2
            self.assertAlmostEqual(table.loc["spin", "energy_given"], done, delta=0.02 * done)
        self.assertAlmostEqual(table.loc["spin", "peak_current"], 0.4 / 0.1, delta=0.05)

    def test_a_gear_loses_its_share(self) -> None:
        robot = wheel(0.5)
        robot.add_motor("drive", joint="spin", mode="effort", efficiency=0.8)
        simulation = Simulation(robot)
        simulation.command(efforts={"spin": 1.0})
        simulation.step(seconds=2)
        self.assertAlmostEqual(simulation.state.velocities["spin"], 0.8 * 2 / 0.5, delta=5e-3)
        self.assertEqual(simulation.recording.findings, [])

    def test_backlash_leaves_the_joint_free_until_it_is_used_up(self) -> None:
        robot = wheel(0.5)
        robot.add_motor("drive", joint="spin", mode="effort", rotor_inertia=0.01, backlash=0.1)
        simulation = Simulation(robot)
        simulation.command(efforts={"spin": 0.1})
        # Alone through half of the play: 10 rad/s^2.
        alone = np.sqrt(2 * 0.05 / 10)
        simulation.step(seconds=float(alone) - 0.002)
        self.assertEqual(simulation.state.velocities["spin"], 0.0)
        simulation.step(seconds=1)
        # Together from then on: what the rotor brought, and the motor's effort.
        speed = (0.01 * 10 * alone + 0.1 * (1 - 0.002)) / 0.51
        self.assertAlmostEqual(simulation.state.velocities["spin"], speed, delta=2e-3)
        robot.motors["drive"].gear_stiffness = 2000.0
        run = simulate(robot, seconds=0.5, velocities={"spin": 1.0})
        self.assertEqual(run.findings, [])

    def test_a_soft_gear_rings_as_two_masses_on_a_spring(self) -> None:
        robot = wheel(0.5)
        robot.add_motor("drive", joint="spin", mode="effort", rotor_inertia=0.1, gear_stiffness=200)
        simulation = Simulation(robot, rate=1000)
        simulation.command(efforts={"spin": 1.0})
        simulation.step(seconds=2)
        speed = simulation.recording.table["spin.velocity"].to_numpy()
        swing = speed - np.arange(len(speed)) * 1e-3 / 0.6
        crossings = np.flatnonzero((swing[:-1] < swing.mean()) & (swing[1:] >= swing.mean()))
        reduced = 0.5 * 0.1 / 0.6
        found = 1000 / np.mean(np.diff(crossings))
        self.assertAlmostEqual(found * 2 * np.pi / np.sqrt(200 / reduced), 1.0, delta=0.02)

    def test_a_drive_that_acts_late_swings_and_one_that_sees_steps_holds(self) -> None:
        def held(**drive: Any) -> Any:
            robot = pendulum(1.0, 2.0, effort=200.0)
            robot.add_motor("drive", joint="swing", p=400, d=40, feed_forward="gravity", **drive)
            return simulate(robot, motion=[{"joints": {"swing": 0.5}, "over": 1, "hold": 3}])

        late = held(delay="60 ms")
        self.assertEqual(late.findings[0].code, "latency-oscillation")
        self.assertEqual(held(delay="2 ms", period="4 ms").findings, [])
        coarse = held(resolution=0.01)
        self.assertLess(abs(coarse.table["swing.position"].iloc[-1] - 0.5), 0.06)


class Ties(unittest.TestCase):
    def test_two_weights_on_a_rope_over_a_pulley(self) -> None:
        """Atwood's machine; and a rope does not push."""
        robot = Robot("atwood")
        robot.add_link("beam")
        for name, x, mass in (("light", -0.2, 1.0), ("heavy", 0.2, 3.0)):
            robot.add_link(name, mass=mass, inertia=UNIT)
            robot.add_joint(name, "prismatic", parent="beam", child=name, at=(x, 0, -1), axis="z")
            robot.add_frame(f"eye_{name}", link=name)
            robot.add_frame(f"sheave_{name}", link="beam", at=(x, 0, 0))
        robot.add_cable("rope", through=("eye_light", "sheave_light", "sheave_heavy", "eye_heavy"))
        run = simulate(robot, seconds=0.5)
        expected = 0.5 * (3 - 1) / (3 + 1) * G * 0.25
        self.assertAlmostEqual(run.table["light.position"].iloc[-1], expected, delta=1e-4)
        self.assertAlmostEqual(run.table["heavy.position"].iloc[-1], -expected, delta=1e-4)
        self.assertEqual(run.findings, [])
        slack = simulate(robot, seconds=0.3, gravity=(0, 0, G), posture={"heavy": 0.0})
        self.assertAlmostEqual(slack.table["light.position"].iloc[-1], 0.5 * G * 0.09, delta=1e-4)

    def test_a_belt_couples_pulleys_and_a_rope_only_pulls(self) -> None:
        for both in (True, False):
            robot = wheel(0.5)
            robot.add_link("other", mass=1.0, inertia=(0.2,) * 3)
            robot.add_joint("driven", "continuous", parent="frame", child="other", at=(1, 0, 0))
            robot.add_cable("belt", winds={"spin": 0.1, "driven": -0.05}, both_ways=both)
            robot.add_motor("drive", joint="spin", mode="effort")
            for effort, moves in ((1.0, True), (-1.0, both)):
                simulation = Simulation(robot)
                simulation.command(efforts={"spin": effort})
                simulation.step(seconds=1)
                speeds = simulation.state.velocities
                carried = 0.2 * 4 if moves else 0.0
                self.assertAlmostEqual(speeds["spin"], effort / (0.5 + carried), delta=2e-3)
                self.assertAlmostEqual(speeds["driven"], 2 * speeds["spin"] * moves, delta=2e-3)

    def test_a_rope_that_gives_hangs_and_bounces_as_a_spring(self) -> None:
        robot = Robot("bungee")
        robot.add_link("beam")
        robot.add_link("load", mass=2.0, inertia=UNIT)
        robot.add_joint("drop", "prismatic", parent="beam", child="load", at=(0, 0, -1), axis="z",
                        damping=4.0)  # fmt: skip
        robot.add_frame("hook", link="beam")
        robot.add_frame("eye", link="load")
        robot.add_cable("rope", through=("hook", "eye"), stiffness="400 N/m")
        run = simulate(robot, seconds=8)
        self.assertAlmostEqual(run.table["drop.position"].iloc[-1], -2 * G / 400, delta=1e-4)
        self.assertEqual(run.findings, [])

    def test_a_differential_shares_its_carriers_speed(self) -> None:
        robot = Robot("axle")
        robot.add_link("frame")
        for name in ("carrier", "left", "right"):
            robot.add_link(name, mass=1, inertia=(0.1,) * 3)
            robot.add_joint(name, "continuous", parent="frame", child=name, axis="y")
        robot.add_coupling("carrier", follows="left", ratio=0.5, also={"right": 0.5})
        robot.add_motor("drive", joint="carrier", mode="effort")
        robot.joints["right"].friction = 100.0
        simulation = Simulation(robot)
        simulation.command(efforts={"carrier": 1.0})
        simulation.step(seconds=1)
        speeds = simulation.state.velocities
        self.assertAlmostEqual(speeds["right"], 0.0, delta=1e-6)
        # All of it goes to the wheel that is free: 0.1 for the carrier, 0.1 at twice its speed.
        self.assertAlmostEqual(speeds["carrier"], 1 / (0.1 + 4 * 0.1), delta=1e-4)
        self.assertAlmostEqual(speeds["left"], 2 * speeds["carrier"], delta=1e-6)
        posture = mooring.kinematics.configuration(robot, {"left": 0.4, "right": 0.2})
        self.assertAlmostEqual(posture[robot.tree().coordinate("carrier")], 0.3)
        with self.assertRaisesRegex(ModelError, "would follow itself"):
            robot.add_coupling("left", follows="carrier")

    def test_a_pin_with_play_and_one_that_gives(self) -> None:
        def swing(**pin: float) -> Any:
            robot = Robot("swing")
            robot.add_link("beam")
            robot.add_link("bar", mass=2.0, inertia=UNIT)
            robot.add_joint("free", "floating", parent="beam", child="bar", at=(0, 0, -1))
            robot.add_closure("pin", "ball", between=("beam", "bar"), at=(0, 0, 0), **pin)
            return simulate(robot, seconds=3, ground="none").table["free.z"].iloc[-1]

        for pin in ({"damping": 5.0}, {"play": 0.01, "stiffness": 1e4}):
            with self.assertRaisesRegex(ModelError, "stiffness"):
                swing(**pin)
        self.assertAlmostEqual(swing(), -1.0, delta=1e-6)
        self.assertAlmostEqual(swing(play=0.01), -1.01, delta=1e-4)
        self.assertAlmostEqual(swing(stiffness=1e4, damping=100), -1 - 2 * G / 1e4, delta=1e-5)

    def test_a_joint_gives_in_the_directions_that_it_holds(self) -> None:
        text = """\
mooring: 1
links:
  wall: {}
  arm: {mass: 5 kg, centre: [0.5, 0, 0], inertia: [0.1, 0.1, 0.1]}
joints:
  pin:
    {type: revolute, parent: wall, child: arm, limits: {lower: -1, upper: 1},
     give: {stiffness: 1e6, damping: 2e3, turning_stiffness: 2e4, turning_damping: 100}}
"""
        run = simulate(mooring.read(written(self, text)), seconds=2)
        self.assertAlmostEqual(run.table["pin_along_z.position"].iloc[-1], -5 * G / 1e6, delta=1e-8)
        tilt = run.table["pin_about_y.position"].iloc[-1]
        self.assertAlmostEqual(tilt, 5 * G * 0.5 / 2e4, delta=1e-7)
        robot = Robot("rail")
        robot.add_link("bed")
        robot.add_link("sledge", mass=5, inertia=UNIT)
        robot.add_joint("slide", "prismatic", parent="bed", child="sledge", axis="x",
                        give={"play": "0.5 mm"})  # fmt: skip
        run = simulate(robot, seconds=1)
        self.assertAlmostEqual(run.table["slide_along_y.position"].iloc[-1], -5e-4, delta=1e-6)
        self.assertEqual(run.findings, [])
        with self.assertRaisesRegex(ModelError, "give either stiffness or play"):
            robot.add_joint("q", "fixed", parent="sledge", child="b",
                            give={"play": 1e-3, "stiffness": 1})  # fmt: skip


class Surfaces(unittest.TestCase):
    def test_what_stands_on_rubber_sinks_and_bounces_by_its_stiffness(self) -> None:
        for damping in (0.0, 400.0):
            scene = Scene("pads")
            for name in ("pad", "block"):
                scene.robot.add_material(
                    name, density=1000,
                    **({"give": {"stiffness": 2e4, "damping": damping}} if name == "pad"
                       else {}),
                )  # fmt: skip
            scene.ground = Ground(material="pad")
            scene.add_body("crate", box=(0.2, 0.2, 0.2), mass=10, at=(0, 0, 0.1), material="block")
            run = simulate(scene, seconds=2, rate=1000, sleep=False)
            z = run.table["crate.z"].to_numpy() - 0.1
            sink = 10 * G / 2e4
            if damping:
                self.assertAlmostEqual(z[-1], -sink, delta=1e-5)
            else:
                self.assertAlmostEqual(z.min(), -2 * sink, delta=0.02 * sink)
                lows = np.flatnonzero((z[1:-1] < z[:-2]) & (z[1:-1] <= z[2:]))
                period = np.mean(np.diff(lows)) * 1e-3
                self.assertAlmostEqual(period, 2 * np.pi * np.sqrt(10 / 2e4), delta=2e-3)
            self.assertEqual(run.findings, [])

    def test_a_conveyor_takes_along_what_lies_on_it(self) -> None:
        scene = Scene("line")
        scene.add_obstacle("bed", box=(4, 0.5, 0.2), at=(0, 0, 0))
        scene.add_body("crate", box=(0.2, 0.2, 0.2), mass=2, at=(0, 0, 0.2))
        scene.robot.add_conveyor("belt", link="bed", direction="x", speed=0.5)
        simulation = Simulation(scene)
        simulation.step(seconds=1)
        self.assertAlmostEqual(simulation.state.velocities["crate.vx"], 0.5, delta=1e-4)
        # Coulomb speeds it up, then it lies still on the belt.
        slid = 0.5**2 / (2 * 0.6 * G)
        self.assertAlmostEqual(simulation.state.positions["crate.x"], 0.5 - slid, delta=2e-3)
        simulation.convey("belt", 0.0)
        simulation.step(seconds=1)
        self.assertEqual(simulation.state.velocities["crate.vx"], 0.0)
        # What has fallen asleep on it wakes up with it.
        simulation.convey("belt", "0.2 m/s")
        simulation.step(seconds=1)
        self.assertAlmostEqual(simulation.state.velocities["crate.vx"], 0.2, delta=1e-4)
        self.assertEqual(simulation.recording.findings, [])

    @staticmethod
    def lifter(force: float) -> tuple[Scene, list[dict[str, object]]]:
        """An arm that grips a crate of 2 kg, lifts it by 0.3 m, and lets it go."""
        robot = Robot("lifter")
        robot.add_link("mast")
        robot.add_link("arm", mass=1, inertia=UNIT, collision={"box": (0.05, 0.05, 0.1)})
        robot.add_joint("lift", "prismatic", parent="mast", child="arm", axis="z", effort=500,
                        velocity=1.0)  # fmt: skip
        robot.add_motor("hoist", joint="lift", p=2e4, d=1e3)
        robot.add_frame("tip", link="arm", at={"xyz": (0, 0, -0.05), "rpy": (np.pi, 0, 0)})
        robot.add_grip("cup", frame="tip", force=force)
        scene = Scene("depot", ground=Ground())
        scene.add_robot(robot, at=(0, 0, 0.25))
        scene.add_body("crate", box=(0.2, 0.2, 0.2), mass=2, at=(0, 0, 0.1))
        motion: list[dict[str, object]] = [{"grip": "cup", "hold": 0.2}, {"joints": {"lift": 0.3}, "over": 1},
                  {"hold": 0.3}, {"let_go": "cup", "hold": 1}]  # fmt: skip
        return scene, motion

    def test_a_cup_holds_up_to_its_force(self) -> None:
        for force, holds in ((1.1 * 2 * G + 2.2 * 2.0, True), (0.9 * 2 * G, False)):
            scene, motion = self.lifter(force)
            simulation = Simulation(scene, motion=motion)
            simulation.step(seconds=1.4)
            lifted = simulation.state.positions["crate.z"] - 0.1
            self.assertAlmostEqual(lifted, 0.3 if holds else 0.0, delta=3e-3)
            self.assertEqual(simulation.grips.held["cup"], "crate" if holds else "")
            self.assertEqual(bool(simulation.grips.lost), not holds)
            simulation.step(seconds=0.9)
            self.assertAlmostEqual(simulation.state.positions["crate.z"], 0.1, delta=1e-3)

    def test_each_copy_grips_for_itself(self) -> None:
        scene, motion = self.lifter(60)
        vary = {"crate.mass": [2.0, 20.0, 2.0]}
        runs = simulate(scene, motion=motion, seconds=1.4, copies=3, vary=vary)
        for run, end in zip(runs, (0.3, 0.0, 0.3), strict=True):
            self.assertAlmostEqual(run.table["crate.z"].iloc[-1] - 0.1, end, delta=3e-3)

    def test_a_magnet_on_a_wall_holds_what_it_can(self) -> None:
        for mass, holds in ((1.0, True), (2.0, False)):
            scene = Scene("store", ground=Ground())
            scene.add_obstacle("wall", box=(0.1, 1, 1), at=(0, 0, 1))
            scene.add_body("plate", box=(0.02, 0.2, 0.2), mass=mass, at=(0.06, 0, 1))
            scene.robot.add_frame("spot", link="wall",
                                  at={"xyz": (0.05, 0, 0), "rpy": (0, np.pi / 2, 0)})  # fmt: skip
            scene.robot.add_grip(
                "holder", frame="spot", kind="magnet", force=100, shear=15, on=True
            )
            simulation = Simulation(scene, rate=10)
            simulation.step(seconds=1)
            self.assertEqual(simulation.ended, "")
            self.assertEqual(simulation.grips.held["holder"], "plate" if holds else "")
            self.assertEqual(simulation.state.positions["plate.z"] > 0.99, holds)


class Laws(unittest.TestCase):
    def test_a_rotor_hovers_where_its_thrust_is_its_weight(self) -> None:
        robot = Robot("lifter")
        robot.base = "floating"
        robot.add_link("hull", mass=1.8, inertia=(0.02, 0.02, 0.04))
        for k, y in enumerate((0.2, -0.2)):
            robot.add_link(f"prop_{k}", mass=0.1, inertia=(1e-4,) * 3)
            robot.add_joint(f"shaft_{k}", "continuous", parent="hull", child=f"prop_{k}",
                            at=(0, y, 0.1))  # fmt: skip
            robot.add_frame(f"hub_{k}", link="hull", at=(0, y, 0.1))
            robot.add_motor(f"motor_{k}", joint=f"shaft_{k}", mode="motion")
            robot.add_force(
                f"thrust_{k}", "rotor", frame=f"hub_{k}", joint=f"shaft_{k}", thrust=1e-4
            )
        speed = float(np.sqrt(2.0 * G / 2 / 1e-4))
        motion = [{"speeds": {"shaft_0": speed, "shaft_1": speed}, "ramp": 0.001}]
        spin = {f"shaft_{k}": speed for k in range(2)}
        run = simulate(robot, motion=motion, seconds=1, velocities=spin, ground="none")
        speeds = run.table["base.vz"]
        self.assertAlmostEqual(speeds.loc[1.0] - speeds.loc[0.5], 0.0, delta=1e-4)

    def test_what_falls_through_air_comes_to_its_end_speed(self) -> None:
        scene = Scene("sky")
        scene.add_body("ball", sphere=0.1, mass=2.0, at=(0, 0, 0))
        scene.robot.add_force("air", "drag", link="ball", quadratic=0.5)
        run = simulate(scene, seconds=1)
        end = np.sqrt(2 * G / 0.5)
        self.assertAlmostEqual(run.table["ball.vz"].iloc[-1], -end * np.tanh(G / end), delta=5e-3)
        self.assertEqual(run.findings, [])
        lost = run.table["energy.kinetic"] + run.table["energy.potential"]
        self.assertAlmostEqual(
            (lost.iloc[0] - lost.iloc[-1]) / run.table["energy.damping"].iloc[-1], 1, delta=1e-3
        )

    def test_a_sensor_feels_cables_and_drag(self) -> None:
        """What holds an arm's end takes its share from the joint; a current adds to it."""
        robot = Robot("davit")
        robot.add_link("post")
        robot.add_link("arm", mass=2, centre=(0.5, 0, 0), inertia=UNIT)
        robot.add_joint("hinge", "revolute", parent="post", child="arm", axis="y",
                        lower=-1, upper=1)  # fmt: skip
        robot.add_frame("top", link="post", at=(1, 0, 1))
        robot.add_frame("end", link="arm", at=(1, 0, 0))
        robot.add_sensor("wrench", "force_torque", joint="hinge", rate=100)
        robot.add_cable("stay", through=("top", "end"), length=1, stiffness=1e6, damping=1e4)
        held = simulate(robot, seconds=2).sensors["wrench"].iloc[-1]
        self.assertAlmostEqual(abs(held["force.z"]), G, delta=0.01)
        slow = Robot("paddle")
        slow.add_link("post")
        slow.add_link("arm", mass=2, centre=(0.5, 0, 0), inertia=UNIT)
        slow.add_joint("slide", "prismatic", parent="post", child="arm", axis="z")
        slow.add_sensor("wrench", "force_torque", joint="slide", rate=100)
        slow.add_force("water", "drag", link="arm", linear=200)
        sunk = simulate(slow, seconds=2).sensors["wrench"].iloc[-1]
        self.assertAlmostEqual(sunk["force.z"], 0.0, delta=0.01)

    def test_what_floats_lies_as_deep_as_it_is_heavy(self) -> None:
        scene = Scene("basin")
        scene.add_body("pontoon", box=(1.0, 0.6, 0.4), mass=123.0,
                       at={"xyz": (0, 0, 0.0), "rpy": (0.2, 0, 0)})  # fmt: skip
        scene.robot.add_force("water", "buoyancy", link="pontoon", level=0.0)
        scene.robot.add_force("drag", "drag", link="pontoon", linear=300, turning=40)
        run = simulate(scene, seconds=20, rate=20)
        draught = 123.0 / (1025 * 0.6)
        self.assertAlmostEqual(run.table["pontoon.z"].iloc[-1], 0.2 - draught, delta=0.005)
        self.assertAlmostEqual(run.table["pontoon.qx"].iloc[-1], 0.0, delta=0.01)
        # What two shapes overlap in is displaced once.
        hull = Robot("hull")
        hull.base = "floating"
        hull.add_link("hull", mass=123.0, inertia=(5, 10, 12),
                      collision=[{"box": (0.6, 0.6, 0.4), "at": {"xyz": (x, 0, 0)}}
                                 for x in (-0.2, 0.2)])  # fmt: skip
        hull.add_force("water", "buoyancy", link="hull", level=0.0, fineness=20)
        hull.add_force("drag", "drag", link="hull", linear=300, turning=40)
        run = simulate(hull, seconds=20, rate=20, ground="none")
        self.assertAlmostEqual(run.table["base.z"].iloc[-1], 0.2 - draught, delta=0.01)
        with self.assertRaisesRegex(ModelError, "displaces no water"):
            bare = Scene("bare")
            bare.robot.add_link("stone", mass=1, inertia=UNIT)
            bare.robot.add_joint("stone", "floating", parent="world", child="stone")
            bare.robot.add_force("water", "buoyancy", link="stone")
            Simulation(bare)


DOCUMENT = """\
mooring: 1
links:
  frame: {mass: 1 kg, inertia: [1, 1, 1]}
  drum: {mass: 1 kg, inertia: [0.1, 0.1, 0.1]}
joints:
  spin:
    {type: continuous, parent: frame, child: drum,
     limits: {velocity: 20 rad/s, acceleration: 4 rad/s^2}}
motors:
  drive: {joint: spin, mode: motion}
motions:
  run: [{speeds: {spin: 30 rpm}, ramp: 0.5 s}]
  swing: [{waves: {spin: {amplitude: 20 deg, frequency: 2 Hz}}}]
  course: [{course: {spin: [[0, 0], [1 s, 90 deg], [3 s, 90 deg], [4 s, 0]]}}]
  go: [{joints: {spin: 1 rad}}]
"""


class Motions(unittest.TestCase):
    def test_constant_speed_waves_courses_and_accelerations_from_a_document(self) -> None:
        robot = mooring.read(written(self, DOCUMENT))
        run = simulate(robot, motion="run", seconds=5)
        self.assertAlmostEqual(run.table["spin.velocity"].iloc[-1], np.pi, delta=1e-6)
        swing = simulate(robot, motion="swing", seconds=3)
        time = swing.table.index.to_numpy()
        wanted = np.radians(20) * np.sin(4 * np.pi * time)
        np.testing.assert_allclose(swing.table["spin.target"], wanted, atol=1e-5)
        course = simulate(robot, motion="course")
        self.assertAlmostEqual(course.table["spin.target"].loc[2.0], np.pi / 2, delta=1e-9)
        self.assertLessEqual(course.table["spin.target"].max(), np.pi / 2 + 1e-9)
        for step in ({"waves": {"spin": {"amplitude": "20 mm", "frequency": 2}}},
                     {"course": {"spin": [[0, 0], [1, "20 mm"]]}}):  # fmt: skip
            with self.assertRaisesRegex(ModelError, "'20 mm'.* angle"):
                simulate(robot, motion=[step])
        go = Simulation(robot, motion="go")
        # A quintic's largest acceleration is 10 / sqrt(3) of its way over its time squared.
        self.assertAlmostEqual(go.plan.seconds, np.sqrt(10 / np.sqrt(3) / 4), delta=1e-9)


class Whole(unittest.TestCase):
    def scene(self) -> Scene:
        """A bit of everything that has a state of its own."""
        robot = Robot("hoist")
        robot.add_link("mast")
        robot.add_link("arm", mass=1, inertia=UNIT, collision={"box": (0.05, 0.05, 0.1)})
        robot.add_joint("lift", "prismatic", parent="mast", child="arm", axis="z", effort=500,
                        velocity=1.0)  # fmt: skip
        robot.add_motor("drive", joint="lift", p=2e4, d=1e3, gear_ratio=100, rotor_inertia=1e-4,
                        backlash="0.2 mm", gear_stiffness=5e6, period="2 ms", delay="1 ms",
                        resolution="0.01 mm", efficiency=0.9)  # fmt: skip
        robot.add_frame("tip", link="arm", at={"xyz": (0, 0, -0.05), "rpy": (np.pi, 0, 0)})
        robot.add_frame("top", link="mast", at=(0, 0, 1))
        robot.add_frame("eye", link="arm", at=(0, 0, 0.05))
        robot.add_grip("cup", frame="tip", force=60)
        robot.add_cable("safety", through=("top", "eye"), length=1.1, stiffness=1e4, damping=50)
        scene = Scene("depot", ground=Ground())
        scene.robot.add_material("pad", density=1000, give={"stiffness": 2e4, "damping": 50})
        scene.add_robot(robot, at=(0, 0, 0.35))
        scene.add_obstacle("bed", box=(1, 0.5, 0.1), at=(0, 0, 0.05), material="pad")
        scene.add_body("crate", box=(0.2, 0.2, 0.2), mass=2, at=(0, 0, 0.2))
        scene.robot.add_conveyor("belt", link="bed", speed=0.01)
        scene.robot.add_force("air", "drag", link="crate", quadratic=0.3)
        return scene

    def test_it_is_saved_restored_and_resumed_to_the_byte(self) -> None:
        motion: list[dict[str, object]] = [{"grip": "cup", "hold": 0.2}, {"joints": {"lift": 0.2}, "over": 0.6},
                  {"let_go": "cup", "conveyors": {"belt": 0.2}, "hold": 0.6}]  # fmt: skip
        simulation = Simulation(self.scene(), motion=motion)
        simulation.step(300)
        kept = simulation.save()
        simulation.step(700)
        first = simulation.native.q.tobytes()
        simulation.restore(kept)
        simulation.step(700)
        self.assertEqual(simulation.native.q.tobytes(), first)
        folder = folder_for(self)
        simulate(self.scene(), motion=motion, seconds=0.3).write(folder)
        rest = simulate(self.scene(), motion=motion, seconds=1, resume=Recording.read(folder))
        whole = simulate(self.scene(), motion=motion, seconds=1)
        pd.testing.assert_frame_equal(
            whole.table.loc[rest.table.index], rest.table, check_exact=True
        )
        self.assertEqual(whole.findings, [])
