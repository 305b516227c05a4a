"""Set-ups broken on purpose, each with its cause as the first finding, and sound ones with none."""

import unittest
from collections.abc import Callable
from typing import Any

import numpy as np

import mooring
from mooring import Ground, Recording, Robot, Scene, Simulation, simulate
from mooring.demo import DRUM_CART, LINE_TENDER, WALKER
from tests.support import pendulum

Broken = Callable[[], Recording]
BROKEN: dict[str, tuple[str, str, Broken]] = {}
UNIT = (0.01, 0.01, 0.01)


def broken(code: str, item: str) -> Callable[[Broken], Broken]:
    """A set-up, with the finding that must come first."""

    def keep(made: Broken) -> Broken:
        BROKEN[made.__name__] = (code, item, made)
        return made

    return keep


def slide(**joint: Any) -> Robot:
    """A sledge that slides along x."""
    robot = Robot("rail")
    robot.add_link("bed")
    robot.add_link("sledge", mass=2.0, inertia=UNIT, collision={"box": (0.1, 0.1, 0.1)})
    robot.add_joint("rail", "prismatic", parent="bed", child="sledge", axis="x",
                    **({"effort": 200.0, "velocity": 1.0} | joint))  # fmt: skip
    return robot


def cart(grip: float) -> Robot:
    robot = Robot("trolley")
    robot.base = "floating"
    robot.add_material("tyre", density=1000, friction=grip)
    robot.add_material("slick", density=1000, friction=0.0)
    robot.add_link("frame", mass=10, centre=(0, 0, -0.02), inertia=(0.2, 0.2, 0.3),
                   collision={"sphere": 0.03, "at": (-0.3, 0, -0.07)}, surface="slick")  # fmt: skip
    for side, y in (("left", 0.3), ("right", -0.3)):
        robot.add_link(side, mass=1, inertia=(3e-3, 5e-3, 3e-3), material="tyre",
                       collision={"cylinder": {"radius": 0.1, "length": 0.04},
                                  "at": {"rpy": (np.pi / 2, 0, 0)}})  # fmt: skip
        robot.add_joint(side, "continuous", parent="frame", child=side, at=(0, y, 0), axis="y",
                        effort=20.0)  # fmt: skip
        robot.add_motor(side, joint=side, mode="velocity", d=50)
    return robot


def parallelogram() -> Robot:
    robot = Robot("parallelogram")
    robot.add_link("base")
    for name, x in (("left", 0.0), ("right", 0.5)):
        robot.add_link(name, mass=1, centre=(0, 0, 0.2), inertia=UNIT)
        robot.add_joint(name, "continuous", parent="base", child=name, at=(x, 0, 0), axis="y",
                        effort=50.0)  # fmt: skip
    robot.add_link("bar", mass=1, centre=(0.25, 0, 0), inertia=UNIT)
    robot.add_joint("knee", "continuous", parent="left", child="bar", at=(0, 0, 0.4), axis="y")
    robot.add_closure("pin", "hinge", between=("bar", "right"), at=(0.5, 0, 0), axis="y")
    return robot


@broken("friction-too-large", "swing")
def friction_above_the_motor() -> Recording:
    robot = pendulum(1.0, 1.0, friction=30.0, effort=20.0)
    robot.add_motor("drive", joint="swing", p=1000, d=50)
    return simulate(robot, motion=[{"joints": {"swing": 0.8}, "over": 1, "hold": 1}])


@broken("gain-too-low", "swing")
def a_gain_that_sags() -> Recording:
    robot = pendulum(1.0, 2.0, effort=100.0)
    robot.add_motor("drive", joint="swing", p=30, d=10)
    return simulate(robot, motion=[{"joints": {"swing": 1.0}, "over": 1, "hold": 3}])


@broken("feedback-sign", "swing")
def feedback_of_the_wrong_sign() -> Recording:
    robot = pendulum(1.0, 2.0, effort=60.0)
    robot.add_motor("drive", joint="swing", mode="effort")

    def control(simulation: Simulation) -> None:
        now = simulation.state
        effort = 80 * (now.positions["swing"] - 0.3) - 5 * now.velocities["swing"]
        simulation.command(efforts={"swing": effort})

    return simulate(robot, seconds=2, controllers=[(control, 500)])


@broken("latency-oscillation", "swing")
def readings_that_come_late() -> Recording:
    robot = pendulum(1.0, 2.0, effort=200.0)
    robot.add_motor("drive", joint="swing", mode="effort")
    robot.add_sensor("encoder", "encoder", joint="swing", rate=500, latency="80 ms")
    last: list[float] = []

    def control(simulation: Simulation) -> None:
        seen = simulation.read("encoder")
        position = 0.0 if seen is None else seen["position"]
        rate = (position - last[-1]) * 500 if last else 0.0
        last.append(position)
        effort = 150 * (0.4 - position) - 25 * rate
        simulation.command(efforts={"swing": max(-60.0, min(60.0, effort))})

    return simulate(robot, seconds=5, controllers=[(control, 500)])


