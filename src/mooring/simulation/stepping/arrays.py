"""What a simulation needs besides the tree and contact, as plain arrays for the compiled
core."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from mooring.geometry import Array
from mooring.tree.arrays import Indices


class MotorArrays(NamedTuple):
    """One row a motor."""

    freedom: Indices
    mode: Indices
    """a code of `MODE_CODES`"""
    p: Array
    i: Array
    d: Array
    effort: Array
    """largest effort; inf where there is none"""
    speed: Array
    """largest speed it goes at by itself; inf where there is none"""
    weightless: NDArray[np.bool_]
    """whether it adds the effort that holds the machine up"""
    trips: NDArray[np.bool_]
    """whether it stays off once it has come to its largest effort"""
    stall: Array
    """effort standing still on its torque-speed curve; inf where there is none"""
    no_load: Array
    """speed at which nothing is left of that; inf where there is none"""
    efficiency: Array
    """of its gear, above 0 and at most 1"""
    delay: Indices
    """steps until it acts on what it is told and sees"""
    period: Indices
    """steps from one look to the next"""
    resolution: Array
    """of the positions that it sees; 0 if exact"""
    rotor: Array
    """inertia of the motor behind a gear that has play or gives; 0 if it has none"""
    play: Array
    """of the gear, in all"""
    stiffness: Array
    """of the gear; inf if it is rigid"""
    by_rotor: NDArray[np.bool_]
    """whether it goes by its own position, and not the joint's"""


class CableArrays(NamedTuple):
    """A rope, chain or belt."""

    points: list[tuple[int, tuple[float, float, float]]]
    """the bodies that it passes, and where on them"""
    drums: list[tuple[int, float]]
    """freedoms that wind it up, and length per position"""
    length: float
    stiffness: float
    damping: float
    pushes: bool


class LawArrays(NamedTuple):
    """A force with a law; see `mooring.model.forces.Action`."""

    type: str
    """one of `LAWS`"""
    body: int
    freedom: int
    frame: Array
    """(4, 4) on the body"""
    numbers: Array
    """(k,) its coefficients"""
    points: Array
    """(k, 3) middles of pieces, on the body"""
    volumes: Array
    """(k,) of pieces"""


class ForceArrays(NamedTuple):
    """What acts besides motors, springs and contacts."""

    cables: list[CableArrays]
    gives: Array
    """(closures, 5) stiffness, damping, turning stiffness, turning damping, play"""
    laws: list[LawArrays]


class Commands(NamedTuple):
    """What motors are told: the simulation's own arrays."""

    held: NDArray[np.bool_]
    """(motors,) whether the command counts, and not the timeline"""
    relaxed: NDArray[np.bool_]
    """(motors,) whether it gives nothing"""
    position: Array
    velocity: Array
    effort: Array
    """added to what the motor does by itself"""
    belt: Array
    """(b, 3) how fast the surface of each body runs, in its axes"""
    push: Array
    """(b, 6) moment about the world's origin and force on each body"""


class Watch(NamedTuple):
    """What was noted for the diagnosis."""

    tripped: Array
    """(motors,) when it tripped [s]; inf for not yet"""
    saturated: Array
    """(motors, 3) when first at its largest effort [s], how long [s], the effort it would have
    taken"""
    stop: Array
    """(m, 3) when the lower and upper stop first pushed [s], and the longest time on one [s]"""
    overlapping: Indices
    """(p, 2) pairs of shapes that overlapped; -1 is the ground"""
    overlap: Array
    """(p, 4) of each: when first deeper than a little [s], how deep at most [m], for how long [s],
    energy that parting took [J]"""
    slip: Array
    """(s,) how far each shape has slid on others while pressed on [m]"""
    resonance: Array
    """(m + springs, 2) the largest square of the angle [rad] by which what rings on the spring or
    gain at a freedom, or on a spring between bodies, turns in a step with nothing else holding,
    and a bound of it with all that does; above 0.25 the step damps it"""
    gap: Array
    """(3,) largest gap of couplings and closures, when [s], of which, closures after couplings"""
    sweeps: Array
    """(3,) sweeps of the solver in all, most in one step, steps that ended short of accuracy"""
    fastest: Array
    """(3,) fastest speed, when [s], of which freedom"""


class Columns(NamedTuple):
    """What is recorded, one row an instant."""

    time: Array
    position: Array
    velocity: Array
    target: Array
    """(r, 2 motors) position and velocity of each motor's target"""
    effort: Array
    """(r, motors)"""
    integral: Array
    """(r, motors)"""
    energy: Array
    """(r, 2 + 5): kinetic and potential; given by motors, lost to damping, lost to friction in
    joints, lost in contacts and stops, put in by pushes [J]"""
    gap: Array
    """(r,) largest gap of couplings and closures"""
    touching: Indices
    """(k, 3) of each contact that pushes: its row, first body or -1 for the ground, second body"""
    force: Array
    """(k, 7) where, force on the second body, gap"""


class SensorArrays(NamedTuple):
    """One row a sensor that is measured while stepping."""

    probe: list[str]
    """(n,) each one of `PROBES`"""
    body: Indices
    freedom: Indices
    place: Array
    """(n, 3) on the body"""
    turn: Array
    """(n, 3, 3)"""
    rate: Array
    """(n,) measurements a step, at most 1; each is made at the first step that it is due"""


class StepSettings(NamedTuple):
    """How to step."""

    gravity: Array
    """(3,) [m/s^2]"""
    step: float
    """[s]"""
    every: int
    """steps from one recorded instant to the next; 0 for none"""
    most_sweeps: int
    accuracy: float
    """of velocities [m/s or rad/s]"""
    sleeps: bool
    """what rests need not be computed"""
    threads: int
    """that may work together; what comes out is the same with any number"""
