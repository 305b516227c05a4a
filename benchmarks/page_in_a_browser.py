"""The live page with a real browser: what the server's event loop does at once, and what stays.

`python -m benchmarks.page_in_a_browser [MINUTES]`; it needs Chromium, which draws on a core of its
own. What the event loop does at once is told as processor time of its thread, so that what the
browser draws beside it does not count; a virtual machine that stands still for a moment does.
"""

from __future__ import annotations

import asyncio
import json
import math
import shutil
import subprocess
import sys
import tempfile
import time
import unittest
from pathlib import Path

import numpy as np

from mooring.demo import LINE_TENDER

_READINGS = 100


def watched(file: str) -> None:
    """Serve a page, and tell at the end when the event loop took a turn, and for how long [s]."""
    from nicegui import app, background_tasks

    from mooring.access import address
    from mooring.page.desk import Desk
    from mooring.page.desk.opened import ModelSource
    from mooring.page.serve import serve

    turns: list[tuple[float, float]] = []

    async def watch() -> None:
        while True:
            before = time.thread_time()
            await asyncio.sleep(0.002)
            turns.append((time.time(), time.thread_time() - before))

    where = address()
    desk = Desk(ModelSource(Path(file)))
    app.on_startup(lambda: background_tasks.create(watch()))
    app.on_shutdown(lambda: print(json.dumps(turns), flush=True))
    serve(desk, where, show=False, ready=lambda: print(where.url, flush=True))


def sitting(minutes: float) -> None:
    """Work with a page: jog, choose, run, change the document a hundred times."""
    from tests.browser import LOADED, Window

    folder = Path(tempfile.mkdtemp())
    for file in LINE_TENDER.document.parent.iterdir():
        if file.suffix in (".yaml", ".step"):
            shutil.copy(file, folder)
    document = folder / LINE_TENDER.document.name
    code = f"from benchmarks.page_in_a_browser import watched; watched({str(document)!r})"
    server = subprocess.Popen([sys.executable, "-c", code], stdout=subprocess.PIPE, text=True)
    assert server.stdout is not None
    test = unittest.TestCase()
    began = worked = math.inf
    try:
        page = Window(test, server.stdout.readline().strip())
        page.click("Got it")
        names = ["slew", "luff", "telescope", "wrist_pitch", "rotator"]

        def memory() -> tuple[float, int]:
            """Of the browser: what its script holds [MB], and the geometries it draws."""
            page.browser.execute_cdp_cmd("HeapProfiler.collectGarbage", {})
            held = page.js("return performance.memory.usedJSHeapSize") or 0
            count = page.js("return mooring.stage.renderer.info.memory.geometries")
            return float(str(held)) / 1e6, int(str(count))

        def work(seconds: float) -> None:
            ends, number = time.monotonic() + seconds, 0
            while time.monotonic() < ends:
                name = names[number % len(names)]
                page.slide(name, 0.1 + 0.05 * (number % 7))
                page.js("mooring.stage.hub.ask('select', {joint: arguments[0]})", name)
                number += 1
                time.sleep(0.2)

        work(5)
        before = memory()
        began = time.time()
        page.click("Run")
        page.click("Play")
        work(60 * minutes)
        page.click("Stop")
        page.until(lambda: "recorded" in page.text(".m-foot"), "the end of the run")
        after_work = memory()
        worked = time.time()
        text = document.read_text()
        for number in range(_READINGS):
            # Every second one cannot be read.
            broken = number % 2 == 0
            document.write_text("links: [\n" if broken else f"{text}\n# {number}\n")
            if broken:
                page.until(lambda: page.text(".m-banner"), "the refusal")
            else:
                page.until(lambda: not page.text(".m-banner"), "the model")
        page.until(lambda: page.js(f"return {LOADED}"), "the model")
        after = memory()
        print(
            f"the browser holds {before[0]:.1f} MB and {before[1]} geometries at first, "
            f"{after_work[0]:.1f} MB and {after_work[1]} after {minutes:g} min of a run, "
            f"{after[0]:.1f} MB and {after[1]} after {_READINGS} readings more"
        )
    finally:
        test.doCleanups()
        server.terminate()
        told = json.loads(server.communicate()[0].splitlines()[-1])
        for what, first, last in (
            ("opening the page", 0.0, began), ("jogging, choosing and running", began, worked),
            ("reading the document anew", worked, math.inf),
        ):  # fmt: skip
            spent = 1e3 * np.array([seconds for at, seconds in told if first <= at < last] or [0.0])
            low, high, most = np.percentile(spent, [99, 99.9, 100])
            print(
                f"{what}: of {len(spent):,} turns of the event loop 99% took {low:.0f} ms at most, "
                f"99.9% {high:.0f} ms, all {most:.0f} ms"
            )


if __name__ == "__main__":
    sitting(float(sys.argv[1]) if len(sys.argv) > 1 else 1.0)