@broken("gains-unstable", "swing")
def a_controller_called_too_seldom() -> Recording:
    robot = pendulum(1.0, 2.0, effort=100)
    robot.add_motor("drive", joint="swing", mode="effort")

    def control(simulation: Simulation) -> None:
        now = simulation.state
        effort = -5e4 * now.positions["swing"] - 4e3 * now.velocities["swing"]
        simulation.command(efforts={"swing": effort})

    return simulate(robot, posture={"swing": 0.5}, seconds=1, controllers=[(control, 100)])


@broken("wheel-spins", "left")
def wheels_without_grip() -> Recording:
    scene = Scene("ice", ground=Ground())
    scene.add_robot(cart(0.02), at=(0, 0, 0.1))
    simulation = Simulation(scene)
    simulation.command(velocities={"left": 30.0, "right": 30.0})
    simulation.step(seconds=3)
    return simulation.recording


@broken("blocked", "frame")
def a_cart_against_a_wall() -> Recording:
    scene = Scene("wall", ground=Ground())
    scene.add_robot(cart(0.8), at=(0, 0, 0.1))
    bumper = {"box": (0.5, 0.4, 0.1), "at": (0, 0, 0.05)}
    frame = scene.robot.links["frame"]
    frame.change(collision=[{"sphere": 0.03, "at": (-0.3, 0, -0.07)}, bumper])
    scene.add_obstacle("wall", box=(0.2, 3, 1), at=(0.6, 0, 0.5))
    simulation = Simulation(scene)
    simulation.command(velocities={"left": 8.0, "right": 8.0})
    simulation.step(seconds=3)
    return simulation.recording


@broken("at-stop", "rail")
def a_target_beyond_a_stop() -> Recording:
    robot = slide(lower=-1.0, upper=0.3)
    robot.add_motor("drive", joint="rail", p=300, d=100)
    return simulate(robot, motion=[{"joints": {"rail": 0.5}, "over": 1, "hold": 2}])


@broken("blocked", "rail")
def something_in_the_way() -> Recording:
    scene = Scene("jam")
    robot = slide()
    robot.add_motor("drive", joint="rail", p=2000, d=200)
    scene.add_robot(robot)
    scene.add_obstacle("crate", box=(0.1, 0.5, 0.5), at=(0.3, 0, 0))
    return simulate(scene, motion=[{"joints": {"rail": 0.5}, "over": 1, "hold": 1}])


@broken("tipped-over", "hull")
def a_walker_on_its_back() -> Recording:
    walker = mooring.read(WALKER.document)
    posture = dict(walker.postures["standing"]) | {"base.qx": 1.0, "base.qw": 0.0, "base.z": 0.5}
    scene = Scene("pier", ground=Ground(height=-0.5))
    scene.add_robot(walker)
    return simulate(scene, posture=posture, seconds=2)


@broken("tipped-over", "mast")
def a_tall_thing_that_is_swung() -> Recording:
    robot = Robot("tall")
    robot.base = "floating"
    robot.add_link("mast", mass=2.0, inertia=(0.3, 0.3, 0.02),
                   collision={"box": (0.1, 0.1, 1.0)})  # fmt: skip
    robot.add_link("boom", mass=5.0, centre=(0.8, 0, 0), inertia=(0.05, 0.3, 0.3))
    robot.add_joint("slew", "revolute", parent="mast", child="boom", at=(0, 0, 0.5), axis="z",
                    lower=-3, upper=3, effort=100.0, velocity=3.0)  # fmt: skip
    robot.add_motor("drive", joint="slew", p=500, d=100)
    return simulate(robot, motion=[{"joints": {"slew": 1.0}, "over": 1, "hold": 2}])


@broken("motors-fight", "left and right")
def two_motors_on_one_loop() -> Recording:
    robot = parallelogram()
    for name in ("left", "right"):
        robot.add_motor(name, joint=name, p=500, d=50)
    simulation = Simulation(robot)
    simulation.step(seconds=0.1)
    for k in range(20):
        simulation.command(positions={"left": 0.01 * k, "right": -0.01 * k})
        simulation.step(seconds=0.05)
    simulation.step(seconds=1)
    return simulation.recording


