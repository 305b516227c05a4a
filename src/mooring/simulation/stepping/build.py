"""From a robot to the arrays that steppers work on."""

from __future__ import annotations

import numpy as np

from mooring._native.simulation import MODE_CODES
from mooring.errors import ModelError, UnsoundRobotError
from mooring.model import Robot
from mooring.model.scene import Ground
from mooring.simulation.stepping.arrays import MotorArrays
from mooring.tree import Tree
from mooring.tree.arrays import FLOATING

MODES = {code: mode for mode, code in MODE_CODES.items()}
"""How a motor is driven, by its code."""


def motor_arrays(robot: Robot, tree: Tree, powered: bool, step: float) -> MotorArrays:
    """The motors in the order of the document; none where they are off."""
    motors = list(robot.motors.values()) if powered else []
    freedoms = np.array([tree.freedom(m.joint) for m in motors], dtype=np.int64)
    return MotorArrays(
        freedom=freedoms,
        mode=np.array([m.control.code for m in motors], dtype=np.int64),
        p=np.array([m.p or 0.0 for m in motors], dtype=float),
        i=np.array([m.i or 0.0 for m in motors], dtype=float),
        d=np.array([m.d or 0.0 for m in motors], dtype=float),
        effort=np.ascontiguousarray(tree.joints.effort[freedoms]),
        speed=np.ascontiguousarray(tree.joints.velocity[freedoms]),
        weightless=np.array([m.feed_forward == "gravity" for m in motors], dtype=np.bool_),
        trips=np.array([m.at_limit == "trip" for m in motors], dtype=np.bool_),
        stall=np.array([m.ends[0] * m.gear_ratio for m in motors], dtype=float),
        no_load=np.array([m.ends[1] / m.gear_ratio for m in motors], dtype=float),
        efficiency=np.array([m.efficiency for m in motors], dtype=float),
        delay=np.array([round(m.delay / step) for m in motors], dtype=np.int64),
        period=np.array([max(1, round(m.period / step)) for m in motors], dtype=np.int64),
        resolution=np.array([m.resolution for m in motors], dtype=float),
        rotor=np.array(
            [m.rotor_inertia * m.gear_ratio**2 if m.gives else 0.0 for m in motors], dtype=float
        ),
        play=np.array([m.backlash for m in motors], dtype=float),
        stiffness=np.array(
            [np.inf if m.gear_stiffness is None else m.gear_stiffness for m in motors], dtype=float
        ),
        by_rotor=np.array([m.feedback == "motor" for m in motors], dtype=np.bool_),
    )


def refuse_massless(tree: Tree) -> None:
    """A moving link without mass has no answer to any force.

    Raises:
        UnsoundRobotError: there is such a link.
    """
    parents = tree.arrays.parent
    carried = tree.arrays.mass.copy()
    for body in range(len(parents) - 1, 0, -1):
        carried[parents[body]] += carried[body]
    for body in range(len(parents)):
        if tree.arrays.freedom[body] >= 0 and carried[body] <= 0:
            raise UnsoundRobotError(
                f"link {tree.links[body]!r} moves, and neither it nor anything on it has mass; "
                "give it a material or a mass"
            )


def refuse_rough(robot: Robot) -> None:
    """The accurate stepper is for smooth motion.

    Raises:
        ModelError: a joint has dry friction.
    """
    rough = [name for name, joint in robot.joints.items() if joint.friction > 0]
    rough += [m.joint for m in robot.motors.values() if m.efficiency < 1]
    if rough:
        raise ModelError(
            f"the accurate stepper has no dry friction ({', '.join(rough)}); use stepper='robust'"
        )
    late = [m.joint for m in robot.motors.values() if m.delay or m.period or m.resolution]
    if late:
        raise ModelError(
            "the accurate stepper has no drives that look now and then or act late "
            f"({', '.join(late)}); use stepper='robust'"
        )
    loose = [f"the motor of {m.joint}" for m in robot.motors.values() if m.gives]
    loose += [f"the closure {name}" for name, c in robot.closures.items() if c.gives]
    loose += [f"the cable {name}" for name in robot.cables]
    loose += [f"the force {name}" for name in robot.forces]
    loose += [f"the grip {name}" for name in robot.grips]
    loose += [f"the conveyor {name}" for name in robot.conveyors]
    if loose:
        raise ModelError(
            "the accurate stepper has no play, no give, no cables, no forces with a law, no grips "
            f"and no conveyors ({', '.join(loose)}); use stepper='robust'"
        )


def refuse_falling(robot: Robot, tree: Tree, ground: Ground | None) -> None:
    """The accurate stepper has no contact: what is not held would fall through what it stands on.

    Raises:
        ModelError: something floats, and there is something it could stand on.
    """
    arrays, floating = tree.arrays, np.flatnonzero(tree.arrays.kind == FLOATING)
    held_by = np.zeros(len(tree.links), dtype=np.int64)
    for body in range(1, len(tree.links)):
        held_by[body] = body if arrays.kind[body] == FLOATING else held_by[arrays.parent[body]]
    solid = {int(held_by[tree.link(n)]) for n, link in robot.links.items() if link.collisions}
    if len(floating) and (ground is not None or len(solid) > 1):
        names = ", ".join(tree.links[k] for k in floating[:3])
        raise ModelError(
            f"the accurate stepper has no contact, and {names} would fall "
            "through everything; use stepper='robust', or say contact=False"
        )
