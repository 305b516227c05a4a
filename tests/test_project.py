"""What holds for the project as a whole: layering, whole files, and clean words."""

import ast
import re
import subprocess
import unittest
from pathlib import Path

from mooring.files import write_text, write_whole
from tests.support import ROOT, folder_for

SOURCE = ROOT / "src" / "mooring"


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
            for file in (ROOT / "native" / room).iterdir():
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

    def test_public_functions_are_documented_with_what_they_take(self) -> None:
        import mooring

        for name in ("read", "read_cad", "check", "simulate", "picture", "Robot"):
            text = getattr(mooring, name).__doc__ or ""
            self.assertIn("Example", text, name)


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
