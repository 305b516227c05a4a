"""A run's folder as one thing, and its journal: whatever is killed, cut off, mixed or full."""

import json
import random
import shutil
import signal
import subprocess
import sys
import unittest
from pathlib import Path
from unittest import mock

import numpy as np
import pandas as pd
import pyarrow.parquet
from fuzz.kills import MODES, kills

from mooring import Recording, Robot, Simulation, read_scene, simulate
from mooring.demo import DRUM_CART
from mooring.errors import InputError, ModelError
from mooring.simulation import read_run
from mooring.simulation.recording.run_folder import unfinished
from tests.support import ROOT, folder_for, line_tender, run_mooring
from tests.urdf_set import FOLDER

ARM = FOLDER / "quay_arm.urdf"
SCENE = ROOT / "src" / "mooring" / "demo"


def equal(one: Recording, other: Recording) -> bool:
    """Whether two recordings hold the same, to the byte."""
    tables = [(one.table, other.table), (one.contacts, other.contacts)]
    tables += [(one.sensors[name], other.sensors[name]) for name in one.sensors]
    return all(a.equals(b) for a, b in tables) and one.signals == other.signals


class Tables(unittest.TestCase):
    def test_every_column_has_its_unit_in_memory_and_in_parquet(self) -> None:
        folder = folder_for(self)
        known = {"rad", "m", "rad/s", "m/s", "N m", "N", "J", "s", "1", "m/s^2", "m or rad", ""}
        for scene in (
            SCENE / "drum_cart" / "quay.yaml",
            SCENE / "line_tender" / "line_tender.yaml",
        ):
            run = simulate(read_scene(scene), seconds=0.2)
            run.write(folder / scene.stem)
            again = Recording.read(folder / scene.stem)
            tables = {"table": (run.table, again.table), "contacts": (run.contacts, again.contacts)}
            tables |= {name: (run.sensors[name], again.sensors[name]) for name in run.sensors}
            for name, (made, read) in tables.items():
                with self.subTest(f"{scene.stem} {name}"):
                    named = [str(n) for n in (made.index.name, *made.columns) if n is not None]
                    self.assertEqual(list(made.attrs["units"]), named)
                    self.assertLessEqual(set(made.attrs["units"].values()), known)
                    pd.testing.assert_frame_equal(made, read)
                    self.assertEqual(made.attrs, read.attrs)
            fields = pyarrow.parquet.read_schema(folder / scene.stem / "recording.parquet")
            for field in fields:
                self.assertEqual(
                    field.metadata[b"unit"].decode(), run.table.attrs["units"][field.name]
                )
            self.assertIn("peak_speed", run.motor_table().attrs["units"])
        cart, tender = (Recording.read(folder / name).contacts for name in ("quay", "line_tender"))
        self.assertTrue(len(cart) and not len(tender))
        self.assertEqual(list(cart.dtypes), list(tender.dtypes))


