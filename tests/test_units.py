"""Quantities: a number is SI, a string carries its unit."""

import math
import unittest

from mooring.errors import UnitError
from mooring.units import DIMENSIONS, show, to_si


class Reading(unittest.TestCase):
    def test_values_agree_with_the_definitions_of_the_units(self) -> None:
        for text, dimension, value in (
            ("25 mm", "length", 0.025),
            ("2 in", "length", 0.0508),
            ("-90 deg", "angle", -math.pi / 2),
            ("-90°", "angle", -math.pi / 2),
            ("30 rpm", "angular velocity", math.pi),
            ("1 kg", "mass", 1.0),
            ("2 lb", "mass", 0.90718474),
            ("7.85 g/cm^3", "density", 7850.0),
            ("6 kN*m", "torque", 6000.0),
            ("6 kN·m", "torque", 6000.0),
            ("9 kN*m/rad", "angular stiffness", 9000.0),
            ("1 N*m/deg", "angular stiffness", 180 / math.pi),
            ("500 ms", "time", 0.5),
            ("1e3 mm", "length", 1.0),
            ("0.5", "number", 0.5),
        ):
            with self.subTest(text):
                self.assertAlmostEqual(to_si(text, dimension), value, delta=1e-12 * abs(value))

    def test_every_example_in_the_table_can_be_read(self) -> None:
        for dimension in DIMENSIONS.values():
            self.assertTrue(math.isfinite(to_si(dimension.example, dimension.name)))
            self.assertEqual(to_si(3, dimension.name), 3.0)

    def test_what_is_wrong_is_said(self) -> None:
        for value, dimension, words in (
            ("90 deg", "length", ("'90 deg' is an angle", "expected a length")),
            ("5 Hz", "angular velocity", ("a frequency",)),
            ("6 kN*m", "angular stiffness", ("a torque",)),
            ("5", "angle", ("has no unit", "'5 rad'")),
            ("5 furlong", "length", ("unknown unit 'furlong'",)),
            ("five mm", "length", ("expected a length such as '25 mm'",)),
            ("5 m**", "length", ("cannot read the unit",)),
            ("__import__('os')", "length", ("expected a length",)),
            ("9" * 400 + " m", "length", ("expected a length",)),
            ("1e999 m", "length", ("not finite",)),
            (float("nan"), "mass", ("not finite",)),
            (True, "mass", ("expected a mass",)),
            (None, "mass", ("expected a mass",)),
            ([1], "mass", ("expected a mass",)),
        ):
            with self.subTest(value=value), self.assertRaises(UnitError) as caught:
                to_si(value, dimension)
            for word in words:
                self.assertIn(word, str(caught.exception))

    def test_shown_values_read_back(self) -> None:
        for value, dimension in ((0.0251, "length"), (-1.25, "angle"), (412.0, "mass")):
            self.assertAlmostEqual(to_si(show(value, dimension, 12), dimension), value, places=9)
