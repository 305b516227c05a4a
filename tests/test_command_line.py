"""The command line as a user meets it: in a process of its own, good input and bad."""

import json
import shutil
import subprocess
import sys
import unittest
from pathlib import Path

import pandas as pd
from PIL import Image

import mooring
from mooring.demo import LINE_TENDER
from tests.support import ROOT, folder_for, run_mooring

COMMANDS = (
    "parts", "draft", "check", "tree", "picture", "exercise", "open", "run", "film", "export", "diff", "demo",
)  # fmt: skip


class Commands(unittest.TestCase):
    def ok(self, *arguments: str | Path, code: int = 0) -> str:
        done = run_mooring(*arguments)
        self.assertEqual(done.returncode, code, done.stderr + done.stdout)
        self.assertNotIn("Traceback", done.stderr)
        return done.stdout

    def test_help_names_every_command(self) -> None:
        text = self.ok("--help")
        for command in COMMANDS:
            self.assertIn(command, text)
            self.assertIn("--help", self.ok(command, "--help"))

    def test_parts(self) -> None:
        text = self.ok("parts", LINE_TENDER.step)
        for words in (
            "109 placed parts of 36 kinds",
            "hex_bolt_m16x50",
            "structural steel",
            "967.2 kg",
        ):
            self.assertIn(words, text)
        answer = json.loads(self.ok("parts", LINE_TENDER.step, "--json"))
        bolt = next(p for p in answer["parts"] if p["name"] == "hex_bolt_m16x50")
        self.assertEqual(len(bolt["copies"]), 12)
        self.assertEqual(answer["notes"], [])

    def test_check_and_tree(self) -> None:
        self.assertRegex(self.ok("check", LINE_TENDER.document), r"nothing found by \d+ rules")
        text = self.ok("tree", LINE_TENDER.document)
        for words in ("slew  revolute  about z", "-170 deg .. 170 deg", "19.5 kg weighed",
                      "follows -1 x port_jaw_hinge", "969 kg"):  # fmt: skip
            self.assertIn(words, " ".join(text.split("\n")))
        root = json.loads(self.ok("tree", LINE_TENDER.document, "--json"))["root"]
        self.assertEqual(root["link"], "pedestal")

    def test_check_says_no_with_file_line_and_exit_code(self) -> None:
        folder = folder_for(self)
        shutil.copy(LINE_TENDER.step, folder)
        file = folder / "tender.yaml"
        text = LINE_TENDER.document.read_text()
        file.write_text(
            text.replace("parent: mast\n    child: barrel", "parent: mats\n    child: barrel")
        )
        answer = json.loads(self.ok("check", file, "--json", code=1))
        missing = next(f for f in answer["findings"] if f["code"] == "missing-link")
        line = file.read_text().split("parent: mats")[0].count("\n") + 1
        self.assertEqual((missing["file"], missing["line"]), (str(file), line))
        self.assertIn(f"{file}:{line}: error missing-link", self.ok("check", file, code=1))
        # A robot that is no tree cannot be run either, and says why.
        done = run_mooring("run", file, "-o", folder / "out")
        self.assertEqual(done.returncode, 1)
        self.assertIn("joint 'barrel_swing' has the parent 'mats'", done.stderr)

    def test_picture_run_and_export(self) -> None:
        folder = folder_for(self)
        self.ok("picture", LINE_TENDER.document, "-o", folder / "a.png", "--posture", "stowed",
                "--joint", "slew=30 deg", "--layers", "visual,frames", "--view", "-30,10",
                "--size", "400x300")  # fmt: skip
        with Image.open(folder / "a.png") as image:
            self.assertEqual(image.size, (400, 300))
        text = self.ok(
            "run", LINE_TENDER.document, "-o", folder / "run", "--seconds", "0.5", "--rate", "200"
        )
        self.assertIn("motion lay_line, 0.50 s, 101 instants", text)
        table = pd.read_csv(folder / "run" / "recording.csv", index_col="time")
        self.assertEqual(len(table), 101)
        self.assertEqual({p.name for p in (folder / "run").iterdir()},
                         {"recording.csv", "motors.csv", "clearances.csv", "recording.parquet", "recording.json", "contacts.parquet", "motion.glb",
                          "motion.png", "effort.png", "energy.png", "contacts.png", "moments.png", "end.png",
                          "model.json", "model_meshes", "end.state", "run.json"})  # fmt: skip
        self.assertIn("not carried", self.ok("export", LINE_TENDER.document, folder / "t.urdf"))
        # Without its closure the rod is a stranger to the boom.
        found = self.ok("check", folder / "t.urdf", code=1)
        self.assertIn("overlap-neutral: boom and rod overlap", found)

    def test_its_version_and_completion(self) -> None:
        self.assertEqual(self.ok("--version").split()[1], mooring.__version__)
        self.assertIn('dynamic = ["version"]', (ROOT / "pyproject.toml").read_text())
        # It is for the shell that it is asked in.
        ask = f'"{sys.executable}" -c "from mooring.cli import main; main()" --show-completion'
        done = subprocess.run(
            ["bash", "-c", f"{ask}; exit $?"], capture_output=True, text=True, check=False
        )
        self.assertIn("COMPREPLY", done.stdout, done.stderr)