class Journals(unittest.TestCase):
    def cart(self, **options: object) -> Simulation:
        return Simulation(read_scene(DRUM_CART.document), **options)  # type: ignore[arg-type]

    def test_what_is_written_while_it_runs_is_what_would_have_been_kept(self) -> None:
        folder = folder_for(self)
        plain, written = self.cart(), self.cart(journal=folder / "run.journal")
        for simulation in (plain, written):
            simulation.step(1200)
            kept = simulation.save()
            simulation.step(400)
            simulation.recorder.take()
            simulation.restore(kept)
            simulation.step(900)
        whole = plain.recording
        self.assertTrue(equal(written.recording, whole))
        self.assertAlmostEqual(float(whole.table.index[0]), 0.0)
        # In memory is only what is on its way.
        assert written.recorder.journal is not None
        self.assertLess(len(written.recorder.kept.chunks), 3)
        again = Recording.read(folder / "run.journal")
        self.assertTrue(equal(again, whole))
        self.assertFalse(again.complete)
        self.assertIn("cut off at", again.notes[0])
        self.assertEqual(again.columns, whole.columns)

    def test_a_journal_that_is_cut_anywhere_gives_what_came_before(self) -> None:
        folder = folder_for(self)
        simulation = Simulation(line_tender(), posture="stowed", journal=folder / "a")
        for _ in range(8):
            simulation.step(100)
            simulation.recorder.take()
            simulation.recorder._write()
        data = (folder / "a").read_bytes()
        rows = []
        chance = random.Random(4)
        for length in sorted(chance.sample(range(len(data)), 60)):
            (folder / "b").write_bytes(data[:length] + b"\0" * chance.choice((0, 100)))
            try:
                table = Recording.read(folder / "b").table
            except InputError as error:
                self.assertRegex(str(error), "journal|no recording")
                continue
            rows.append(len(table))
            pd.testing.assert_frame_equal(table, simulation.recording.table[: len(table)])
        self.assertEqual(rows, sorted(rows))
        self.assertGreater(len(set(rows)), 5)

    def test_what_never_ends_keeps_to_its_length_on_the_disk_too(self) -> None:
        file = folder_for(self) / "a"
        simulation = Simulation(line_tender(), posture="stowed", keep=0.5, journal=file)
        sizes = []
        for _ in range(30):
            simulation.step(100)
            simulation.recorder.take()
            simulation.recorder._write()
            sizes.append(sum(path.stat().st_size for path in file.parent.iterdir()))
        self.assertLess(max(sizes[15:]), 1.3 * max(sizes[:15]))
        table = simulation.recording.table
        self.assertAlmostEqual(float(table.index[-1]), 2.99, 2)
        self.assertLess(0.48, table.index[-1] - table.index[0])
        self.assertLess(table.index[-1] - table.index[0], 1.2)
        again = Recording.read(file)
        self.assertRegex(again.notes[0], r"cut off at 2\.99 s, and is kept from [12]")

    def test_a_full_disk_costs_the_journal_and_nothing_else(self) -> None:
        folder = folder_for(self)
        code = (
            "import resource, signal, sys; signal.signal(signal.SIGXFSZ, signal.SIG_IGN);"
            "from mooring import Simulation, read; s = Simulation(read(sys.argv[1]), journal='j');"
            "s.step(100); s.recorder.take(); s.recorder._write();"
            "resource.setrlimit(resource.RLIMIT_FSIZE, (20000, 20000));"
            "[(s.step(100), s.recorder.take(), s.recorder._write()) for _ in range(20)];"
            "r = s.recording; print(len(r.table), r.notes)"
        )
        done = subprocess.run([sys.executable, "-c", code, ARM], cwd=folder, check=True,
                              capture_output=True, text=True)  # fmt: skip
        self.assertIn("210 [", done.stdout)
        self.assertIn("j: cannot be written: File too large; what was recorded from", done.stdout)

    def test_misuse(self) -> None:
        folder = folder_for(self)
        (folder / "mine").write_text("dear")
        for call, error, words in (
            (lambda: self.cart(journal=folder / "mine"), InputError, "is there already"),
            (lambda: self.cart(journal=folder / "no" / "a"), InputError, "cannot be written"),
            (lambda: Recording.read(folder / "mine"), InputError, "no recording"),
            (lambda: simulate(line_tender(), posture="stowed", copies=2, journal=folder / "b"),
             ModelError, "copies keep no journal"),
        ):  # fmt: skip
            with self.subTest(words), self.assertRaisesRegex(error, words):
                call()


