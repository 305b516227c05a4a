"""Wrong arguments, wherever something is public, by reflection: errors of our own, in words."""

import inspect
import math
import threading
import unittest
from collections.abc import Callable, Iterator
from functools import cache
from typing import Any

import numpy as np

import mooring
from mooring import Robot, Simulation, dynamics, kinematics, simulation
from mooring.demo import LINE_TENDER
from mooring.errors import ModelError, MooringError, RunError
from mooring.model.definition.described import Described
from mooring.model.registry import KINDS
from mooring.model.scene import Scene
from tests.support import folder_for, line_tender
from tests.test_description import sample

WRONG = (object(), "nonsense", math.nan, -1, 10**30, None, (), {}, [[]], {"x": object()}, True, b"x",
         np.full(3, math.nan), ("a", 3), {3: 4}, Robot)  # fmt: skip
FOREIGN = ("instance of", "validator", "NoneType", "pydantic", "object has no", "_native")
"""What no user should have to read, ours or another library's."""
WITHIN = {"context", "heads", "in_scene", "note_change", "place", "refuse_needed", "refuse_unfit",
          "refuse_unfit_dependents", "refuse_unfit_item", "remembered", "section"}  # fmt: skip
"""Public to other rooms of the library, and not to users."""


@cache
def running() -> Simulation:
    run = Simulation(line_tender(), posture="stowed")
    run.step(20)
    return run


def publics() -> Iterator[tuple[str, Callable[..., Any]]]:
    """Everything that can be called, bound to something sound."""
    for room in (mooring, kinematics, dynamics, simulation):
        for name in room.__all__:
            if inspect.isfunction(call := getattr(room, name)):
                yield name, call
    scene = Scene.of(sample())
    assembly = mooring.read_cad(LINE_TENDER.step)
    for owner in (running(), running().recording, scene, scene.robot, assembly):
        for name in dir(type(owner)):
            call = inspect.getattr_static(type(owner), name)
            if not name.startswith("_") and inspect.isfunction(call):
                yield f"{type(owner).__name__}.{name}", getattr(owner, name)


def sound(parameter: inspect.Parameter) -> Any:
    """Something of the right type, and more cannot be known of it."""
    text = str(parameter.annotation)
    for name, value in (
        ("Simulation", running()), ("Robot", line_tender()), ("Scene", Scene.of(sample())),
        ("Recording", running().recording), ("ArrayLike", np.zeros(3)), ("Array", np.zeros(3)),
        ("str", "boom"), ("bool", True), ("int", 1), ("float", 1.0), ("Mapping", {}),
        ("Sequence", ()), ("Callable", print),
    ):  # fmt: skip
        if name in text:
            return value
    return None


class Misuse(unittest.TestCase):
    def refused(self, what: str, call: Callable[..., Any], /, **kwargs: Any) -> str | None:
        """What it says; None if it takes it."""
        try:
            call(**kwargs)
        except MooringError as error:
            words = str(error)
        except Exception as error:
            raise AssertionError(f"{what} raises {error!r}") from error
        else:
            return None
        for foreign in FOREIGN:
            self.assertNotIn(foreign, words, what)
        return words

    def test_every_argument_of_every_call(self) -> None:
        folder = folder_for(self)
        tried = 0
        for name, call in publics():
            if name.split(".")[-1] in WITHIN:
                continue
            parameters = [
                p for p in inspect.signature(call).parameters.values()
                if p.kind not in (p.VAR_KEYWORD, p.VAR_POSITIONAL)
            ]  # fmt: skip
            for chosen in parameters:
                with self.subTest(call=name, argument=chosen.name):
                    given = {
                        p.name: folder / "x" if "PathLike" in str(p.annotation) else sound(p)
                        for p in parameters
                        if p.default is p.empty
                    }
                    words = self.refused(
                        f"{name}({chosen.name}=object())", call, **given | {chosen.name: object()}
                    )
                    self.assertIsNotNone(words, f"{name} takes any {chosen.name}")
                    tried += 1
        self.assertGreater(tried, 200)

    def test_every_field_of_every_item(self) -> None:
        robot = sample()
        items = [
            (kind, item) for kind in KINDS for item in robot.section(kind).values()
            if isinstance(item, Described)
        ]  # fmt: skip
        for label, item in items:
            for field in type(item).model_fields:
                for wrong in WRONG:
                    what = f"{label}.change({field}={wrong!r})"
                    with self.subTest(what):
                        self.refused(what, item.change, **{field: wrong})

    def test_a_file_in_place_of_what_is_in_it(self) -> None:
        for call, reader in (
            (mooring.check, "read"), (mooring.exercise, "read"), (mooring.picture, "read"),
            (kinematics.mobility, "read"), (Simulation, "read_scene"),
            (mooring.simulate, "read_scene"),
        ):  # fmt: skip
            with self.assertRaisesRegex(
                ModelError, rf"read it first: mooring\.{reader}\('x.yaml'\)"
            ):
                call("x.yaml")

    def test_misspelt_options_are_answered_with_a_guess(self) -> None:
        robot = line_tender()
        for call, options, guess in (
            (mooring.simulate, {"secnds": 1}, "did you mean 'seconds'"),
            (mooring.simulate, {"postur": "stowed"}, "did you mean 'posture'"),
            (mooring.exercise, {"stps": 3}, "did you mean 'steps'"),
            (mooring.picture, {"viw": "left"}, "did you mean 'view'"),
            (kinematics.link_poses, {"Q": None}, "takes no 'Q'"),
        ):
            with self.assertRaisesRegex(ModelError, guess):
                call(robot, **options)

    def test_numbers_a_run_cannot_have(self) -> None:
        for options in ({"seed": -1}, {"step": 1e-12}, {"keep": -1}, {"rate": 0}, {"threads": 0}):
            with self.subTest(options), self.assertRaisesRegex(ModelError, next(iter(options))[:4]):
                Simulation(line_tender(), posture="stowed", **options)
        with self.assertRaisesRegex(ModelError, "forward"):
            running().step(-3)

    def test_one_simulation_in_two_threads(self) -> None:
        run = Simulation(line_tender(), posture="stowed")
        other, meet = [], threading.Barrier(2)

        def go() -> None:
            meet.wait()
            try:
                while not other:
                    run.step(50)
            except Exception as error:
                other.append(error)

        threads = [threading.Thread(target=go) for _ in range(2)]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        self.assertIsInstance(other[0], RunError)
        self.assertIn("give each thread its own", str(other[0]))
