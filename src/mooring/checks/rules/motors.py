"""Rules on what drives a robot."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from mooring.checks.rule import Found, rule
from mooring.checks.subject import Subject
from mooring.dynamics import mass_matrix
from mooring.kinematics.mechanism.drivers import transmission
from mooring.model import Motor
from mooring.model.definition.fields import dimension_of
from mooring.units import show

_STEP = 1e-3
"""The time step that gains are judged for [s]."""
_SAG: dict[str, float] = {"rotation": float(np.radians(10)), "translation": 0.05}
"""How far off its target a motor may stand [rad, m], and by which share of the way there is."""
_SAG_SHARE = 0.1


@rule("motor-too-weak", "error", needs_tree=True)
def motor_too_weak(subject: Subject) -> Iterator[Found]:
    """Motors hold the robot up at the neutral posture and in every named one."""
    count = 1 + len(subject.postures)
    yield from _weak(subject, 0, count)


@rule("motor-weak-in-range", "warning", needs_tree=True)
def motor_weak_in_range(subject: Subject) -> Iterator[Found]:
    """Motors hold the robot up while one joint moves through its range."""
    count = 1 + len(subject.postures)
    told = {found.item for found in _weak(subject, 0, count)}
    for found in _weak(subject, count, len(subject.postures_and_sweeps[0])):
        if found.item not in told:
            yield found


def _weak(subject: Subject, first: int, last: int) -> Iterator[Found]:
    words = subject.postures_and_sweeps[1]
    for motor, column in _motors(subject):
        efforts = np.abs(subject.holding[first:last, column])
        if not len(efforts):
            continue
        worst = int(np.argmax(efforts))
        limit = float(subject.tree.joints.effort[subject.tree.freedom(motor.joint)])
        if efforts[worst] > limit:
            dimension = dimension_of("effort", motor.motion)
            yield Found(
                ("motors", motor.name),
                f"motor {motor.name!r} of {motor.joint} has to hold "
                f"{show(float(efforts[worst]), dimension, 3)} {words[first + worst]}, more than "
                f"its {show(limit, dimension, 3)}",
                "take a stronger motor or a larger gear ratio, lighten what it carries, or "
                "balance it with a spring",
            )


@rule("motor-gains-soft", "warning", needs_tree=True)
def motor_gains_soft(subject: Subject) -> Iterator[Found]:
    """A position motor stands near its target under the weight that it holds.

    Without an integral and feed-forward it is off by the effort to hold over p.
    """
    states = 1 + len(subject.postures)
    for motor, column in _motors(subject):
        if (
            not motor.control.tracks_position
            or motor.i
            or motor.feed_forward != "none"
            or not motor.p
        ):
            continue
        efforts = np.abs(subject.holding[:states, column])
        worst = int(np.argmax(efforts))
        sag = float(efforts[worst]) / motor.p
        limits = subject.robot.joints[motor.joint].limits
        span = np.inf
        if limits.lower is not None and limits.upper is not None:
            span = limits.upper - limits.lower
        if sag <= min(_SAG[motor.motion], _SAG_SHARE * span if span > 0 else np.inf):
            continue
        dimension = dimension_of("position", motor.motion)
        effort = show(float(efforts[worst]), dimension_of("effort", motor.motion), 3)
        yield Found(
            ("motors", motor.name, "p"),
            f"motor {motor.name!r} stands off its target by {show(sag, dimension, 3)} "
            f"{subject.postures_and_sweeps[1][worst]}: its p gives {effort} only then",
            "give it more p, an integral i, or feed_forward: gravity",
        )


@rule("device-undriven", "error")
def device_undriven(subject: Subject) -> Iterator[Found]:
    """Motors do what the signals of devices ask for."""
    for device in subject.robot.devices.values():
        for signal, why in device.undriven(subject.robot):
            yield Found(
                ("devices", device.name),
                f"signal {device.name}.{signal} comes to nothing: {why}",
                "give the joint a motor driven by position, or take it out of the device",
            )


@rule("motor-gains-unstable", "warning", needs_tree=True)
def motor_gains_unstable(subject: Subject) -> Iterator[Found]:
    """A controller with a motor's gains is stable at a step of 1 ms.

    For an inertia m, explicit steps of h are stable while p h^2 < 4 m and d h < 2 m, as follows
    from the harmonic oscillator.
    """
    tree = subject.tree
    if not subject.robot.motors:
        return
    q = tree.neutral()
    matrix = mass_matrix(tree, q)
    moves = transmission(tree, q, subject.driven)
    for motor, column in _motors(subject):
        # With all other driven joints held, the inertia that the motor has to move.
        inertia = float(moves[:, column] @ matrix @ moves[:, column])
        p, d = motor.p or 0.0, motor.d or 0.0
        if inertia <= 0:
            continue
        if p * _STEP**2 > 4 * inertia or d * _STEP > 2 * inertia:
            what = "p" if p * _STEP**2 > 4 * inertia else "d"
            largest = 4 * inertia / _STEP**2 if what == "p" else 2 * inertia / _STEP
            yield Found(
                ("motors", motor.name, what),
                f"motor {motor.name!r}: {what} of {p if what == 'p' else d:.3g} in SI is unstable "
                f"at a step of 1 ms: it moves an inertia of {inertia:.3g} kg m^2 or kg",
                f"stay below {largest:.3g}, or give the joint its rotor inertia",
            )


@rule("soft-limits-outside", "warning")
def soft_limits_outside(subject: Subject) -> Iterator[Found]:
    """Soft limits are within the limits."""
    for joint in subject.robot.joints.values():
        soft = joint.limits.soft
        if soft is None:
            continue
        dimension = dimension_of("position", joint.motion)
        for side, sign in (("lower", -1), ("upper", 1)):
            inner, outer = getattr(soft, side), getattr(joint.limits, side)
            if inner is not None and outer is not None and sign * (inner - outer) > 1e-9:
                yield Found(
                    ("joints", joint.name, "limits", "soft"),
                    f"joint {joint.name!r}: the soft {side} limit {show(inner, dimension)} is "
                    f"beyond the limit {show(outer, dimension)}",
                    "bring it inside; a controller must stop before the stop does",
                )


def _motors(subject: Subject) -> Iterator[tuple[Motor, int]]:
    """Motors of joints that drive, and the columns of these."""
    for motor in subject.robot.motors.values():
        if motor.joint in subject.driven:
            yield motor, subject.driven.index(motor.joint)