class Folders(unittest.TestCase):
    def setUp(self) -> None:
        self.folder = folder_for(self)
        self.run_one = simulate(line_tender(), posture="stowed", seconds=0.1)

    def test_an_earlier_run_goes_what_is_somebodys_stays(self) -> None:
        home = self.folder / "run"
        written = self.run_one.write(home)
        self.assertTrue(all(path.is_file() for path in written))
        (home / "notes.txt").write_text("mine")
        (home / "more").mkdir()
        (home / "more" / "clamp.png").write_text("mine, too")
        cart = simulate(read_scene(DRUM_CART.document), seconds=0.1)
        cart.write(home)
        self.assertTrue(equal(Recording.read(home), cart))
        self.assertTrue((home / "sensors").is_dir())
        self.run_one.write(home)
        self.assertFalse(any((home / "sensors").glob("*.parquet")))
        self.assertEqual((home / "more" / "clamp.png").read_text(), "mine, too")
        self.assertEqual((home / "notes.txt").read_text(), "mine")
        self.assertEqual([path.name for path in self.folder.iterdir()], ["run"])

    def test_whatever_sort_of_thing_somebody_put_there_stays(self) -> None:
        home = self.folder / "run"
        cart = simulate(read_scene(DRUM_CART.document), seconds=0.02)
        cart.write(home)
        (home / "empty").mkdir(mode=0o750)
        (home / "link").symlink_to("nowhere")
        (home / "sensors" / "mine.csv").write_text("1")
        (home / "run.json.before").write_text("2")
        self.run_one.write(home)
        # A name that the next run wants as well.
        (home / "sensors" / "imu.parquet").write_text("mine")
        cart.write(home)
        self.assertEqual((home / "empty").stat().st_mode & 0o777, 0o750)
        self.assertEqual((home / "link").readlink(), Path("nowhere"))
        self.assertEqual((home / "sensors" / "mine.csv").read_text(), "1")
        self.assertEqual((home / "run.json.before").read_text(), "2")
        self.assertIn((home / "sensors" / "imu.parquet").read_bytes()[:4], (b"mine", b"PAR1"))
        self.assertTrue(equal(Recording.read(home), cart))

    def test_killed_when_all_is_written_and_nothing_in_its_place(self) -> None:
        home = self.folder / "run"
        self.run_one.write(home)
        with (
            mock.patch("mooring.simulation.recording.run_folder._put", side_effect=OSError("gone")),
            self.assertRaisesRegex(InputError, "what there is of it is in .*unfinished"),
        ):
            simulate(line_tender(), posture="stowed", seconds=0.2).write(home)
        self.assertTrue(equal(Recording.read(home), self.run_one))
        (left,) = unfinished(home)
        self.assertEqual(len(Recording.read(left).table), 21)
        # Killed between the two: the new one takes its place when somebody looks.
        home.rename(home.with_name(left.name.replace("unfinished", "before")))
        self.assertEqual(len(Recording.read(home).table), 21)
        self.assertEqual([path.name for path in self.folder.iterdir()], ["run"])

    def test_something_else_is_written_over_by_force_only(self) -> None:
        home = self.folder / "run"
        home.mkdir()
        (home / "recording.json").write_text("a poem")
        with self.assertRaisesRegex(InputError, r"holds recording.json, and no run; .* --force"):
            self.run_one.write(home)
        self.assertEqual((home / "recording.json").read_text(), "a poem")
        (home / "thesis.tex").write_text("dear")
        self.run_one.write(home, force=True)
        self.assertTrue(equal(Recording.read(home), self.run_one))
        self.assertEqual((home / "thesis.tex").read_text(), "dear")
        with self.assertRaisesRegex(InputError, "is a file, and a folder is needed"):
            self.run_one.write(home / "thesis.tex")

    def test_a_model_of_another_run_is_told(self) -> None:
        for name, mass in (("light", 2.0), ("heavy", 3.0)):
            robot = Robot("buoy")
            robot.add_link("anchor", mass=1)
            robot.add_link("float", mass=mass, inertia=(1, 1, 1))
            robot.add_joint("line", "prismatic", parent="anchor", child="float", axis="z",
                            limits={"lower": 0, "upper": 1})  # fmt: skip
            robot.write(self.folder / f"{name}.yaml")
            run = ["run", self.folder / f"{name}.yaml", "-o", self.folder / name, "--no-plot"]
            done = run_mooring(*run, "--seconds", "0.05")
            self.assertEqual(done.returncode, 0, done.stderr)
            self.assertEqual(read_run(self.folder / name)[0].robot.mass(), mass + 1)
        # The same joints, and yet not what was run.
        shutil.copy(self.folder / "heavy" / "model.json", self.folder / "light")
        with self.assertRaisesRegex(InputError, "model.json was changed, or is of another run"):
            read_run(self.folder / "light")

    def test_what_comes_to_nothing_leaves_nothing(self) -> None:
        for words in (("--seconds", "-1"), ("--motion", "dance"), ("--resume", self.folder)):
            run = ["run", ARM, "-o", self.folder / "run", "--no-plot", *words]
            self.assertEqual(run_mooring(*run).returncode, 2)
            self.assertEqual(list(self.folder.iterdir()), [])

    def test_links_and_the_folder_one_stands_in(self) -> None:
        real, link = self.folder / "real", self.folder / "link"
        real.mkdir()
        link.symlink_to(real)
        for _ in range(2):
            self.run_one.write(link)
            self.assertTrue(link.is_symlink())
            self.assertTrue(equal(Recording.read(real), self.run_one))
            words = ["run", ARM, "-o", ".", "--seconds", "0.01", "--no-plot", "--force"]
            done = run_mooring(*words, cwd=real)
            self.assertEqual(done.returncode, 0, done.stderr)
            self.assertEqual(read_run(real)[0].robot.name, "quay_arm")

    def test_files_of_two_runs_and_tables_without_columns_are_told(self) -> None:
        one, two = self.folder / "one", self.folder / "two"
        self.run_one.write(one)
        simulate(line_tender(), posture="stowed", seconds=0.2).write(two)
        for name in ("recording.parquet", "contacts.parquet"):
            mixed = self.folder / f"mixed {name}"
            shutil.copytree(one, mixed)
            shutil.copy(two / name, mixed)
            with self.assertRaisesRegex(InputError, "files of two runs were mixed"):
                Recording.read(mixed)
        shutil.copy(two / "end.state", one)
        again = Recording.read(one)
        self.assertIsNone(again.end)
        self.assertIn("it is of another run", again.notes[-1])
        table = pd.read_parquet(two / "recording.parquet")
        for spoilt, words in (
            (
                table.drop(columns=["slew.effort", "slew.position"]),
                "lacks the columns 'slew.position'",
            ),
            (table.assign(**{"slew.position": "far"}), "slew.position holds no numbers"),
        ):
            spoilt.attrs = table.attrs
            spoilt.to_parquet(two / "recording.parquet")
            with self.subTest(words), self.assertRaisesRegex(InputError, words):
                Recording.read(two)

    def test_every_value_of_the_description_may_be_wrong(self) -> None:
        home = self.folder / "run"
        self.run_one.write(home)
        said = json.loads((home / "recording.json").read_text())
        for key in said:
            for value in (None, 3, "x", [], {}, [[3]], {"slew": "x"}, {"slew": {"x": 1}}):
                spoilt = json.dumps({k: value if k == key else v for k, v in said.items()})
                (home / "recording.json").write_text(spoilt)
                with self.subTest(key=key, value=value):
                    try:
                        Recording.read(home).motor_table()
                    except InputError as error:
                        self.assertIn(str(home), str(error))

    @unittest.skipUnless(hasattr(signal, "SIGKILL"), "needs to kill")
    def test_killed_in_the_middle_of_a_run(self) -> None:
        home = self.folder / "run"
        run = ["run", ARM, "-o", home, "--no-plot", "--seconds"]
        self.assertEqual(run_mooring(*run, "0.05").returncode, 0)
        before = {path: path.read_bytes() for path in home.rglob("*") if path.is_file()}
        code = "from mooring.cli import main; main()"
        command = [sys.executable, "-c", code, *map(str, run), "100000"]
        with subprocess.Popen(command, stdout=subprocess.DEVNULL) as child:
            left: list[Path] = []
            while not left or left[0].stat().st_size < 100_000:
                self.assertIsNone(child.poll())
                left = list(self.folder.glob("run.unfinished-*/run.journal"))
            child.kill()
        self.assertEqual({p: p.read_bytes() for p in home.rglob("*") if p.is_file()}, before)
        scene, recording = read_run(left[0].parent)
        self.assertEqual(scene.robot.name, "quay_arm")
        self.assertGreater(len(recording.table), 100)
        done = run_mooring(*run, "0.05")
        self.assertEqual(done.returncode, 0, done.stderr)
        self.assertIn("holds a run that was cut off", done.stdout)
        at = float(recording.table.index[-1])
        words = ["--resume", left[0].parent, "--no-plot", "--seconds", str(at + 0.1)]
        done = run_mooring("run", ARM, "-o", self.folder / "rest", *words)
        self.assertEqual(done.returncode, 0, done.stderr)
        rest = Recording.read(self.folder / "rest").table
        self.assertTrue(np.allclose(rest.iloc[0, :3], recording.table.iloc[-1, :3], atol=1e-3))

    @unittest.skipUnless(hasattr(signal, "SIGKILL"), "needs to kill")
    def test_killed_while_writing(self) -> None:
        for mode in MODES:
            with self.subTest(mode):
                self.assertEqual(kills(mode, 4, seed=3), [])
