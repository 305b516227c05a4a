"""What holds for the project as a whole: layering, whole files, and clean words."""

import ast
import inspect
import re
import subprocess
import unittest
from collections.abc import Callable
from pathlib import Path

import mooring
from mooring.files import write_text, write_whole
from tests.support import ROOT, folder_for

SOURCE = ROOT / "src" / "mooring"
FOR_ITS_ITEMS = ("refuse_unfit", "note_change", "in_scene", "heads", "remembered")
"""What a robot's own parts ask of it, and no user."""


class Layers(unittest.TestCase):
    def test_compiled_rooms_include_downwards(self) -> None:
        below = {
            "geometry": [], "cad": ["geometry"], "drawing": ["geometry"], "tree": ["geometry"],
            "kinematics": ["tree"], "dynamics": ["tree"], "overlaps": ["kinematics"],
            "parallel": ["geometry"], "contact": ["overlaps"],
            "simulation": ["contact", "dynamics", "parallel"],
        }  # fmt: skip

        def allowed(room: str) -> set[str]:
            return {room}.union(*(allowed(lower) for lower in below[room]))

        for room in below:
            for file in (ROOT / "native" / room).rglob("*.*"):
                for named in re.findall(r'#include "(\w+)/', file.read_text()):
                    self.assertIn(named, allowed(room), file)
        self.assertEqual({f.name for f in (ROOT / "native").iterdir()}, {*below, "bindings"})

    def test_the_core_does_not_print(self) -> None:
        for room in ("units", "cad", "model", "formats", "tree", "kinematics", "dynamics",
                     "simulation", "checks"):  # fmt: skip
            for file in (SOURCE / room).rglob("*.py"):
                for node in ast.walk(ast.parse(file.read_text())):
                    called = isinstance(node, ast.Call) and getattr(node.func, "id", "")
                    self.assertNotEqual(called, "print", file)

    def test_everything_public_is_documented_with_what_it_takes_and_an_example(self) -> None:
        for name in sorted(n for n in dir(mooring) if not n.startswith("_")):
            thing = getattr(mooring, name)
            if inspect.isfunction(thing):
                self.documented(name, thing)
                self.assertIn("Example", inspect.getdoc(thing) or "", name)
            elif inspect.isclass(thing) and not issubclass(thing, Exception):
                about = inspect.getdoc(thing) or ""
                for call, method in vars(thing).items():
                    if call.startswith("_") or not inspect.isfunction(method):
                        continue
                    self.documented(f"{name}.{call}", method)
                    shown = "Example" in method.__doc__ or f".{call}(" in about
                    self.assertTrue(shown or call in FOR_ITS_ITEMS, f"{name}.{call}: no example")

    def documented(self, name: str, call: Callable[..., object]) -> None:
        about = inspect.getdoc(call) or ""
        self.assertTrue(about, name)
        for given in set(inspect.signature(call).parameters) - {"self", "cls"}:
            self.assertRegex(about, rf"\b{given}\b", name)

    def test_what_windows_are_told_is_heard_and_what_they_ask_is_answered(self) -> None:
        page = SOURCE / "page"
        said = "".join(f.read_text() for f in page.rglob("*") if f.suffix in (".py", ".js"))
        told = set(re.findall(r'\btell\(\s*"(\w+)"', said))
        self.assertGreater(len(told), 15)
        self.assertEqual(told, set(re.findall(r'hub\.on\("(\w+)"', said)))
        window = (page / "shell" / "window.py").read_text()
        answered = set(re.findall(r'"(\w+)": (?:self\._|lambda said)', window))
        self.assertEqual(answered, set(re.findall(r'\.ask\("(\w+)"', said)))


class Files(unittest.TestCase):
    def test_a_file_is_written_whole_or_not_at_all(self) -> None:
        file = folder_for(self) / "deep" / "table.csv"
        write_text(file, "before")
        with self.assertRaises(RuntimeError), write_whole(file) as stream:
            stream.write(b"half of i")
            raise RuntimeError("the power went out")
        self.assertEqual(file.read_text(), "before")
        self.assertEqual([f.name for f in file.parent.iterdir()], ["table.csv"])

    def test_nothing_of_this_machine_is_in_any_file(self) -> None:
        listed = subprocess.run(
            ["git", "ls-files"], cwd=ROOT, capture_output=True, text=True, check=False
        ).stdout.split()
        files = [ROOT / name for name in listed] or list(ROOT.glob("*.*"))
        words = re.compile(rb"/" rb"work/|/" rb"root/|py" rb"pi\.org|deb" rb"ian\.org")
        for file in files:
            if file.suffix in (".png", ".step") or not Path(file).is_file():
                continue
            self.assertIsNone(words.search(file.read_bytes()), file)
