"""How all commands speak: the same options in the same words, JSON, standard input and output."""

import io
import json
import shlex
import subprocess
import sys
import unittest
from contextlib import suppress
from pathlib import Path

import typer
from PIL import Image

from mooring.cli.app import app
from mooring.demo import DEMOS
from tests.support import ROOT, folder_for, run_mooring

GROUP = typer.main.get_command(app)
OF_EACH_ITS_OWN = {
    "--output", "--picture", "--report", "--speed", "--tolerance", "--follow",
}  # fmt: skip
"""Options whose meaning depends on what a command makes: their words may differ."""
SERVERS = {"open": ["--no-browser"], "stand-in": []}
DEMO = ROOT / "src" / "mooring" / "demo"


class Speaking(unittest.TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        cls.folder = folder_for(cls)
        done = run_mooring("demo", "leg", "-o", cls.folder / "leg", "--json")
        assert done.returncode == 0, done.stderr
        cls.demo = json.loads(done.stdout)
        cls.leg = cls.folder / "leg" / "leg.yaml"
        (cls.folder / "sheet.csv").write_text(
            "theta [deg],d [mm],a [mm],alpha [deg]\n0,0,100,0\n0,0,100,0\n0,0,100,0\n"
        )
        done = run_mooring("export", cls.leg, cls.folder / "leg.urdf")
        assert done.returncode == 0, done.stderr

    def test_options_have_one_wording_and_every_command_an_example_that_works(self) -> None:
        wordings: dict[str, set[str]] = {}
        for name, command in GROUP.commands.items():
            with self.subTest(name):
                options = {o: p for p in command.params for o in p.opts if o.startswith("-")}
                self.assertLessEqual({"--json", "--quiet", "--verbose"}, set(options))
                for option, parameter in options.items():
                    self.assertGreater(len(parameter.help or ""), 9, option)
                    if option.startswith("--") and option not in OF_EACH_ITS_OWN:
                        wordings.setdefault(option, set()).add(parameter.help)
                said = (command.epilog or "").removeprefix("Example: ")
                words = shlex.split(said)
                self.assertEqual(words[:2], ["mooring", name])
                for word in words[2:]:
                    if word.startswith("--"):
                        self.assertIn(word, options)
                command.make_context(name, words[2:])
        self.assertEqual({o: sorted(w) for o, w in wordings.items() if len(w) > 1}, {})

    def test_every_command_answers_a_program(self) -> None:
        out, leg = self.folder / "made", self.leg
        keys = {
            "parts": ([leg.with_suffix(".step")], "placed_parts"),
            "draft": ([leg.with_suffix(".step"), "-o", self.folder / "leg" / "d.yaml"], "joints"),
            "check": ([leg], "findings"), "measure": ([self.folder / "sheet.csv", leg], "errors"),
            "tree": ([leg], "root"), "picture": ([leg, "-o", self.folder / "p.png"], "file"),
            "exercise": ([leg, "-o", out], "joints"),
            "open": ([leg, "--save", self.folder / "leg.html"], "file"),
            "run": ([leg, "-o", self.folder / "run", "--seconds", "0.1"], "findings"),
            "film": ([self.folder / "leg" / "run", "-o", self.folder / "f.gif", "--speed", "9"], "file"),
            "export": ([leg, self.folder / "leg.json"], "not_carried"),
            "refit": ([self.folder / "leg.urdf", self.folder / "again.urdf"], "done"),
            "diff": ([leg, leg], None), "demo": (["--list"], "quay"),
        }  # fmt: skip
        self.assertEqual(set(keys) | {"stand-in", "replay"}, set(GROUP.commands))
        for name, (arguments, key) in keys.items():
            with self.subTest(name):
                done = run_mooring(name, *arguments, "--json")
                self.assertIn(done.returncode, (0, 1), done.stderr)
                answer = json.loads(done.stdout)
                if key is not None:
                    self.assertIn(key, answer)
                for file in [answer["file"]] if key == "file" else []:
                    self.assertGreater(Path(file).stat().st_size, 100)
        self.assertTrue(self.demo["run"]["complete"])
        self.assertIn(str(self.leg.with_suffix(".urdf")), self.demo["files"])

    def test_servers_say_where_they_are_in_a_line_of_json(self) -> None:
        for name, more in SERVERS.items():
            command = [sys.executable, "-c", "from mooring.cli import main; main()", name, *more]
            pipes = {"stdout": subprocess.PIPE, "stderr": subprocess.DEVNULL, "text": True}
            with (
                self.subTest(name),
                subprocess.Popen([*command, str(self.leg), "--json"], **pipes) as server,
            ):
                try:
                    told = json.loads(server.stdout.readline())
                    self.assertEqual(told["robot"], "walker_leg")
                    self.assertRegex(told["address"], r"^(http|ws)://127\.0\.0\.1:\d+")
                finally:
                    server.kill()

    def test_standard_input_and_output(self) -> None:
        def piped(text: str, *arguments: str) -> subprocess.CompletedProcess[bytes]:
            command = [sys.executable, "-c", "from mooring.cli import main; main()", *arguments]
            home = self.folder / "leg"
            return subprocess.run(command, input=text.encode(), capture_output=True, cwd=home, check=False, timeout=300)  # fmt: skip

        text = self.leg.read_text()
        done = piped(text, "check", "-")
        self.assertIn(b"walker_leg", done.stdout)
        done = piped((self.folder / "leg.urdf").read_text(), "tree", "-", "--search", "..")
        self.assertIn(b"revolute", done.stdout)
        done = piped(text.replace("revolute", "revolving"), "check", "-")
        self.assertEqual((done.returncode, done.stdout), (2, b""))
        self.assertRegex(done.stderr.decode(), r"stdin\.yaml:\d+: .*revolving")
        self.assertIn(b"nothing came in", piped("", "tree", "-").stderr)
        self.assertIn(b"--fix mends a file", piped(text, "check", "-", "--fix").stderr)
        image = Image.open(
            io.BytesIO(piped(text, "picture", "-", "-o", "-", "--size", "320x200").stdout)
        )
        self.assertEqual((image.format, image.size), ("PNG", (320, 200)))
        self.assertTrue(
            piped("", "export", "leg.yaml", "-", "--format", "dot").stdout.startswith(b"digraph")
        )
        self.assertIn(
            b"name a file instead", piped("", "export", "leg.yaml", "-", "--format", "urdf").stderr
        )
        self.assertIn(b"it belongs to OUT -", piped("", "export", "leg.yaml", "-").stderr)
        self.assertEqual(
            json.loads(piped("", "check", "leg.yaml", "--sarif", "-").stdout)["version"], "2.1.0"
        )
        self.assertIn(
            b"holds a file already", piped("", "check", "leg.yaml", "--sarif", "-", "--json").stderr
        )
        self.assertIn(
            b"holds one file",
            piped("", "check", "leg.yaml", "--sarif", "-", "--report", "-").stderr,
        )
        marked = piped('\ufeff<robot name="buoy"><link name="float"/></robot>', "tree", "-")
        self.assertIn(b"buoy: 1 link", marked.stdout)
        self.assertNotIn(b"next:", marked.stderr)
        drafted = piped("", "draft", "leg.step", "-o", "-").stdout
        self.assertIn(b"leg: ", piped(drafted.decode(), "tree", "-").stdout)

    def test_what_is_said_beside(self) -> None:
        done = run_mooring("tree", self.leg)
        self.assertRegex(done.stderr, r"^next: mooring picture .*leg\.yaml -o leg\.png\n$")
        quiet = run_mooring("tree", self.leg, "-q")
        self.assertEqual((quiet.stdout, quiet.stderr), (done.stdout, ""))
        told = run_mooring("check", self.leg, "--verbose").stderr
        for words in ("read the CAD file", "read the description", "rule missing-link took"):
            self.assertIn(words, told)
        self.assertNotIn(
            "\x1b[", run_mooring("tree", self.leg, env={"NO_COLOR": "1", "FORCE_COLOR": "1"}).stdout
        )

    def test_what_is_not_there_is_said_first(self) -> None:
        asked = {
            "check": ["no.txt"], "tree": ["no"], "open": ["no"], "run": ["no.step", "-o", "x"],
            "film": ["no", "-o", "x.gif"], "diff": ["no.a", "no.b"], "export": ["no.xyz", "x.urdf"],
            "picture": ["no", "-o", "x.png"], "parts": ["no.step"], "draft": ["no.step", "-o", "x.yaml"],
            "measure": ["no.csv", str(self.leg)], "replay": ["no.parquet"], "refit": ["no", "x.urdf"],
            "exercise": ["no", "-o", "x"], "stand-in": ["no.yaml"],
        }  # fmt: skip
        self.assertEqual(set(asked) | {"demo"}, set(GROUP.commands))
        # In one process, as starting one takes longer than the answer.
        code = (
            "import contextlib, sys; from mooring.cli import main\n"
            f"for name, words in {asked!r}.items():\n"
            " sys.argv = ['mooring', name, *words]\n"
            " try: main()\n"
            " except SystemExit as end: print(name, end.code, file=sys.stderr)\n"
        )
        done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, cwd=self.folder, check=False, timeout=300)  # fmt: skip
        said = done.stderr.splitlines()
        self.assertEqual(said[1::2], [f"{name} 2" for name in asked])
        for words in said[::2]:
            self.assertRegex(words, r"^mooring: no(\.\w+)?: there is no such file$")

    def test_demos_come_with_all_they_need(self) -> None:
        listed = run_mooring("demo", "--list").stdout
        for name, one in DEMOS.items():
            with self.subTest(name):
                self.assertIn(f"{name} ", listed)
                self.assertTrue(one.document.exists())
        documents = set(DEMO.rglob("*.yaml"))
        self.assertEqual({one.document for one in DEMOS.values()}, documents)
        done = run_mooring("demo", "quays")
        self.assertIn("there are line_tender, bollard", done.stderr)
        with suppress(FileNotFoundError):
            self.fail((self.folder / "mooring-demo").read_text())


if __name__ == "__main__":
    unittest.main()