class BadInput(unittest.TestCase):
    def test_what_json_cannot_hold_is_refused_with_another_way(self) -> None:
        file = folder_for(self) / "chain.yaml"
        links = "".join(f"  l{n}: {{mass: 1, inertia: [1, 1, 1]}}\n" for n in range(300))
        joints = "".join(
            f"  j{n}: {{type: fixed, parent: l{n}, child: l{n + 1}}}\n" for n in range(299)
        )
        file.write_text(f"mooring: 1\nlinks:\n{links}joints:\n{joints}")
        done = run_mooring("tree", file, "--json")
        self.assertEqual(done.returncode, 2)
        self.assertIn("299 links one behind the other", done.stderr)
        self.assertEqual(run_mooring("tree", file).returncode, 0)

    def test_bad_input_gets_one_clear_message_and_exit_code_2(self) -> None:
        folder = folder_for(self)
        good = LINE_TENDER.document
        (folder / "cut.step").write_bytes(LINE_TENDER.step.read_bytes()[:300_000])
        (folder / "text.step").write_text("This is no STEP file.\n")
        (folder / "unit.yaml").write_text("mooring: 1\nlinks:\n  a: {mass: 3 mm}\n")
        (folder / "key.yaml").write_text("mooring: 1\nlinks:\n  a: {}\njionts: {}\n")
        for arguments, words in (
            (("check", folder / "gone.yaml"), "gone.yaml: there is no such file"),
            (("parts", folder / "gone.step"), "gone.step: there is no such file"),
            (("parts", folder / "cut.step"), "cut.step: the STEP file is cut off"),
            (("parts", folder / "text.step"), "text.step: not a STEP file"),
            (("parts", LINE_TENDER.step, "--tolerance", "3 kg"), "'3 kg' is a mass"),
            (("check", folder / "unit.yaml"), "unit.yaml:3: link 'a': '3 mm' is a length"),
            (("check", folder / "key.yaml"), "key.yaml:4: unknown key 'jionts'; did you mean 'joints'?"),
            (("picture", good, "-o", folder / "a.png", "--posture", "stwoed"), "did you mean 'stowed'"),
            (("picture", good, "-o", folder / "a.png", "--joint", "slew"), "write it as 'slew=30 deg'"),
            (("picture", good, "-o", folder / "a.bmp", "--size", "64x64"), "pictures are written as"),
            (("picture", good, "-o", folder / "a.png", "--size", "big"), "write it as 1280x800"),
            (("run", good, "-o", folder, "--seconds", "1"), "and no run; name another"),
            (("run", good, "-o", folder / "r", "--motion", "dance"), "no motion is called 'dance'"),
            (("run", good, "-o", folder / "r", "--seconds", "3 m"), "'3 m' is a length"),
            (("export", good, folder / "t.xyz"), "cannot write this format"),
        ):  # fmt: skip
            with self.subTest(words):
                done = run_mooring(*arguments)
                self.assertEqual(done.returncode, 2, done.stderr)
                self.assertIn(words, done.stderr)
                self.assertNotIn("Traceback", done.stderr)
                told = [line for line in done.stderr.splitlines() if ": compiling " not in line]
                self.assertEqual(len(told), 1)
        self.assertEqual(run_mooring("check").returncode, 2)
        self.assertEqual(run_mooring("fly").returncode, 2)
