"""Outputs that cannot be written, names that look like markup, and errors of Mooring's own."""

import ast
import os
import re
import shutil
import subprocess
import sys
import unittest
from pathlib import Path
from unittest import mock

import numpy as np

import mooring
from mooring import caching
from mooring.demo import LINE_TENDER
from mooring.errors import InputError
from mooring.files import write_text, write_together
from tests.support import folder_for, run_mooring
from tests.urdf_set import FOLDER

ARM = FOLDER / "quay_arm.urdf"
CLI = Path(mooring.__file__).parent / "cli"
OUTPUTS = {
    "check": ["check", ARM, "--sarif", "OUT"],
    "report": ["check", ARM, "--report", "OUT"],
    "diff": ["diff", ARM, ARM, "--picture", "OUT.png"],
    "exercise": ["exercise", ARM, "-o", "OUT/"],
    "export": ["export", ARM, "OUT.glb"],
    "refit": ["refit", ARM, "OUT.urdf", "--weigh", "*"],
    "picture": ["picture", ARM, "-o", "OUT.png"],
    "film": ["film", ARM, "-o", "OUT.gif"],
    "run": ["run", ARM, "-o", "OUT/", "--seconds", "0.01", "--no-plot"],
    "open": ["open", ARM, "--save", "OUT.html"],
    "draft": ["draft", FOLDER / "clamp_description" / "meshes" / "jaw.stl", "-o", "OUT.yaml"],
}


class Options(unittest.TestCase):
    def test_what_makes_no_sense_is_refused_in_words(self) -> None:
        run = ["run", ARM, "-o", "unused", "--no-plot"]
        for words, said in (
            ([*run, "--seed", "-1"], "greater than or equal to 0"),
            ([*run, "--speed", "1e-9"], "neither max nor a number of 0.001 or more"),
            ([*run, "--step", "1e-12"], "the step is from 1e-07 to 0.02 s"),
            ([*run, "--rate", "1e12"], "more than once in each step"),
            ([*run, "--at", "1"], "belongs to --resume"),
            ([*run, "--port", "7"], "these belong to --listen"),
            ([*run, "--resume", FOLDER], "no recording"),
            (["draft", OUTPUTS["draft"][1], "-o", "unused.yaml", "--tolerance", "-1 mm"], "above 0"),
            (["picture", ARM, "-o", "unused.png", "--size", "1x1"], "cannot be drawn"),
            (["replay", FOLDER], "is a folder"),
            (["open", ARM, "--address", "", "--no-browser"], "no address to serve at"),
        ):  # fmt: skip
            with self.subTest(words=words):
                done = run_mooring(*words, env={"COLUMNS": "200"}, cwd=folder_for(self))
                self.assertEqual(done.returncode, 2, done.stderr)
                self.assertIn(said, done.stderr)

    @unittest.skipIf(os.name == "nt", "the shell of POSIX closes outputs")
    def test_outputs_that_are_closed_or_full(self) -> None:
        command = f'"{sys.executable}" -c "from mooring.cli import main; main()" check "{ARM}"'
        for redirected, code in (
            (">&-", 0),
            ("2>&- >&-", 0),
            ("<&- >&- 2>&-", 0),
            (">/dev/full", 2),
        ):
            with self.subTest(redirected):
                done = subprocess.run(["sh", "-c", f"{command} {redirected}"], check=False, timeout=300,
                                      capture_output=True, text=True)  # fmt: skip
                self.assertEqual(done.returncode, code, done.stderr)
                self.assertNotIn("Traceback", done.stderr)

    def test_a_terminal_that_knows_only_ascii(self) -> None:
        done = run_mooring("tree", ARM, "-q", env={"PYTHONIOENCODING": "ascii", "LC_ALL": "C"})
        self.assertEqual((done.returncode, done.stderr), (0, ""))
        self.assertTrue(done.stdout.isascii())


