"""What an installation brings, and the lowest versions of it that are allowed."""

import hashlib
import importlib.metadata
import os
import re
import shutil
import subprocess
import sys
import tarfile
import tomllib
import unittest
from pathlib import Path

from packaging.requirements import Requirement
from releasing.licences import listing

import mooring
import mooring._native
from tests.support import ROOT, folder_for, run_mooring, tracked_files

PROJECT = tomllib.loads((ROOT / "pyproject.toml").read_text())["project"]
TRY = """
import sys, numpy, mooring
from mooring.cli import main
robot = mooring.Robot("davit")
robot.add_link("post", box=("200 mm", "200 mm", "1 m"), material="steel")
robot.add_link("arm", box=(1.0, 0.1, 0.1), material="steel")
robot.add_joint("swing", "revolute", parent="post", child="arm", at=(0, 0, 0.6), axis="z",
                limits={"lower": "-90 deg", "upper": "90 deg", "effort": 100, "velocity": 1})
robot.write("davit.urdf")
robot.write("davit.yaml")
again = mooring.read("davit.yaml")
assert mooring.check(again).ok, mooring.check(again)
run = mooring.simulate(again, seconds=0.5)
assert abs(run.table["swing.position"]).max() < 0.1
editor = mooring.DocumentEditor("davit.yaml")
editor.set("joints.swing.limits.upper", "80 deg")
editor.save()
print("numpy", numpy.__version__)
sys.argv = ["mooring", "tree", "davit.urdf"]
main()
"""


def ranges(extra: str = "") -> list[Requirement]:
    given = PROJECT["optional-dependencies"][extra] if extra else PROJECT["dependencies"]
    return [Requirement(text) for text in given]


ELSEWHERE = """
# What Windows does not have is not here either, nor in any process that is started.
import os, signal, sys
import platformdirs.unix  # which is for this system alone
for name in ("resource", "fcntl", "pwd", "grp", "termios", "tty", "syslog", "crypt"):
    sys.modules[name] = None
for name in ("getuid", "geteuid", "getgid", "getegid", "fork", "forkpty", "chown", "lchown", "mkfifo",
             "getpgid", "setsid", "killpg", "register_at_fork", "getloadavg", "sched_getaffinity", "link"):
    if hasattr(os, name):
        delattr(os, name)
for name in ("SIGKILL", "SIGHUP", "SIGUSR1", "SIGALRM", "SIGXFSZ"):
    if hasattr(signal, name):
        delattr(signal, name)
"""


class Bounds(unittest.TestCase):
    def test_every_package_has_a_lowest_version_and_the_lock_is_within(self) -> None:
        lock = (ROOT / "requirements.lock").read_text()
        pinned = dict(re.findall(r"^([\w.-]+)==(\S+)", lock, re.M))
        extras = [name for name in PROJECT["optional-dependencies"] if name not in ("all", "dev")]
        for requirement in [one for extra in ("", *extras) for one in ranges(extra)]:
            if requirement.name == PROJECT["name"]:
                continue
            with self.subTest(requirement.name):
                self.assertIn(">=", str(requirement.specifier))
                self.assertIn(pinned[requirement.name.replace(".", "-")], requirement.specifier)
        # What is installed is what was pinned, to the byte.
        for block in re.split(r"\n(?=\S)", lock.strip()):
            self.assertIn("--hash=sha256:", block)
        self.assertEqual(
            len(hashlib.sha256().hexdigest()), len(re.search(r"sha256:(\w+)", lock)[1])
        )

    def test_the_list_of_licences_is_of_what_is_installed(self) -> None:
        self.assertEqual((ROOT / "docs" / "licences.md").read_text("utf-8"), listing())
        self.assertNotIn("not stated", listing())
        self.assertIn("x264", listing())

    def test_the_source_distribution_holds_all_that_is_tracked_and_an_index_takes_it(self) -> None:
        folder = folder_for(self)
        build = [
            sys.executable,
            "-m",
            "build",
            "--sdist",
            "--no-isolation",
            "-o",
            str(folder),
            str(ROOT),
        ]
        done = subprocess.run(build, capture_output=True, text=True, check=False)
        self.assertEqual(done.returncode, 0, done.stderr)
        made = next(folder.glob("*.tar.gz"))
        self.assertIn(mooring.__version__, made.name)
        with tarfile.open(made) as archive:
            names = {name.partition("/")[2] for name in archive.getnames()}
            told = (
                archive.extractfile(next(n for n in archive.getnames() if n.endswith("PKG-INFO")))
                .read()
                .decode()
            )
        self.assertEqual(tracked_files() - names, set())
        # What an index shows leads nowhere that only a clone has.
        self.assertNotRegex(told.partition("\n\n")[2], r"\]\((?!http)")
        done = subprocess.run(
            [sys.executable, "-m", "twine", "check", "--strict", made],
            capture_output=True,
            text=True,
            check=False,
        )
        self.assertIn("PASSED", done.stdout)

    def test_the_usual_way_needs_nothing_that_only_some_systems_have(self) -> None:
        folder = folder_for(self)
        (folder / "sitecustomize.py").write_text(ELSEWHERE)
        env = {"PYTHONPATH": str(folder), "MOORING_CACHE_DIR": str(folder / "cache")}
        # The STEP file is read anew, in a process of its own.
        for words in (
            ["demo", "leg", "-o", "leg"], ["draft", "leg/leg.step", "-o", "leg/draft.yaml"],
            ["run", "leg/leg.yaml", "-o", "leg/run", "--seconds", "0.1"],
            ["open", "leg/leg.yaml", "--save", "leg.html"], ["export", "leg/leg.yaml", "leg/again.urdf"],
            ["export", "leg/leg.yaml", "leg/again.urdf"],
        ):  # fmt: skip
            done = run_mooring(*words, cwd=folder, env=env)
            self.assertEqual((done.returncode, "Traceback" in done.stderr), (0, False), done.stderr)
        asked = [sys.executable, "-c", "import os; os.getuid()"]
        done = subprocess.run(
            asked, env={**os.environ, **env}, capture_output=True, text=True, check=False
        )
        self.assertIn("no attribute 'getuid'", done.stderr)

    def test_the_lowest_versions_work(self) -> None:
        folder = folder_for(self)
        lowest = [
            f"{one.name}=={next(s.version for s in one.specifier if s.operator == '>=')}"
            for one in ranges()
        ]
        pip = [sys.executable, "-m", "pip", "install", "--quiet", "--target", folder / "lowest"]
        done = subprocess.run([*pip, *lowest], capture_output=True, text=True, check=False)
        self.assertEqual(done.returncode, 0, done.stderr)
        # Mooring itself, as it is here: its Python, what was compiled, and what it is called.
        there = folder / "lowest" / "mooring"
        shutil.copytree(ROOT / "src" / "mooring", there)
        for file in Path(mooring._native.__file__).parent.glob("_native*"):
            shutil.copy(file, there)
        called = importlib.metadata.distribution("mooring-robotics")._path
        shutil.copytree(called, folder / "lowest" / called.name)
        done = subprocess.run(
            [sys.executable, "-S", "-c", TRY], capture_output=True, text=True, cwd=folder,
            check=False, env={"PYTHONPATH": str(folder / "lowest"), "HOME": str(folder)},
        )  # fmt: skip
        self.assertEqual(done.returncode, 0, done.stderr)
        self.assertIn(f"numpy {lowest[0].partition('==')[2]}", done.stdout)
        self.assertIn("swing", done.stdout)
