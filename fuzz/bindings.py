"""Calls of the compiled core with wrong arguments: each ends well or in a Python error.

`samples` has a valid call of every function and method of `mooring._native`; an attempt changes
one or two of its arguments. Under `make sanitize`, wrong memory accesses end the process.
"""

from __future__ import annotations

import math
import random
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any
from unittest import mock

import numpy as np
from tests.support import line_tender

from mooring import Scene, Simulation, _native, picture
from mooring.drawing import render
from mooring.errors import ModelError
from mooring.kinematics.inverse import solve
from mooring.kinematics.overlaps.shapes import shapes_of

Call = tuple[Callable[..., Any], tuple[Any, ...]]
REFUSALS = (TypeError, ValueError, IndexError, RuntimeError, AttributeError, OverflowError)
"""What the bindings raise; `MemoryError` where a size is beyond what the machine has."""


def scene() -> Scene:
    """A machine with loops, springs, motors and sensors, and a ball in water and wind."""
    made = Scene("pool", ground={"height": -2})
    made.add_robot(line_tender())
    made.add_body("ball", sphere=0.2, mass=1, at=(3, 0, 1))
    made.robot.add_force("air", "drag", link="ball", linear=1)
    made.robot.add_force("sea", "buoyancy", link="ball", fineness=4)
    made.robot.add_sensor(
        "count", "encoder", joint=next(iter(made.robot.motors.values())).joint, rate=100
    )
    return made


def _captured(module: Any, name: str, use: Callable[[], object]) -> tuple[Any, ...]:
    """The arguments of a function's first call."""
    calls: list[tuple[Any, ...]] = []
    real = getattr(module, name)

    def spy(*arguments: Any) -> Any:
        calls.append(arguments)
        return real(*arguments)

    with mock.patch.object(module, name, spy):
        use()
    return calls[0]


