"""Mass properties: volume times density, sums over parts, weighed masses, and their sources."""

import unittest

import numpy as np

from mooring import Robot, read_cad
from mooring.demo import LINE_TENDER
from tests.support import line_tender


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
        plain, weighed = (robot.links[n].inertia(np.eye(4), {}) for n in robot.links)
        self.assertEqual((weighed.mass, weighed.source), (50, "weighed"))
        np.testing.assert_allclose(weighed.centre, plain.centre)
        np.testing.assert_allclose(weighed.tensor / 50, plain.tensor / plain.mass)

    def test_one_link_of_all_parts_equals_the_sum_of_links(self) -> None:
        # The tensor of a whole is the sum of its parts', moved to the common centre of mass.
        assembly = read_cad(LINE_TENDER.step)
        robot = Robot("whole")
        robot.add_link("all", parts=assembly.parts, material="steel")
        whole = robot.links["all"].inertia(np.eye(4), {})
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
        from dataclasses import replace

        bare.add_link("column", parts=[replace(part, material=None)])
        self.assertIsNone(bare.inertia("column"))