class Places(unittest.TestCase):
    def test_where_nothing_can_be_written_is_said_before_the_work(self) -> None:
        folder = folder_for(self)
        (folder / "file").write_text("kept")
        (folder / "sealed.txt").write_text("kept")
        (folder / "sealed.txt").chmod(0o444)
        for name, words in OUTPUTS.items():
            into_folder = any(str(word).endswith("/") for word in words)
            bad = {folder / "file" / "in" / "it": "is a file, and a folder is needed"}
            if into_folder:
                bad[folder / "file"] = "is a file, and a folder is needed"
            for place, why in bad.items():
                said = [
                    str(word).replace("OUT/", str(place)).replace("OUT", str(place))
                    for word in words
                ]
                with self.subTest(name, place=place.name):
                    done = run_mooring(*said)
                    self.assertEqual((done.returncode, done.stdout), (2, ""), done.stderr)
                    self.assertIn(why, done.stderr)
                    self.assertEqual(done.stderr.count("\n"), 1)
        self.assertEqual((folder / "file").read_text(), "kept")
        done = run_mooring("check", ARM, "--sarif", folder / "sealed.txt")
        self.assertIn("is read-only", done.stderr)
        done = run_mooring("export", ARM, folder)
        self.assertIn("is a folder; name a file in it", done.stderr)

    def test_every_output_of_a_command_is_proven(self) -> None:
        # What the command line calls so is checked as soon as it is read.
        for file in CLI.glob("*.py"):
            for node in ast.walk(ast.parse(file.read_text())):
                if not isinstance(node, ast.FunctionDef):
                    continue
                for argument in node.args.args:
                    hint = ast.unparse(argument.annotation) if argument.annotation else ""
                    output = re.search(
                        r"help='(Write|Draw|A folder for|The document to write|A file:)", hint
                    )
                    if output and "Path" in hint:
                        self.assertIn("callback=to_", hint, f"{file.name}: {argument.arg}")

    def test_a_disk_that_fills_up_keeps_what_there_is_room_for(self) -> None:
        folder = folder_for(self)
        code = (
            "import resource, signal; signal.signal(signal.SIGXFSZ, signal.SIG_IGN);"
            "resource.setrlimit(resource.RLIMIT_FSIZE, (20000, 20000));"
            "from mooring.cli import main; main()"
        )
        command = [sys.executable, "-c", code, "run", str(ARM), "-o", str(folder / "run"),
                   "--seconds", "0.05"]  # fmt: skip
        done = subprocess.run(command, capture_output=True, text=True, timeout=300, check=False)
        self.assertEqual(done.returncode, 1, done.stderr)
        self.assertIn("not written: moments.png: ", done.stdout)
        self.assertIn("cannot be written: File too large", done.stdout)
        self.assertEqual(len(mooring.Recording.read(folder / "run").table), 6)
        self.assertEqual([p for p in (folder / "run").iterdir() if p.name.startswith(".")], [])

    def test_files_that_are_written_over_stay_what_they_are(self) -> None:
        folder = folder_for(self)
        file, link = folder / "real.yaml", folder / "link.yaml"
        file.write_text("one")
        file.chmod(0o640)
        link.symlink_to(file)
        write_text(link, "two")
        self.assertTrue(link.is_symlink())
        self.assertEqual((file.read_text(), file.stat().st_mode & 0o777), ("two", 0o640))
        file.chmod(0o440)
        with self.assertRaisesRegex(InputError, "read-only"):
            write_text(file, "three")
        stale = folder / ".real.yaml.abc.part"
        stale.write_text("half")
        os.utime(stale, (1, 1))
        file.chmod(0o644)
        write_text(file, "four")
        self.assertFalse(stale.exists())


