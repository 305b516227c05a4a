"""What a step of the walker is made of."""

from __future__ import annotations

import numpy as np

import mooring
from benchmarks.timing import best_of
from mooring import Simulation
from mooring.compiling import entry
from mooring.demo import WALKER
from mooring.dynamics.kernels.bodies import (
    ROW,
    gather_inertias,
    load_joints,
    mass_rows,
    move_bodies,
    place_bodies,
    weigh_bodies,
)
from mooring.simulation.contact.kernels.collect import (
    collect,
    new_contact_scratch,
    new_places,
    place_shapes,
)
from mooring.tree.kernels.branches import factorise_branches

_STEPS = 2000


@entry
def _bodies(tree, q, v, push, gravity, count, factorise):
    m = v.shape[0]
    rows, motion, matrix = np.zeros((tree.parent.shape[0], ROW)), np.zeros((m, 6)), np.zeros((m, m))
    still, bias = np.zeros(m), np.zeros(m)
    for _ in range(count):
        place_bodies(tree, q, rows, motion)
        move_bodies(tree, v, still, gravity, rows, motion)
        weigh_bodies(tree, rows)
        load_joints(tree, rows, motion, push, bias)
        gather_inertias(tree, rows)
        mass_rows(tree, rows, motion, matrix)
        if factorise:
            factorise_branches(tree.before, matrix)


@entry
def _contacts(tree, contact, touch, q, v, gravity, step, count):
    m = v.shape[0]
    rows, motion = np.zeros((tree.parent.shape[0], ROW)), np.zeros((m, 6))
    placed, scratch = new_places(contact.shapes.body.shape[0]), new_contact_scratch()
    place_bodies(tree, q, rows, motion)
    move_bodies(tree, v, np.zeros(m), gravity, rows, motion)
    for _ in range(count):
        place_shapes(contact.shapes, rows, step, placed, touch.path)
        collect(contact, touch, placed, step, scratch)


def parts_of_a_step() -> None:
    """Bodies and their matrix, finding contacts, and solving for them, as shares of a step."""
    simulation = Simulation(mooring.read(WALKER.document), posture="standing", rate=10)
    simulation.step(seconds=1)
    tree, state = simulation.tree.arrays, simulation.state_arrays
    gravity, step = simulation.settings.gravity, simulation.settings.step
    push = simulation.commands.push
    whole = best_of(lambda: simulation.step(_STEPS))
    bodies, factorised = (
        best_of(lambda f=f: _bodies(tree, state.q, state.v, push, gravity, _STEPS, f))
        for f in (False, True)
    )
    found = best_of(
        lambda: _contacts(
            tree, simulation.contact, simulation.touch, state.q, state.v, gravity, step,
            _STEPS,
        )
    )  # fmt: skip
    parts = {
        "places, motions and the mass matrix": bodies,
        "factorising it": factorised - bodies,
        "finding contacts": found,
        "building and solving constraints, taking drift back": whole - factorised - found,
    }
    said = ", ".join(f"{spent / whole:.0%} {what}" for what, spent in parts.items())
    print(f"a step of the standing walker: {said}")
