"""A short run of every fuzzer, and damage that fuzzers have found."""

import unittest
from concurrent.futures import ThreadPoolExecutor

from fuzz.__main__ import attempts
from fuzz.bindings import callables, samples
from fuzz.targets import TARGETS

import mooring
from mooring.errors import InputError
from mooring.units.amount import Amount
from mooring.units.expression import evaluate
from tests.support import folder_for

_SLOW = {
    ".step": 4,
    "expressions": 300,
    "bindings": 600,
    "command_lines": 12,
    "documents": 20,
    "scenes": 20,
    ".yaml": 15,
}
"""Attempts of what takes long, or seldom makes sense."""


class Nonsense(unittest.TestCase):
    def test_every_target(self) -> None:
        with ThreadPoolExecutor(2) as pool:
            runs = {
                target: pool.submit(attempts, target, 10**6, _SLOW.get(target, 40))
                for target in TARGETS
            }
            for target, run in runs.items():
                with self.subTest(target):
                    wrong, ended = run.result()
                    self.assertEqual(wrong, 0)
                    # Some are sound after all: what is attempted gets that far.
                    self.assertTrue(ended or target in (".step", ".yaml", ".scene.yaml", "scenes"))

    def test_every_binding_of_the_core_takes_valid_calls_and_is_attempted(self) -> None:
        valid = samples()
        self.assertEqual(set(valid), set(callables()))
        for name, make in valid.items():
            with self.subTest(name):
                call, arguments = make()
                call(*arguments)

    def test_what_was_found(self) -> None:
        folder = folder_for(self)
        file = folder / "arm.urdf"
        file.write_bytes(b'<?xml version="1.0" encoding="utf-8"?><robot name="\xe9"><link name="a>')
        with self.assertRaisesRegex(InputError, "not readable as XML"):
            mooring.read(file)
        file.write_text('<robot name="a"><link name="b" odd:mark="1 &lt; 2" plain="3"/></robot>')
        mooring.read(file).write(folder / "again.urdf")
        self.assertIn('odd:mark="1 &lt; 2"', (folder / "again.urdf").read_text())
        for name in ("x" * 300, "a\0b", "\ud800"):
            for suffix in (".yaml", ".urdf", ".step", ".stl", ""):
                for read in (mooring.read, mooring.read_cad, mooring.Recording.read):
                    with self.assertRaises(InputError):
                        read(f"{name}{suffix}")
        with self.assertRaisesRegex(mooring.MooringError, "larger than any machine"):
            mooring.Robot("crane").add_link("jib", cylinder={"radius": 1e300, "length": 1})
        robot = mooring.Robot("crane")
        with self.assertRaises(mooring.MooringError) as refused:
            robot.add_link("jib", mass=10**5000)
        self.assertLess(len(str(refused.exception)), 300)
        with self.assertRaisesRegex(mooring.MooringError, "unknown kind of sensor"):
            robot.add("sensor", "eye", {"kind": {}})
        with self.assertRaises(mooring.MooringError):
            evaluate("1 kg^-200", lambda _: Amount(1.0, ()))
