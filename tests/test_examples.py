"""The examples run as they stand, and so do the examples in docstrings."""

import doctest
import importlib
import pkgutil
import subprocess
import sys
import unittest

import mooring
from tests.support import ROOT, folder_for


class Examples(unittest.TestCase):
    def test_every_example_runs(self) -> None:
        examples = sorted((ROOT / "examples").glob("*.py"))
        self.assertGreaterEqual(len(examples), 3)
        for example in examples:
            with self.subTest(example.name):
                folder = folder_for(self)
                done = subprocess.run(
                    [sys.executable, str(example), str(folder)],
                    capture_output=True, text=True, timeout=300, check=False,
                )  # fmt: skip
                self.assertEqual(done.returncode, 0, done.stderr)

    def test_every_docstring_example_is_true(self) -> None:
        tried = 0
        for module in pkgutil.walk_packages(mooring.__path__, "mooring."):
            if module.name.endswith("make_cad"):
                continue
            result = doctest.testmod(importlib.import_module(module.name))
            self.assertEqual(result.failed, 0, module.name)
            tried += result.attempted
        self.assertGreater(tried, 30)