def samples() -> dict[str, Callable[[], Call]]:
    """A valid call of each function and method, by its name; each call makes new arguments."""
    robot = scene().robot
    simulation = Simulation(scene())
    tree, native = simulation.tree, simulation.tree.native
    m, bodies = len(tree.freedoms), len(tree.links)
    shapes = shapes_of(robot, tree)
    drawing = _captured(render, "draw_picture", lambda: picture(line_tender(), size=(64, 48)))
    frame = next(iter(robot.frames))
    task = _captured(
        solve.kernels, "solve_ik", lambda: solve.solve_ik(robot, frame, {"xyz": (0, 0, 1)})
    )  # fmt: skip
    chance = np.random.default_rng(1)
    triangles, points = chance.normal(size=(9, 3, 3)), chance.normal(size=(5, 3))
    faces, gravity = np.arange(27).reshape(9, 3), np.array([0.0, 0.0, -9.81])
    loops = _native.kinematics.loop_count(native)

    def q() -> Any:
        return tree.neutral()[None].copy()

    def fresh() -> Any:
        return _native.simulation.Simulation(*simulation_arguments)

    simulation_arguments = (
        native, simulation.motors, simulation.forces, simulation.contact, simulation.sensors,
        simulation.plan.timeline, simulation.settings, False, simulation.start_q, simulation.start_v,
    )  # fmt: skip

    def batch() -> Any:
        return _native.simulation.Batch(
            fresh(), 3, 1, np.array([[0, 0, 0], [3, 0, 0]]), np.array([[0, 0]])
        )

    yes = np.ones(3, dtype=bool)
    room = np.zeros
    cad, dyn, kin = _native.cad, _native.dynamics, _native.kinematics
    sim, draw = _native.simulation, _native.drawing
    boxes = cad.Boxes(triangles)
    return {
        "cad.Boxes": lambda: (cad.Boxes, (triangles,)),
        "cad.Boxes.nearest": lambda: (boxes.nearest, (points, room(5), room(5, dtype=np.int64))),
        "cad.Boxes.first_hits": lambda: (boxes.first_hits, (points, points, 10.0, room(5))),
        "cad.Boxes.closest": lambda: (boxes.closest, (triangles, 0.1)),
        "cad.Boxes.facing": lambda: (boxes.facing, (triangles, 0.1, 0.9, room(9, dtype=bool))),
        "cad.crossings": lambda: (cad.crossings, (triangles, points, room(5, dtype=np.int64))),
        "drawing.rasterise": lambda: (draw.rasterise, (
            chance.uniform(1, 30, (27, 3)), faces, 0, room((32, 32), dtype=np.float32),
            room((32, 32), dtype=np.int32))),
        "drawing.draw_picture": lambda: (draw.draw_picture, drawing),
        "drawing.corner_normals": lambda: (
            draw.corner_normals, (triangles.reshape(27, 3), faces, 0.5, room((9, 3, 3)))),
        "tree.Tree": lambda: (_native.tree.Tree, (tree.arrays, tree.loops, tree.joints, tree.springs)),
        "tree.Tree.sound": lambda: (native.sound, (q(),)),
        "tree.Tree.fit": lambda: (native.fit, (q(), room((1, m)))),
        "tree.Tree.move": lambda: (native.move, (q()[0], room(m), 0.1)),
        "tree.Shapes": lambda: (_native.tree.Shapes, (shapes.arrays,)),
        "tree.finite": lambda: (_native.tree.finite, (q(),)),
        "kinematics.link_poses": lambda: (kin.link_poses, (native, q(), room((1, bodies, 4, 4)))),
        "kinematics.jacobian": lambda: (
            kin.jacobian, (native, q(), 1, room(3), room((1, 6, m)))),
        "kinematics.jacobian_rate": lambda: (
            kin.jacobian_rate, (native, q(), room((1, m)), 1, room(3), room((1, 6, m)))),
        "kinematics.mass_centre": lambda: (
            kin.mass_centre, (native, q(), room((1, 3)), room((1, 3, m)))),
        "kinematics.loop_count": lambda: (kin.loop_count, (native,)),
        "kinematics.loop_equations": lambda: (
            kin.loop_equations, (native, q()[0], room(loops), room((loops, m)))),
        "kinematics.close_loops": lambda: (
            kin.close_loops, (native, q()[0], np.ones(m, dtype=bool), room(m) - 3, room(m) + 3, 1e-9, 9)),
        "kinematics.solve_ik": lambda: (kin.solve_ik, task),
        "kinematics.pair_distances": lambda: (
            kin.pair_distances, (native, shapes.native, np.array([[0, 1, 1, 2]]), q(), 1.0,
                                 room((1, 1)), room((1, 1, 9)))),
        "kinematics.meetings": lambda: (
            kin.meetings, (native, shapes.native, np.ones((bodies, bodies), dtype=np.uint8), q(),
                           np.ones((1, bodies), dtype=np.uint8), 0.1)),
        **{
            f"dynamics.{name}": (lambda call: lambda: (
                call, (native, q(), room((1, m)), room((1, m)), gravity, 1, room((1, m)))
            ))(getattr(dyn, name))
            for name in ("inverse_dynamics", "forward_dynamics")
        },
        "dynamics.mass_matrix": lambda: (dyn.mass_matrix, (native, q(), room((1, m, m)))),
        "dynamics.spring_efforts": lambda: (dyn.spring_efforts, (native, q(), room((1, m)))),
        "simulation.State.of": lambda: (sim.State.of, (fresh().save().packed(),)),
        "simulation.State.packed": lambda: (fresh().save().packed, ()),
        "simulation.Simulation": lambda: (sim.Simulation, simulation_arguments),
        "simulation.Simulation.run": lambda: (fresh().run, (3,)),
        "simulation.Simulation.restore": lambda: (fresh().restore, (fresh().save(),)),
        "simulation.Simulation.set_bonds": lambda: (
            fresh().set_bonds, (np.array([1]), np.array([2]), np.eye(4)[None], np.ones((1, 6)))),
        **{
            f"simulation.Simulation.{name}": (lambda name: lambda: (getattr(fresh(), name), ()))(name)
            for name in ("take", "measured", "recorded", "noted", "save")
        },
        "simulation.Batch": lambda: (
            sim.Batch, (fresh(), 3, 1, np.array([[0, 0, 0], [3, 0, 0]]), np.array([[0, 0]]))),
        "simulation.Batch.run": lambda: (batch().run, (2, yes, yes.copy())),
        "simulation.Batch.read": lambda: (batch().read, (room((3, 2)),)),
        "simulation.Batch.tell": lambda: (batch().tell, (room((3, 1)), yes)),
        "simulation.Batch.begin": lambda: (
            batch().begin, (0, fresh().save(), tree.neutral(), room(m))),
    }  # fmt: skip


