"""A new user's first hour: a wheel in an environment of its own, the README in order, a notebook."""

import site
import subprocess
import sys
import unittest
import venv
import zipfile
from pathlib import Path

import nbformat
from nbclient import NotebookClient

from tests.browser import LOADED, Window
from tests.story import DOCS, MAIN, Page
from tests.support import ROOT, folder_for, tracked_files

CELLS = (
    "import mooring\nfrom mooring import demo\ntender = mooring.read(demo.LINE_TENDER.document)\ntender",
    "tender.show('over_ship')",
    "run = mooring.simulate(tender, motion='lay_line')\nrun",
    "tender.show(recording=run, height=420)",
    "mooring.read_scene(demo.DRUM_CART.document.with_name('quay.yaml')).show()",
    "tender.links['bom']",
)


class FirstHour(unittest.TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        cls.folder = folder_for(cls)
        done = subprocess.run(
            [sys.executable, "-m", "pip", "wheel", "--quiet", "--no-deps", "--no-build-isolation",
             "--wheel-dir", str(cls.folder / "wheels"), str(ROOT)],
            capture_output=True, text=True, check=False, timeout=1200,
        )  # fmt: skip
        assert done.returncode == 0, done.stderr
        wheel = next((cls.folder / "wheels").glob("*.whl"))
        cls.wheel = zipfile.ZipFile(wheel).namelist()
        # What Mooring needs is that of the tests; Mooring itself is the wheel, and nothing else:
        # an editable installation is not seen through a .pth file that another names.
        home = cls.folder / "env"
        venv.create(home, with_pip=False)
        cls.python = str(home / "bin" / "python")
        packages = next((home / "lib").glob("python*")) / "site-packages"
        zipfile.ZipFile(wheel).extractall(packages)
        (packages / "needed.pth").write_text("\n".join(site.getsitepackages()))

    def ask(self, *arguments: str, cwd: Path | None = None) -> subprocess.CompletedProcess[str]:
        return subprocess.run(
            [self.python, *arguments], capture_output=True, text=True, cwd=cwd or self.folder,
            check=False, timeout=900,
        )  # fmt: skip

    def test_the_wheel_is_what_is_used_and_holds_what_is_needed(self) -> None:
        where = self.ask(
            "-c", "import mooring; print(mooring.__file__, mooring.__version__)"
        ).stdout
        self.assertIn(str(self.folder), where)
        sources = {name for name in tracked_files() if name.startswith("src/mooring")}
        missing = {name.removeprefix("src/") for name in sources} - set(self.wheel)
        self.assertEqual(missing, set())

    def test_the_readme_from_top_to_bottom(self) -> None:
        done = self.ask(*MAIN, "demo")
        self.assertEqual(done.returncode, 0, done.stderr)
        for words in (
            "109 placed parts",
            "11 links, 10 joints",
            "nothing found",
            "lay_line",
            "Done in",
        ):
            self.assertIn(words, done.stdout)
        made = self.folder / "mooring-demo"
        for name in ("line_tender.yaml", "line_tender.urdf", "check.txt", "over_ship.png",
                     "run/recording.csv", "run/motion.png", "run/effort.png", "run/energy.png"):  # fmt: skip
            self.assertGreater((made / name).stat().st_size, 20, name)
        page = Page(self, made, self.python)
        page.tell((ROOT / "README.md").read_text())
        self.assertGreater(page.commands, 20)
        # What the page about the page shows is there now.
        Page(self, made, self.python).tell((DOCS / "page.md").read_text())

    def test_a_notebook_shows_it_all_and_keeps_it(self) -> None:
        book = nbformat.v4.new_notebook(cells=[nbformat.v4.new_code_cell(text) for text in CELLS])
        kernel = self.folder / "kernels" / "fresh"
        kernel.mkdir(parents=True)
        (kernel / "kernel.json").write_text(
            f'{{"argv": ["{self.python}", "-m", "ipykernel_launcher", "-f", "{{connection_file}}"], "display_name": "fresh", "language": "python"}}'
        )
        client = NotebookClient(book, timeout=600, kernel_name="fresh", allow_errors=True, resources={"metadata": {"path": str(self.folder)}})  # fmt: skip
        client.create_kernel_manager().kernel_spec_manager.kernel_dirs.insert(0, str(kernel.parent))
        client.execute()
        data = [[output.get("data", {}) for output in cell.outputs] for cell in book.cells]
        for number in (0, 2):
            self.assertIn("mooring-cell", data[number][-1]["text/html"])
        for number in (1, 3, 4):
            self.assertIn("<iframe", data[number][-1]["text/html"])
            self.assertIn("image/png", data[number][-1])
        # The bar of the run was there, and is gone.
        self.assertEqual(
            [shown.get("text/html") for shown in data[2][:-1] if shown], [""] * (len(data[2]) - 1)
        )
        self.assertIn("did you mean 'boom'?", book.cells[5].outputs[0]["evalue"])
        # What was saved shows the model, with no kernel and no network.
        cells = "".join(f"<div class=cell>{shown[-1]['text/html']}</div>" for shown in data[:5])
        saved = self.folder / "notebook.html"
        saved.write_text(f"<!doctype html><meta charset=utf-8><body>{cells}</body>")
        window = Window(self, saved.as_uri(), "document.querySelectorAll('iframe').length == 3")
        for frame, words in zip(window.all("iframe"), ("over_ship", "Play", "quay"), strict=True):
            window.browser.switch_to.frame(frame)
            window.until(lambda: window.js(f"return {LOADED}"), "the model in the cell")
            self.assertIn(words, window.text("body"))
            window.browser.switch_to.default_content()
        self.assertEqual(window.browser.get_log("browser"), [])


if __name__ == "__main__":
    unittest.main()
