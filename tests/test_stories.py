"""What the documentation shows: each command is run, each block of code and of YAML is read."""

import re
import shutil
import unittest

from jsonschema import Draft202012Validator

from mooring.demo import DEMOS
from mooring.errors import did_you_mean
from mooring.formats.document.keys import keys_text
from mooring.units import RESERVED
from tests.story import DOCS, SCHEMA, Page, yaml_values
from tests.support import ROOT, folder_for

PAGES = [ROOT / "README.md", *sorted(DOCS.glob("*.md"))]


class Stories(unittest.TestCase):
    def test_a_first_robot_and_somebody_elses(self) -> None:
        for name, example in {
            "first_robot.md": None,
            "somebody_elses_robot.md": "somebody_elses_arm",
        }.items():
            with self.subTest(name):
                folder = folder_for(self) / "told"
                shutil.copytree(ROOT / "examples" / example, folder) if example else folder.mkdir()
                page = Page(self, folder)
                page.tell((DOCS / name).read_text())
                self.assertGreater(page.commands, 5)

    def test_every_other_page(self) -> None:
        told_elsewhere = ("README.md", "page.md", "first_robot.md", "somebody_elses_robot.md")
        for file in PAGES:
            if file.name in told_elsewhere:
                continue
            with self.subTest(file.name):
                folder = folder_for(self)
                for one in DEMOS.values():
                    for source in one.files:
                        shutil.copyfile(source, folder / source.name)
                Page(self, folder).tell(file.read_text())

    def test_the_entries_in_the_tables_of_the_language_can_be_read(self) -> None:
        told = 0
        for row in re.findall(
            r"^\| `(\w+):` \| (.*?) \|", (DOCS / "document.md").read_text(), re.MULTILINE
        ):
            for entry in re.findall(r"`([^`]*:[^`]*)`", row[1]):
                with self.subTest(entry):
                    value = yaml_values(entry if entry[0] in "-{" else f"{{{entry}}}")
                    if row[0] == "checks" or not (
                        isinstance(value, dict) and set(value) - {row[0]}
                    ):
                        value = value.get(row[0], value) if isinstance(value, dict) else value
                    whole = {"mooring": 1, row[0]: value}
                    wrong = [e.message for e in Draft202012Validator(SCHEMA).iter_errors(whole)]
                    self.assertEqual(wrong, [])
                    told += 1
        self.assertGreater(told, 20)

    def test_what_people_were_missing_is_there(self) -> None:
        language = (DOCS / "document.md").read_text()
        for name in RESERVED:
            self.assertIn(f"`{name}`", language)
        for words in ("`ramp`", "`carrier: true`", "**`neutral`**", "--stepper robust"):
            self.assertIn(words, language)
        # Whatever is unknown, all keys there are can be told.
        for name, definition in SCHEMA["$defs"].items():
            keys = sorted(definition.get("properties", ()))
            self.assertTrue(did_you_mean("qqq", keys).endswith(keys[-1]) if keys else True, name)
        self.assertEqual((DOCS / "keys.md").read_text(), keys_text())

    def test_links_lead_somewhere(self) -> None:
        for file in [*PAGES, ROOT / "CONTRIBUTING.md"]:
            for target in re.findall(r"\]\(([^)#]+?)(?:#[\w-]+)?\)", file.read_text()):
                if "://" not in target:
                    self.assertTrue((file.parent / target).exists(), f"{file.name}: {target}")


if __name__ == "__main__":
    unittest.main()
