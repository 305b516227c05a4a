"""Expressions with units, and the named values of documents."""

import math
import unittest

import mooring
from mooring.errors import DocumentError, UnitError
from mooring.units import Amount, evaluate, to_si
from tests.support import folder_for

KNOWN = {
    "stroke": Amount(0.82, (("[length]", 1.0),)),
    "lean": Amount(math.pi / 6, (("[angle]", 1.0),)),
    "count": Amount(3.0),
}


def value_of(text: str) -> str | float:
    return evaluate(text, KNOWN.__getitem__, KNOWN).written


class Expressions(unittest.TestCase):
    def test_arithmetic_keeps_units_and_precedence(self) -> None:
        for text, dimension, expected in (
            ("stroke / 2 + 5 mm", "length", 0.415),
            ("-stroke + 2 * (30 mm + 0.02 m)", "length", -0.72),
            ("5 mm * count ^ 2", "length", 0.045),
            ("2 - 3 - 4", "number", -5),
            ("2 ^ 3 ^ 2", "number", 512),
            ("-2 ^ 2", "number", -4),
            ("8 / 4 / 2", "number", 1),
            ("2 kN*m/rad * lean", "torque", 2000 * math.pi / 6),
            ("sqrt(stroke * 0.82 m)", "length", 0.82),
            ("stroke * sin(lean)", "length", 0.41),
            ("atan2(30 mm, 0.03 m)", "angle", math.pi / 4),
            ("max(3 mm, 0.1 m, stroke / 100)", "length", 0.1),
            ("12 rpm", "angular velocity", 12 * 2 * math.pi / 60),
            ("1 / (4 ms)", "frequency", 250),
            ("3 kg * 9.81 m/s^2", "force", 29.43),
            ("2700 kg/m^3 * (10 mm)^3", "mass", 2.7e-3),
            ("pi * count", "number", 3 * math.pi),
        ):
            with self.subTest(text):
                self.assertAlmostEqual(to_si(value_of(text), dimension), expected, places=12)

    def test_nonsense_is_refused_in_words(self) -> None:
        for text, words in (
            ("stroke + 3", "a sum of different things: a length and a number"),
            ("stroke - lean", "a difference of different things: a length and an angle"),
            ("2 ^ stroke", "a power must be a plain number, not a length"),
            ("sin(stroke)", "sin: expected an angle"),
            ("asin(2)", "asin: "),
            ("sqrt(-1)", "a negative number"),
            ("3 +", "it ends"),
            ("(2", r"'\)' is missing"),
            ("2 blah", "unknown unit 'blah'"),
            ("atan2(1)", "takes 2 values, got 1"),
            ("3 / (count - 3)", "division by zero"),
            ("10 ^ 400", "too large"),
            ("1e300 * 1e300", "not finite"),
            ("stroke count", "cannot read 'count'"),
            ("__import__('os')", "cannot read|is missing"),
            ("(" * 300 + "1", "brackets inside each other"),
            ("1" * 1000, "longer than"),
            ("", "it ends"),
        ):
            with self.subTest(text[:30]), self.assertRaisesRegex(UnitError, words):
                try:
                    value_of(text)
                except KeyError:
                    raise UnitError("cannot read") from None


TEXT = """mooring: 1
values:
  stroke: 820 mm
  lean: 30 deg
  offset: "=stroke / 2 + turn"
  turn: 5 mm
links:
  base: {mass: "=2 * 3 kg", inertia: [1, 1, 1]}
  arm: {mass: 2, inertia: [1, 1, 1]}
joints:
  swing:
    type: revolute
    parent: base
    child: arm
    at: {xyz: ["=offset", 0, 0]}
    limits: {lower: "=-lean", upper: "=2 * lean"}
"""


class Documents(unittest.TestCase):
    def read(self, text: str) -> mooring.Robot:
        file = folder_for(self) / "reach.yaml"
        file.write_text(text)
        return mooring.read(file)

    def test_values_are_used_wherever_a_quantity_stands(self) -> None:
        robot = self.read(TEXT)
        self.assertAlmostEqual(robot.links["base"].given_inertia.mass, 6)
        joint = robot.joints["swing"]
        self.assertAlmostEqual(joint.at.matrix[0, 3], 0.415)
        self.assertAlmostEqual(joint.limits.lower, -math.pi / 6)
        self.assertAlmostEqual(joint.limits.upper, math.pi / 3)

    def test_each_mistake_is_told_once_with_its_line(self) -> None:
        for wrong, right, expected in (
            ("820 mm", "820 kg", [":5: a sum of different things: a mass and a length"]),
            ("turn: 5 mm", 'turn: "=offset"', [":6: the values depend on each other in a ring"]),
            ("=offset", "=offst", [":15: no value is called 'offst'; did you mean 'offset'"]),
            ("  turn:", "  mm: 3\n  turn:", [":6: 'mm' is the sign of a unit"]),
            ("  turn:", "  sin: 3\n  turn:", [":6: 'sin' is the name of a function"]),
            ("  turn:", "  2x: 3\n  turn:", [":6: '2x' is no name"]),
            ("lean: 30 deg", "lean: [3]", [":4: expected a number, a quantity or an expression"]),
            ('"=2 * lean"', '"=stroke"', [":16: .* is a length; expected an angle"]),
            ("values:", "values: 3\nx:", [":3: unknown key 'x'", ":2: values is a mapping"]),
        ):
            with self.subTest(right):
                with self.assertRaises(DocumentError) as caught:
                    self.read(TEXT.replace(wrong, right, 1))
                lines = str(caught.exception).splitlines()
                for line, words in zip(lines, expected, strict=True):
                    self.assertRegex(line, words)
