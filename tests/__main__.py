"""Runs all tests: `python -m tests`, or some: `python -m tests test_units test_urdf`."""

import sys
import unittest
from pathlib import Path

HERE = Path(__file__).parent


def main() -> int:
    loader = unittest.TestLoader()
    chosen = sys.argv[1:]
    if chosen:
        suite = loader.loadTestsFromNames([f"tests.{name}" for name in chosen])
    else:
        suite = loader.discover(str(HERE), top_level_dir=str(HERE.parent))
    result = unittest.TextTestRunner(verbosity=1).run(suite)
    failed = len(result.failures) + len(result.errors) + len(result.unexpectedSuccesses)
    skipped = len(result.skipped)
    sys.stderr.flush()
    passed = max(0, result.testsRun - failed - skipped)
    print(f"{passed} passed, {failed} failed" + (f", {skipped} skipped" if skipped else ""))
    return 1 if failed or not result.testsRun else 0


if __name__ == "__main__":
    sys.exit(main())
