"""Stories in the documentation: each command is run, and prints what is shown there."""

import re
import shlex
import shutil
import unittest
from pathlib import Path

from tests.support import folder_for, run_mooring

DOCS = Path(__file__).parents[1] / "docs"
EXAMPLES = Path(__file__).parents[1] / "examples"
STORIES = {"somebody_elses_robot.md": "somebody_elses_arm"}


class Stories(unittest.TestCase):
    def test_commands_print_what_is_shown(self) -> None:
        for page, example in STORIES.items():
            folder = folder_for(self) / example
            shutil.copytree(EXAMPLES / example, folder)
            told = re.findall(r"```console\n(.*?)```", (DOCS / page).read_text(), re.DOTALL)
            self.assertGreaterEqual(len(told), 10)
            for block in told:
                command, *lines = block.strip().splitlines()
                with self.subTest(command):
                    self.assertTrue(command.startswith("$ mooring "))
                    done = run_mooring(*shlex.split(command)[2:], cwd=folder)
                    self.assertEqual(done.stderr.count("Traceback"), 0, done.stderr)
                    for line in lines:
                        self.assertIn(line, done.stdout)


if __name__ == "__main__":
    unittest.main()
