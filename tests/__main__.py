"""Runs all tests: `python -m tests`, or some: `python -m tests test_units test_urdf`.

A module is run by one of as many processes as there are cores; the last line counts.
"""

import io
import os
import signal
import sys
import time
import unittest
from collections.abc import Iterable
from concurrent.futures import ProcessPoolExecutor, as_completed
from dataclasses import dataclass
from pathlib import Path

HERE = Path(__file__).parent


@dataclass
class Outcome:
    """What came of a module."""

    module: str
    run: int
    failed: int
    skipped: int
    seconds: float
    text: str


def run_module(module: str) -> Outcome:
    """Run one module of tests."""
    began = time.perf_counter()
    stream = io.StringIO()
    suite = unittest.TestLoader().loadTestsFromName(f"tests.{module}")
    result = unittest.TextTestRunner(stream, verbosity=1).run(suite)
    failed = len(result.failures) + len(result.errors) + len(result.unexpectedSuccesses)
    seconds = time.perf_counter() - began
    return Outcome(module, result.testsRun, failed, len(result.skipped), seconds, stream.getvalue())


def outcomes(modules: list[str]) -> Iterable[Outcome]:
    """What came of modules, as they end; those that take long, as a rule, begin first."""
    if len(modules) == 1:
        yield run_module(modules[0])
        return
    modules.sort(key=lambda name: -(HERE / f"{name.split('.')[0]}.py").stat().st_size)
    with ProcessPoolExecutor(min(4, os.cpu_count() or 1)) as pool:
        for done in as_completed(pool.submit(run_module, module) for module in modules):
            yield done.result()


def main() -> int:
    # Whatever starts this in the background may have it ignore interrupts, and so all it starts.
    signal.signal(signal.SIGINT, signal.default_int_handler)
    chosen = sys.argv[1:] or [file.stem for file in sorted(HERE.glob("test_*.py"))]
    run = failed = skipped = 0
    for outcome in outcomes(chosen):
        run, failed = run + outcome.run, failed + outcome.failed
        skipped += outcome.skipped
        said = "FAILED" if outcome.failed else "ok"
        print(f"{outcome.module:<24}{outcome.run:>4} tests {outcome.seconds:>6.1f} s  {said}")
        if outcome.failed:
            print(outcome.text)
        sys.stdout.flush()
    passed = max(0, run - failed - skipped)
    print(f"{passed} passed, {failed} failed" + (f", {skipped} skipped" if skipped else ""))
    return 1 if failed or not run else 0


if __name__ == "__main__":
    sys.exit(main())
