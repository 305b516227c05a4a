"""A live page whose file is broken and mended again and again while it runs and others ask."""

from __future__ import annotations

import random
import shutil
import urllib.error
import urllib.request
from contextlib import suppress
from functools import partial
from pathlib import Path

from tests.browser import Window

GOOD = """\
mooring: 1
name: davit
materials: {wood: {density: 700 kg/m^3}}
links:
  post: {box: [200 mm, 200 mm, 1.2 m], material: wood, at: [0, 0, 0.6]}
  arm: {box: [900 mm, 80 mm, 80 mm], material: wood, at: [0.4, 0, 0]}
joints:
  swing: {type: revolute, parent: post, child: arm, at: [0, 0, 1.3], axis: z,
          limits: {lower: -90 deg, upper: 90 deg, effort: 200 N*m, velocity: 1 rad/s}}
motors:
  swing: {joint: swing, p: 400 N*m/rad, d: 40 N*m*s/rad}
postures:
  POSTURE: {swing: 20 deg}
"""
BROKEN: tuple[str | bytes | None, ...] = (
    GOOD.replace("700 kg/m^3", "=1 kg^-200"),
    GOOD[:300],
    GOOD.replace("child: arm", "child: post"),
    GOOD.replace("parent: post, child: arm", "parent: post, child: boom"),
    GOOD + "  POSTURE: {swing: 400 deg}\n",
    "",
    b"\xff\xfe\x00\x01" * 50,
    "[" * 5000,
    "a: &a [*a]\nmooring: 1\n",
    None,
)
"""What the file may be for a while; None is a folder of its name."""


def write(file: Path, content: str | bytes | None) -> None:
    """Put something in the file's place."""
    if file.is_dir():
        file.rmdir()
    file.unlink(missing_ok=True)
    if content is None:
        file.mkdir()
    elif isinstance(content, bytes):
        file.write_bytes(content)
    else:
        file.write_text(content, "utf-8")


def chaos(page: Window, file: Path, address: str, rounds: int, seed: int = 0) -> None:
    """Break and mend the file, and see that the page follows each time.

    Raises:
        AssertionError: it did not.
    """
    chance = random.Random(seed)
    for number in range(rounds):
        page.click(chance.choice(("Play", "Reset", "neutral")))
        for path in ("", "model/1.glb", "?token=guess", "_nicegui_ws/socket.io/?EIO=4"):
            with suppress(urllib.error.HTTPError):
                urllib.request.urlopen(address.split("?")[0] + path).close()
        write(file, BROKEN[number % len(BROKEN)])
        page.until(lambda: page.text(".m-banner"), f"the error of round {number}")
        write(file, GOOD.replace("POSTURE", f"round_{number}"))
        there = partial(lambda name: name in page.text(".m-postures"), f"round_{number}")
        page.until(there, f"the mended file of round {number}")
        page.until(lambda: not page.text(".m-banner"), "no error")


def main(rounds: int, seed: int) -> int:
    """The whole of it, by itself."""
    import tempfile
    import unittest

    from tests.browser import serve

    class Run(unittest.TestCase):
        def runTest(self) -> None:  # noqa: N802
            folder = Path(tempfile.mkdtemp())
            self.addCleanup(shutil.rmtree, folder)
            file = folder / "davit.yaml"
            write(file, GOOD.replace("POSTURE", "start"))
            address = serve(type(self), file)
            chaos(Window(self, address), file, address, rounds, seed)

    return 0 if unittest.TextTestRunner().run(Run()).wasSuccessful() else 1