@broken("exploded", "b")
def a_step_too_long_for_what_spins() -> Recording:
    robot = Robot("spinner")
    robot.add_link("post")
    robot.add_link("arm", mass=1, centre=(1, 0, 0), inertia=UNIT)
    robot.add_link("whip", mass=1, centre=(1, 0, 0), inertia=UNIT)
    robot.add_joint("a", "continuous", parent="post", child="arm", axis="z")
    robot.add_joint("b", "continuous", parent="arm", child="whip", at=(1, 0, 0), axis="z")
    return simulate(robot, velocities={"a": 40.0, "b": -60.0}, seconds=5, step=0.02, rate=50)


@broken("step-too-long", "swing")
def a_spring_too_quick_for_the_step() -> Recording:
    robot = pendulum(1.0, 2.0, stiffness=2.0 * (2 * np.pi * 200) ** 2)
    return simulate(robot, posture={"swing": 0.01}, seconds=1)


@broken("motors-fight", "left and right")
def a_loop_torn_open() -> Recording:
    robot = Robot("press")
    robot.add_link("frame")
    for name, x in (("left", 0.0), ("right", 1.0)):
        robot.add_link(name, mass=1, inertia=(0.1, 0.1, 0.1))
        robot.add_joint(name, "prismatic", parent="frame", child=name, at=(x, 0, 0))
        robot.add_motor(name, joint=name, mode="motion")
    robot.add_closure("bar", "ball", between=("left", "right"))

    def pull(simulation: Simulation) -> None:
        way = 0.2 * simulation.time
        simulation.command(positions={"left": way, "right": -way})

    return simulate(robot, seconds=0.5, controllers=[(pull, 1000)])


@broken("target-too-fast", "rail")
def a_motion_faster_than_the_joint() -> Recording:
    robot = slide(velocity=0.2)
    robot.add_motor("drive", joint="rail", p=2000, d=200)
    return simulate(robot, motion=[{"joints": {"rail": 0.5}, "over": 0.5, "hold": 0.2}])


@broken("motor-saturated", "swing")
def a_motor_too_weak_to_hold() -> Recording:
    weak = pendulum(1.0, 2.0, effort=5.0)
    weak.add_motor("drive", joint="swing", p=1000, d=50)
    return simulate(weak, posture={"swing": 1.5}, seconds=1)


@broken("motor-tripped", "swing")
def a_motor_that_trips() -> Recording:
    weak = pendulum(1.0, 2.0, effort=10.0)
    weak.add_motor("drive", joint="swing", p=1000, d=50, at_limit="trip")
    return simulate(weak, motion=[{"joints": {"swing": 1.5}, "over": 2, "hold": 1}])


@broken("motion-too-strong", "swing")
def a_prescribed_motion_beyond_the_motor() -> Recording:
    robot = pendulum(1.0, 2.0, effort=10.0)
    robot.add_motor("drive", joint="swing", mode="motion")
    return simulate(robot, motion=[{"joints": {"swing": 1.5}, "over": 2}])


@broken("target-jumps", "rail")
def a_target_that_jumps() -> Recording:
    robot = slide()
    robot.add_motor("drive", joint="rail", p=1e4, d=1e3)
    simulation = Simulation(robot)
    simulation.step(seconds=0.2)
    simulation.command(positions={"rail": "1 m"})
    simulation.step(seconds=2)
    return simulation.recording


@broken("at-stop", "rail")
def a_stop_that_is_hit() -> Recording:
    return simulate(slide(upper="300 mm"), velocities={"rail": 1.0}, seconds=1)


@broken("overlap-at-start", "bed and sledge")
def shapes_inside_each_other() -> Recording:
    scene = Scene("bad")
    scene.add_obstacle("bed", box=(0.4, 0.4, 0.2), at=(0, 0, 0))
    scene.add_body("sledge", box=(0.2, 0.2, 0.2), mass=1, at=(0, 0, 0.12))
    return simulate(scene, seconds=1)


@broken("fell-through", "stone")
def a_body_without_shapes() -> Recording:
    scene = Scene("quay", ground=Ground())
    scene.robot.add_link("stone", mass=2, inertia=UNIT)
    scene.robot.add_joint("stone", "floating", parent="world", child="stone", at=(0, 0, 1))
    return simulate(scene, seconds=2)


@broken("fell-away", "stone")
def a_scene_without_ground() -> Recording:
    scene = Scene("void")
    scene.add_body("stone", mass=1, sphere=0.1, at=(0, 0, 0))
    return simulate(scene, seconds=4, step=0.01, rate=10)


@broken("mass-ratio", "chock_0 and slab")
def a_slab_on_chocks_that_weigh_nothing() -> Recording:
    scene = Scene("crushed", ground=Ground())
    for k, (x, y) in enumerate(((-0.3, -0.3), (-0.3, 0.3), (0.3, -0.3), (0.3, 0.3))):
        scene.add_body(f"chock_{k}", mass=0.05, box=(0.1, 0.1, 0.1), at=(x, y, 0.05))
    scene.add_body("slab", mass=4000, box=(1, 1, 0.2), at=(0, 0, 0.2))
    return simulate(scene, seconds=1)


