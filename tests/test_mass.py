"""Mass properties: volume times density, sums over parts, weighed masses, and their sources."""

import unittest
from dataclasses import replace

import numpy as np

import mooring
from mooring import Robot, read_cad
from mooring.demo import LINE_TENDER
from mooring.errors import ModelError
from tests.support import folder_for, line_tender, run_mooring


class LinkMass(unittest.TestCase):
    def test_the_demos_masses_are_volume_times_density(self) -> None:
        robot = line_tender()
        checked = 0
        for name, link in robot.links.items():
            if link.weighed is not None:
                continue
            expected = sum(
                part.volume * (7850 if link.material else part.material.density)
                for part in link.parts
            )
            inertia = robot.inertia(name)
            self.assertAlmostEqual(inertia.mass / expected, 1, delta=1e-9)
            self.assertEqual(inertia.source, "computed")
            checked += 1
        self.assertEqual(checked, 10)

    def test_a_weighed_mass_scales_what_the_geometry_gives(self) -> None:
        assembly = read_cad(LINE_TENDER.step)
        robot = Robot("two")
        parts = assembly.pick("*/clamp_assembly/*")
        robot.add_link("computed", parts=parts)
        robot.add_link("weighed", parts=parts, mass="50 kg")
        plain, weighed = (robot.links[n].mass_properties(np.eye(4), {}) for n in robot.links)
        self.assertEqual((weighed.mass, weighed.source), (50, "weighed"))
        np.testing.assert_allclose(weighed.centre, plain.centre)
        np.testing.assert_allclose(weighed.tensor / 50, plain.tensor / plain.mass)

    def test_what_is_left_of_a_weight_is_that_of_parts_nobody_speaks_of(self) -> None:
        known, bare = read_cad(LINE_TENDER.step).pick("column", "turntable")
        bare = replace(bare, material=None)
        steel = known.volume * known.material.density
        robot = Robot("two")
        robot.add_link("post", parts=[known, bare], mass=steel + 10.0)
        found = robot.links["post"].mass_properties(np.eye(4), {})
        bodies = ((steel, known.solid.centroid), (10.0, bare.solid.centroid))
        centre = sum(mass * place for mass, place in bodies) / (steel + 10.0)
        np.testing.assert_allclose(found.centre, centre, rtol=1e-12)
        self.assertIn("what is left of its weight", found.detail)
        robot.links["post"].mass = 0.9 * steel
        told = {f.code: f.message for f in mooring.check(robot).findings}
        self.assertIn("nothing is left for turntable", told["mass-unknown"])
        self.assertNotIn("no mass", told["mass-unknown"])

    def test_one_link_of_all_parts_equals_the_sum_of_links(self) -> None:
        # The tensor of a whole is the sum of its parts', moved to the common centre of mass.
        assembly = read_cad(LINE_TENDER.step)
        robot = Robot("whole")
        robot.add_link("all", parts=assembly.parts, material="steel")
        whole = robot.links["all"].mass_properties(np.eye(4), {})
        second = np.zeros((3, 3))
        for part in assembly.parts:
            solid = part.solid
            central = 0.5 * np.trace(solid.inertia) * np.eye(3) - solid.inertia
            second += 7850 * (central + solid.volume * np.outer(solid.centroid, solid.centroid))
        second -= whole.mass * np.outer(whole.centre, whole.centre)
        np.testing.assert_allclose(
            whole.tensor, np.trace(second) * np.eye(3) - second, rtol=1e-9, atol=1e-9
        )

    def test_a_missing_material_is_not_made_up(self) -> None:
        bare = Robot("bare")
        part = read_cad(LINE_TENDER.step).part("column")

        bare.add_link("column", parts=[replace(part, material=None)])
        self.assertIsNone(bare.inertia("column"))

    def test_rules_for_parts_points_and_guesses(self) -> None:
        assembly = read_cad(LINE_TENDER.step)
        plate, column = assembly.part("base_plate"), assembly.part("column")
        robot = Robot("base")
        robot.add_link(
            "base",
            parts=(plate, column),
            density="7 kg/dm^3",
            part_materials={"col*": "aluminium"},
            points=[{"mass": "3 kg", "at": (0, 0, "1 m")}],
        )
        inertia = robot.inertia("base")
        assert inertia is not None
        mass = 7000 * plate.volume + 2700 * column.volume + 3
        self.assertAlmostEqual(inertia.mass, mass, places=9)
        centre = (
            7000 * plate.volume * plate.solid.centroid
            + 2700 * column.volume * column.solid.centroid
            + 3 * np.array([0, 0, 1.0])
        ) / mass
        np.testing.assert_allclose(inertia.centre, centre, atol=1e-12)
        self.assertIn("and 3 kg in 1 point", inertia.detail)
        robot.add_link("guess", parts=(plate,), mass=9, assumed=True)
        guess = robot.inertia("guess", np.eye(4))
        assert guess is not None
        self.assertEqual((guess.mass, guess.source), (9, "assumed"))
        # Two point masses alone are a dumbbell.
        robot.add_link("dumbbell", points=[{"mass": 1, "at": (x, 0, 0)} for x in (-2, 2)])
        bell = robot.inertia("dumbbell", np.eye(4))
        assert bell is not None
        np.testing.assert_allclose(np.diag(bell.tensor), (0, 8, 8))
        for words, wrong in (
            ("no material is called 'stel'; did you mean 'steel'", {"material": "stel"}),
            ("part_materials.col", {"part_materials": {"col": "x"}}),
            ("either a material or a density", {"material": "steel", "density": 1}),
            ("points.0.mass", {"points": [{"mass": -1}]}),
        ):
            with self.assertRaisesRegex(ModelError, words):
                robot.add_link("wrong", **wrong)

    def test_the_table_says_how_much_is_assumed(self) -> None:
        folder = folder_for(self)
        file = folder / "pair.yaml"
        file.write_text(
            "mooring: 1\nlinks:\n  base: {mass: 6, inertia: [1, 1, 1]}\n"
            "  arm: {mass: 2, inertia: [1, 1, 1], assumed: true}\n"
            "joints: {j: {type: continuous, parent: base, child: arm}}\n"
        )
        done = run_mooring("tree", file, "--mass")
        self.assertIn("8 kg: 6 kg given (75%), 2 kg assumed (25%)", done.stdout)