class Together(unittest.TestCase):
    def test_files_come_together_and_others_stay(self) -> None:
        folder = folder_for(self)
        home, told = folder / "meshes", folder / "arm.txt"
        for links in (False, True):
            for version in ("one", "two"):
                home.mkdir(exist_ok=True)
                (home / "mine.txt").write_text("mine")
                if links:
                    (home / "inner").mkdir(exist_ok=True)
                    if not (home / "link").is_symlink():
                        (home / "link").symlink_to("nowhere")
                with write_together(home, told, version) as staged:
                    (staged / "jaw.stl").write_text(version)
                self.assertEqual((home / "jaw.stl").read_text(), version)
                self.assertEqual(told.read_text(), version)
                with self.assertRaises(RuntimeError), write_together(home, told, "three") as staged:
                    (staged / "jaw.stl").write_text("three")
                    raise RuntimeError("the power went out")
                self.assertEqual((home / "jaw.stl").read_text(), version)
                self.assertEqual(told.read_text(), version)
                self.assertEqual((home / "mine.txt").read_text(), "mine")
                self.assertEqual((home / "link").is_symlink(), links)
                self.assertEqual((home / "inner").is_dir(), links)
        self.assertEqual({path.name for path in folder.iterdir()}, {"meshes", "arm.txt"})


class Outside(unittest.TestCase):
    def test_what_a_document_may_take(self) -> None:
        folder = folder_for(self)
        home = folder / "machines" / "crane"
        home.mkdir(parents=True)
        shutil.copy(OUTPUTS["draft"][1], folder / "machines" / "jaw.stl")
        jaw = "links: {jaw: {shapes: [{mesh: ../jaw.stl, unit: m}], mass: 1}}"
        for text in (
            f"mooring: 1\n{jaw}\n",
            "mooring: 1\ncad: {file: ../jaw.stl, unit: m}\nlinks: {jaw: {parts: '*', mass: 1}}\n",
            "mooring: 1\ninclude: [{file: ../other.yaml}]\n",
        ):
            (folder / "machines" / "other.yaml").write_text("mooring: 1\nlinks: {jaw: {mass: 1}}\n")
            file = home / "crane.yaml"
            file.write_text(text)
            with self.subTest(text):
                with self.assertRaisesRegex(
                    InputError, "is outside the document's folder; say --all"
                ):
                    mooring.read(file)
                self.assertEqual(len(mooring.read(file, allow_outside=True).links), 1)
                mooring.DocumentEditor(file, allow_outside=True).save()
                (folder / "machines" / "mooring.project").touch()
                robot = mooring.read(file)
                (folder / "machines" / "mooring.project").unlink()
                self.assertEqual(len(robot.links), 1)
        file.write_text(f"mooring: 1\n{jaw}\n")
        robot = mooring.read(file, allow_outside=True)
        self.assertIn("outside the document's folder", " ".join(robot.write(home / "again.yaml")))
        self.assertEqual(robot.write(home / "again.yaml", copy_meshes=True), [])
        mooring.read(home / "again.yaml")


class Remembering(unittest.TestCase):
    def test_damaged_entries_are_thrown_away_and_made_anew(self) -> None:
        folder = folder_for(self)
        random = np.random.default_rng(3)
        with mock.patch.dict(os.environ, {"MOORING_CACHE_DIR": str(folder)}):
            caching.keep("cad", "one", b"whole")
            self.assertEqual(caching.kept("cad", "one"), b"whole")
            entry = folder / "cad" / "one"
            for _ in range(40):
                raw = bytearray(entry.read_bytes())
                raw[random.integers(len(raw))] ^= 1 << random.integers(8)
                entry.write_bytes(raw)
                self.assertIsNone(caching.kept("cad", "one"))
                self.assertFalse(entry.exists())
                caching.keep("cad", "one", b"whole")
            (folder / "fits").write_text("in the way")
            caching.keep("fits", "two", b"not lost")
            self.assertEqual(caching.kept("fits", "two"), b"not lost")
        document = LINE_TENDER.document
        whole = run_mooring("check", document, env={"MOORING_CACHE_DIR": str(folder / "used")})
        for file in (folder / "used").rglob("*.*"):
            raw = bytearray(file.read_bytes())
            raw[random.integers(len(raw))] ^= 1 << random.integers(8)
            file.write_bytes(raw)
        again = run_mooring("check", document, env={"MOORING_CACHE_DIR": str(folder / "used")})
        self.assertEqual((again.stdout, again.returncode), (whole.stdout, 0), again.stderr)

    @unittest.skipUnless(hasattr(os, "getuid"), "needs users")
    def test_a_shared_folder_is_used_only_where_nobody_else_can_write(self) -> None:
        folder = folder_for(self)
        with (
            mock.patch.dict(os.environ, {"MOORING_CACHE_DIR": "/dev/null/no"}),
            mock.patch("tempfile.gettempdir", return_value=str(folder)),
        ):
            own = caching.cache_folder("cad")
            assert own is not None
            self.assertTrue(own.is_relative_to(folder))
            own.parent.chmod(0o777)
            self.assertIsNone(caching.cache_folder("cad"))
            shutil.rmtree(own.parent)
            (folder / "elsewhere").mkdir()
            own.parent.symlink_to(folder / "elsewhere")
            self.assertIsNone(caching.cache_folder("cad"))
            caching.keep("cad", "x", b"")
            self.assertIsNone(caching.kept("cad", "x"))