@broken("soft-limit", "rail")
def a_target_beyond_the_soft_limit() -> Recording:
    robot = slide(lower=-1.0, upper=1.0, soft={"upper": 0.3, "lower": -0.3})
    robot.add_motor("drive", joint="rail", p=5000, d=500)
    return simulate(robot, motion=[{"joints": {"rail": 0.5}, "over": 1, "hold": 0.5}])


@broken("stop-passed", "rail")
def a_stop_the_accurate_stepper_does_not_have() -> Recording:
    robot = slide(lower=-0.1, upper=0.1)
    return simulate(robot, velocities={"rail": 0.5}, seconds=1, stepper="accurate")


@broken("loop-seized", "loops")
def pins_far_out_of_line() -> Recording:
    robot = parallelogram()
    robot.closures["pin"].axis = (0.0, 0.999, 0.045)
    return simulate(robot, posture={}, seconds=1)


@broken("slipped", "foot")
def a_foot_that_is_dragged() -> Recording:
    scene = Scene("dragged", ground=Ground())
    sledge = Robot("sledge")
    sledge.add_link("rail")
    sledge.add_link("shoe", mass=2, inertia=(0.1, 0.1, 0.1))
    sledge.add_link("foot", mass=2, inertia=(0.1, 0.1, 0.1), collision={"box": (0.2, 0.1, 0.1)})
    sledge.add_joint("slide", "prismatic", parent="rail", child="shoe", axis="x", effort=500)
    sledge.add_joint("drop", "prismatic", parent="shoe", child="foot", axis="z")
    sledge.add_motor("pull", joint="slide", p=1e4, d=1e3)
    scene.add_robot(sledge, at=(0, 0, 0.05))
    return simulate(scene, motion=[{"joints": {"slide": 0.4}, "over": 1}])


def tracking(robot: Robot) -> Recording:
    return simulate(robot, motion=[{"joints": {"swing": 0.8}, "over": 1, "hold": 1}])


def sound() -> dict[str, Callable[[], Recording]]:
    """Nothing is wrong with these."""
    good = pendulum(1.0, 2.0, effort=100.0, friction=0.5)
    good.add_motor("drive", joint="swing", p=2000, d=100)
    blocks = Scene("blocks", ground=Ground())
    for k in range(3):
        blocks.add_body(f"block_{k}", box=(0.2, 0.2, 0.2), mass=2, at=(0, 0, 0.1 + 0.2 * k))
    held = parallelogram()
    held.add_motor("left", joint="left", p=500, d=50)
    rolling = Scene("floor", ground=Ground())
    rolling.add_robot(cart(0.8), at=(0, 0, 0.1))

    def rolls() -> Recording:
        simulation = Simulation(rolling)
        simulation.command(velocities={"left": 5.0, "right": 5.0})
        simulation.step(seconds=2)
        return simulation.recording

    def scene(name: Any, file: str) -> Callable[[], Recording]:
        return lambda: simulate(mooring.read_scene(name.document.with_name(file)), rate=50)

    return {
        "a free pendulum": lambda: simulate(pendulum(), posture={"swing": 0.5}, seconds=2),
        "a servo": lambda: tracking(good),
        "blocks": lambda: simulate(blocks, seconds=2),
        "a driven loop": lambda: simulate(
            held, motion=[{"joints": {"left": 0.5}, "over": 1, "hold": 0.5}]
        ),
        "a cart": rolls,
        "a standing walker": lambda: simulate(
            mooring.read(WALKER.document), posture="standing", seconds=2
        ),
        "a stowed tender": lambda: simulate(
            mooring.read(LINE_TENDER.document), posture="stowed", seconds=1
        ),
        "the cart on its quay": scene(DRUM_CART, "quay.yaml"),
        "the tender and the bollard": scene(LINE_TENDER, "bollard.yaml"),
        "the walker on its breakwater": scene(WALKER, "breakwater.yaml"),
    }


class Causes(unittest.TestCase):
    def test_every_broken_set_up_has_its_cause_first(self) -> None:
        self.assertGreaterEqual(len(BROKEN), 25)
        for name, (code, item, made) in BROKEN.items():
            with self.subTest(name):
                found = made().findings
                self.assertTrue(found)
                self.assertEqual((found[0].code, found[0].item), (code, item), found[0])
                self.assertTrue(found[0].remedy)

    def test_sound_set_ups_have_no_findings(self) -> None:
        for name, made in sound().items():
            with self.subTest(name):
                self.assertEqual([str(finding) for finding in made().findings], [])