def callables() -> Iterator[str]:
    """The names of all functions, classes and methods of the core."""
    for room in ("cad", "drawing", "tree", "kinematics", "dynamics", "simulation"):
        for name, thing in vars(getattr(_native, room)).items():
            if isinstance(thing, type):
                if name != "State":
                    yield f"{room}.{name}"
                for method, value in vars(thing).items():
                    if not method.startswith("_") and callable(value):
                        yield f"{room}.{name}.{method}"
            elif callable(thing):
                yield f"{room}.{name}"


def wrong(value: Any, chance: random.Random) -> Any:
    """Another value in place of a valid one."""
    if isinstance(value, tuple) and hasattr(value, "_replace"):
        field = chance.choice(value._fields)
        return value._replace(**{field: wrong(getattr(value, field), chance)})
    if isinstance(value, list) and value and chance.random() < 0.8:
        made = list(value)
        place = chance.randrange(len(made))
        made[place] = wrong(made[place], chance)
        return made
    if isinstance(value, np.ndarray):
        return _wrong_array(value, chance)
    if isinstance(value, bool):
        return chance.choice([not value, 7, None])
    if isinstance(value, int):
        return chance.choice([-1, 0, value + 1, 99, 2**40, -(2**62), 2**70, 0.5, None])
    if isinstance(value, float):
        return chance.choice([math.nan, math.inf, -math.inf, -1.0, 0.0, 1e300, "x"])
    if isinstance(value, str):
        return chance.choice(["", "nothing", "\0", 3])
    if isinstance(value, bytes):
        cut = bytearray(value)
        for _ in range(chance.randrange(1, 9)):
            cut[chance.randrange(len(cut))] = chance.randrange(256)
        return bytes(cut[: chance.randrange(len(cut))] if chance.random() < 0.3 else cut)
    return chance.choice([None, 3, "x", ()])


def _wrong_array(value: Any, chance: random.Random) -> Any:
    how = chance.randrange(6)
    if how == 0:
        return value.astype(chance.choice([np.float32, np.int32, np.uint8, np.complex128]))
    if how == 1 and value.ndim:
        return np.repeat(value, 2, axis=chance.randrange(value.ndim))
    if how == 2 and value.ndim:
        return np.ascontiguousarray(value[..., : max(0, value.shape[-1] - 1)])
    if how == 3:
        return value[None]
    if how == 4 and value.ndim > 1:
        return value.T
    made = np.array(value)
    if made.size:
        odd: list[Any] = (
            [-1, -2, 7, 2**40] if made.dtype.kind in "iu" else [math.nan, math.inf, -1.0, 1e300]
        )
        if made.dtype == bool:
            odd = [True, False]
        with np.errstate(all="ignore"):
            made.flat[chance.randrange(made.size)] = np.array(chance.choice(odd)).astype(made.dtype)
    return made


def bindings(_: Path) -> Callable[[random.Random], None]:
    """The target of the fuzzer."""
    valid = samples()

    def attempt(chance: random.Random) -> None:
        made: Any = valid[chance.choice(list(valid))]()
        call, arguments = made
        changed = list(arguments)
        for _ in range(chance.randint(0, 2) if changed else 0):
            place = chance.randrange(len(changed))
            changed[place] = wrong(changed[place], chance)
        try:
            call(*changed)
        except REFUSALS as error:
            raise ModelError(str(error) or type(error).__name__) from error
        except MemoryError as error:
            raise ModelError("there is no room for that") from error

    return attempt