class Printing(unittest.TestCase):
    def test_nothing_made_from_data_is_markup(self) -> None:
        folder = folder_for(self)
        shutil.copytree(FOLDER, folder / "urdf")
        odd = "a[red]b[/]c[/dim][link=x]:smile:\\"
        file = folder / "urdf" / "odd.urdf"
        text = (
            ARM.read_text()
            .replace('"forearm"', f'"{odd}"')
            .replace('name="quay_arm"', f'name="{odd}"')
        )
        file.write_text(
            text.replace('"elbow"', '"el[bold]bow"').replace('effort="200"', 'effort="2"')
        )
        other = folder / "urdf" / "other.urdf"
        other.write_text(file.read_text().replace('value="6"', 'value="7"'))
        for words, shown in (
            (("check", file), "el[bold]bow"),
            (("tree", file), odd),
            (("tree", file, "--mass"), odd),
            (("diff", file, other), odd),
            (("exercise", file, "-o", folder / "out"), "el[bold]bow"),
            (("refit", file, folder / "o.urdf", "--weigh", "*"), odd),
            (("run", file, "-o", folder / "run", "--seconds", "0.01", "--no-plot"), odd),
        ):
            with self.subTest(words[0]):
                done = run_mooring(*words)
                self.assertIn(done.returncode, (0, 1), done.stderr)
                self.assertIn(shown, done.stdout)

    def test_there_is_one_door(self) -> None:
        for file in CLI.glob("*.py"):
            text = file.read_text()
            self.assertNotIn("rich.markup", text, file.name)
            if file.name not in ("terminal.py", "app.py"):
                for call in re.findall(r"\.print\((.*)\)", text):
                    # Tables and trees, whose cells the console does not take for markup.
                    self.assertIn(call, ("table", "branch"), file.name)


class Inside(unittest.TestCase):
    def test_errors_of_our_own_are_called_so(self) -> None:
        code = (
            "import sys; sys.argv = ['mooring', 'tree', 'x.yaml'];"
            "from mooring.cli import terminal; import mooring.formats as f;"
            "f.read = lambda *a, **k: 1 / 0; from mooring.cli import main; main()"
        )
        done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True,
                              timeout=300, check=False)  # fmt: skip
        self.assertEqual(done.returncode, 3)
        self.assertIn("an error inside Mooring: ZeroDivisionError", done.stderr)
        self.assertNotIn("Traceback", done.stderr)
        told = re.search(r"details are in (\S+);", done.stderr)
        assert told is not None
        details = Path(told[1])
        self.addCleanup(details.unlink)
        self.assertIn("Traceback", details.read_text())
        self.assertIn("$ mooring tree x.yaml", details.read_text())


if __name__ == "__main__":
    unittest.main()
