"""A page of the documentation, done as it is told: its commands, its code, its documents."""

import json
import re
import shlex
import subprocess
import sys
import unittest
from doctest import ELLIPSIS, OutputChecker
from pathlib import Path
from urllib.parse import urlsplit

import typer
from jsonschema import Draft202012Validator
from ruamel.yaml import YAML

from mooring.cli.app import app
from tests.support import ROOT

DOCS = ROOT / "docs"
MAIN = ["-c", "from mooring.cli import main; main()"]
GROUP = typer.main.get_command(app)
SCHEMA = json.loads((DOCS / "robot.schema.json").read_text())
SHOWN = re.compile(
    r"(?:<!-- (?P<file>\S+) -->\n)?```(?P<kind>\w*)\n(?P<block>.*?)```|`(?P<inline>mooring [^`\n]*)`",
    re.DOTALL,
)
PATTERN = re.compile(r"\.\.\.|\b[A-Z]{3,}\b")
"""In a command that shows how it is written, and not one to be run."""


def yaml_values(text: str) -> dict:
    return YAML(typ="safe").load(text)


class Page:
    """A page, told in a folder of its own: what it shows is done in the order it is shown."""

    def __init__(self, test: unittest.TestCase, folder: Path, python: str = sys.executable) -> None:
        self.test = test
        self.folder = folder
        self.python = python
        self.servers: list[subprocess.Popen[str]] = []
        self.code: list[str] = []
        self.commands = 0
        # What listens on the ports that a page names, where somebody else has those.
        self.ports: dict[str, str] = {}

    def here(self, text: str) -> str:
        """A text with the ports that what it started listens on."""
        return re.sub(r"(?<=127\.0\.0\.1:)\d+", lambda m: self.ports.get(m[0], m[0]), text)

    def tell(self, text: str) -> None:
        try:
            for shown in SHOWN.finditer(text):
                with self.test.subTest(shown[0][:80]):
                    self.do(shown)
            if self.code:
                self.run_code()
        finally:
            for server in self.servers:
                server.kill()
                server.communicate()

    def do(self, shown: re.Match[str]) -> None:
        kind, block = shown["kind"], shown["block"]
        if shown["file"]:
            (self.folder / shown["file"]).write_text(block)
        if shown["inline"]:
            self.command(shown["inline"], [])
        elif kind == "python":
            self.code.append(block)
        elif kind == "yaml":
            self.read(block)
        else:
            told = [line.removeprefix("$ ") for line in block.splitlines()]
            starts = [k for k, line in enumerate(told) if line.startswith("mooring ")]
            for start, end in zip(starts, [*starts, len(told)][1:], strict=True):
                self.command(told[start], told[start + 1 : end])

    def command(self, line: str, printed: list[str]) -> None:
        words = shlex.split(self.here(line), comments=True)[1:]
        if words and not words[0].startswith("-") and words[0] != "...":
            self.test.assertIn(words[0], GROUP.commands)
            known = {o for p in GROUP.commands[words[0]].params for o in p.opts + p.secondary_opts}
            for word in words[1:]:
                if word.startswith("--"):
                    self.test.assertIn(word, known)
        if len(words) < 2 or PATTERN.search(line):
            return
        self.commands += 1
        serves = words[0] in ("stand-in", "replay") or "--listen" in words
        if serves or (words[0] == "open" and "--save" not in words):
            self.serve([*words, *(["--no-browser"] if words[0] == "open" else []), "--json"])
            return
        done = self.ended([*MAIN, *words])
        self.test.assertIn(done.returncode, (0, 1), done.stderr)
        self.test.assertNotIn("Traceback", done.stderr)
        for expected in printed:
            self.test.assertIn(expected, done.stdout)

    def serve(self, words: list[str]) -> None:
        command = [self.python, *MAIN, *words]
        pipes = {"stdout": subprocess.PIPE, "stderr": subprocess.PIPE, "text": True}
        server = subprocess.Popen(command, cwd=self.folder, **pipes)
        self.servers.append(server)
        told = server.stdout.readline()
        if not told:
            self.test.fail(server.stderr.read())
        address = urlsplit(json.loads(told)["address"])
        if address.scheme == "ws":
            self.ports[str(8640 + len(self.ports))] = str(address.port)

    def read(self, block: str) -> None:
        """A document, or part of one, of which `# or` separates several."""
        for part in block.split("# or\n"):
            values = yaml_values(part)
            whole = {"mooring": 1, **values}
            wrong = [
                f"{e.json_path}: {e.message}"
                for e in Draft202012Validator(SCHEMA).iter_errors(whole)
            ]
            self.test.assertEqual(wrong, [])

    def run_code(self) -> None:
        """All blocks of code as one script; what stands behind a `print` is what it prints."""
        code = self.here("\n".join(self.code))
        done = self.ended(["-c", code])
        self.test.assertEqual(done.returncode, 0, done.stderr)
        printed = done.stdout.splitlines()
        expected = [
            line.partition("  # ")[2] for line in code.splitlines() if line.startswith("print(")
        ]
        self.test.assertEqual(len(printed), len(expected), done.stdout)
        for said, words in zip(printed, expected, strict=True):
            self.test.assertTrue(
                OutputChecker().check_output(words + "\n", said + "\n", ELLIPSIS), said
            )

    def ended(self, arguments: list[str]) -> subprocess.CompletedProcess[str]:
        return subprocess.run(
            [self.python, *arguments], cwd=self.folder, capture_output=True, text=True,
            timeout=900, check=False,
        )  # fmt: skip
