"""A user's script, as the type checker in his editor sees it."""

import inspect
import json
import subprocess
import sys
import unittest
from pathlib import Path

from mooring import Simulation
from mooring.simulation.options import SimulationOptions
from tests.support import folder_for

RIGHT = """
from collections.abc import Sequence
import mooring
from mooring import Recording, Simulation

robot = mooring.Robot("davit")
robot.add_link("post", mass=30, inertia=(1, 1, 1))
robot.add_link("arm", box=("1 m", 0.1, 0.1), mass="8 kg")
robot.add_joint("swing", "revolute", parent="post", child="arm", limits={"lower": "-90 deg"})

def steady(run: Simulation) -> None:
    run.command(positions={"swing": 0.1})

one: Recording = mooring.simulate(robot, seconds=2, stepper="accurate", controllers=[(steady, 50)])
many: list[Recording] = mooring.simulate(robot, copies=4, vary={"arm.mass": (1.0, 2.0)}, seconds="1 s")
rows: int = len(one.table)
mooring.picture(robot, view="left").save("a.png")
mooring.picture(robot, view=(30.0, 20.0))
names: Sequence[str] = list(robot.links)
found: bool = mooring.check(robot).ok
"""
WRONG = {
    "mooring.simulate(robot, secnds=2)": "secnds",
    'mooring.simulate(robot, stepper="robst")': "No overload",
    "wrong: Recording = mooring.simulate(robot, copies=4)": "list[Recording]",
    "many[0].table.index; mooring.simulate(robot, copies=4).table": "table",
    'mooring.picture(robot, view="lft")': "lft",
    'mooring.picture(robot, viw="left")': "viw",
    'robot.add_joint("a", "revolut", parent="post", child="arm")': "revolut",
    'robot.add_link("b", mas=3)': "mas",
    "mooring.Simulation(robot, postur=None)": "postur",
    "robot.jonts": "jonts",
    'mooring.check("davit.yaml")': "str",
}


class Typed(unittest.TestCase):
    def test_what_is_right_passes_and_each_mistake_is_found(self) -> None:
        folder = folder_for(self)
        (folder / "right.py").write_text(RIGHT)
        (folder / "wrong.py").write_text(RIGHT + "".join(f"{line}\n" for line in WRONG))
        command = [
            sys.executable,
            "-m",
            "mypy",
            "--strict",
            "--no-error-summary",
            "--cache-dir",
            "cache",
        ]
        done = {
            name: subprocess.run(
                [*command, name], cwd=folder, capture_output=True, text=True, check=False
            )
            for name in ("right.py", "wrong.py")
        }
        self.assertEqual(done["right.py"].stdout, "")
        told = done["wrong.py"].stdout.splitlines()
        first = RIGHT.count("\n") + 1
        for number, (line, word) in enumerate(WRONG.items(), first):
            with self.subTest(line):
                here = [t for t in told if t.startswith(f"wrong.py:{number}: error")]
                self.assertTrue(any(word in one for one in here), here)

    def test_another_checker_finds_the_same(self) -> None:
        folder = folder_for(self)
        (folder / "right.py").write_text(RIGHT)
        (folder / "wrong.py").write_text(RIGHT + "".join(f"{line}\n" for line in WRONG))
        (folder / "pyrightconfig.json").write_text('{"typeCheckingMode": "strict"}')
        command = [
            sys.executable,
            "-m",
            "basedpyright",
            "--outputjson",
            "--pythonpath",
            sys.executable,
            ".",
        ]
        done = subprocess.run(command, cwd=folder, capture_output=True, text=True, check=False)
        told = {
            (Path(one["file"]).name, one["range"]["start"]["line"] + 1)
            for one in json.loads(done.stdout)["generalDiagnostics"] if one["severity"] == "error"
        }  # fmt: skip
        first = RIGHT.count("\n") + 1
        self.assertEqual(told, {("wrong.py", first + k) for k in range(len(WRONG))})

    def test_options_that_are_handed_on_are_those_of_a_simulation(self) -> None:
        taken = inspect.signature(Simulation.__init__).parameters
        hints = {
            name: parameter.annotation
            for name, parameter in taken.items()
            if name not in ("self", "what")
        }
        said = {n: hint.__forward_arg__ for n, hint in SimulationOptions.__annotations__.items()}
        self.assertEqual(said, hints)
