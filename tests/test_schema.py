"""The published JSON Schema is current, valid, and says what the loader says."""

import json
import shutil
import subprocess
import sys
import unittest

import jsonschema
from ruamel.yaml import YAML

import mooring
from mooring.checks.listing import listing
from mooring.demo import DRUM_CART, LINE_TENDER, WALKER, WALKER_LEG
from mooring.errors import InputError
from mooring.formats.document.schema import schema_text
from mooring.model.robot.keyword_types import keywords_text
from tests.support import ROOT, folder_for

FILE = ROOT / "docs" / "robot.schema.json"


class Schema(unittest.TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        schema = json.loads(FILE.read_text())
        jsonschema.Draft202012Validator.check_schema(schema)
        cls.validator = jsonschema.Draft202012Validator(schema)

    def test_the_published_file_is_current(self) -> None:
        how = "python -m mooring.formats.document.schema docs/robot.schema.json"
        self.assertEqual(FILE.read_text(), schema_text(), f"make it anew: {how}")

    def test_the_types_of_calls_are_current(self) -> None:
        file = "src/mooring/model/robot/keywords.py"
        how = f"python -m mooring.model.robot.keyword_types {file}"
        made = subprocess.run(
            [sys.executable, "-m", "ruff", "format", "--line-length=100", "-"],
            input=keywords_text(), capture_output=True, text=True, check=True,
        )  # fmt: skip
        self.assertEqual((ROOT / file).read_text(), made.stdout, f"make it anew: {how}")

    def test_the_list_of_rules_is_current(self) -> None:
        how = "python -m mooring.checks.listing docs/checks.md"
        self.assertEqual(
            (ROOT / "docs" / "checks.md").read_text(), listing(), f"make it anew: {how}"
        )

    def test_scenes_are_good_and_their_mistakes_are_found(self) -> None:
        scenes = (
            LINE_TENDER.document.with_name("bollard.yaml"),
            WALKER.document.with_name("breakwater.yaml"),
            DRUM_CART.document.with_name("quay.yaml"),
        )
        for file in scenes:
            entries = YAML(typ="safe", pure=True).load(file)
            self.assertEqual([e.message for e in self.validator.iter_errors(entries)], [], file)
            for wrong in ({"robots": {"one": {}}}, {"gravity": 9.81}, {"linkz": {}}):
                self.assertFalse(self.validator.is_valid({**entries, **wrong}), wrong)

    def test_it_agrees_with_the_loader_on_good_and_bad_documents(self) -> None:
        folder = folder_for(self)
        for machine in (LINE_TENDER, WALKER, WALKER_LEG, DRUM_CART):
            for file in machine.document.parent.glob("*.*"):
                shutil.copy(file, folder)
        text = LINE_TENDER.document.read_text()
        cases = [
            (machine.document.read_text(), True) for machine in (LINE_TENDER, WALKER, DRUM_CART)
        ]
        # What only the loader can know (names, units, the CAD) is not the schema's business.
        for wrong, right, good in (
            ("lower: -5 deg", 'lower: "=-2 * 3 deg"', True),
            ("lower: -5 deg", "lowr: -5 deg", False),
            ("lower: -5 deg", "lower: [1]", False),
            ("at: {bore: [mast_post, boom_tube]}", "at: [0, 0, 2.3 m]", True),
            ("at: {bore: [mast_post, boom_tube]}", "at: {face: mast_post, toward: z}", False),
            ("at: {bore: [mast_post, boom_tube]}", "at: {xyz: [0, 0]}", False),
            ("collision: capsule", "collision: [{fit: pieces, pieces: 4}, {sphere: 1 m}]", True),
            ("collision: capsule", "collision: {fit: pieces, pieces: none}", False),
            ("collision: capsule", "collision: capsul", False),
            ("type: continuous", "type: endless", False),
            ("kind: hinge", "kind: [hinge]", False),
            ("mooring: 1", "mooring: 2", False),
            ("name: line_tender", "name: line_tender\ncollisions: {}", False),
            ("mass: 19.5 kg", "mass: 19.5 kg, points: [{mass: 1}]", False),
            ("mass: 19.5 kg", "mass: 19.5 kg\n    points: [{mass: 1, at: [0, 0, 1 m]}]", True),
            ("mass: 19.5 kg", "mass: true", False),
            ("hold: 0.5 s}", "hald: 0.5 s}", False),
        ):
            self.assertIn(wrong, text)
            cases.append((text.replace(wrong, right, 1), good))
        file = folder / "case.yaml"
        for document, good in cases:
            file.write_text(document)
            with self.subTest(document[-200:]):
                try:
                    mooring.read(file)
                    accepted = True
                except InputError:
                    accepted = False
                self.assertEqual(accepted, good)
                try:
                    plain = YAML(typ="safe").load(document)
                except Exception:
                    continue  # no YAML: nothing for a schema to judge
                errors = [e.message for e in self.validator.iter_errors(plain)]
                if "face: mast_post" not in document:
                    self.assertEqual(not errors, good, errors[:1])
