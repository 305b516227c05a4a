"""Values that nobody should give, and somebody will."""

from __future__ import annotations

import math
import random
from collections.abc import Sequence
from typing import Any

ODD: tuple[Any, ...] = (
    None, True, False, 0, -1, 1, 7, 2**63, -(2**63), 10**30, 10**5000, 0.0, -0.0, 1e-320, 1e308,
    math.nan, math.inf, -math.inf, "", " ", "boom", "nonsense", "[red]x[/]", "../../x", "\0",
    "\ud800", "x" * 5000, "1 kg^-200", "=1/0", "=sqrt(-1)", "3 deg", "-5 mm", "1e999 m", "NaN",
    "\u6f22", b"\xff", (), [], {}, [[]], [None], [1, 2, 3], [math.nan] * 3, ["a", 3], {"x": 1},
    {3: 4}, {"": {}},
)  # fmt: skip
"""Plain values of all sorts."""
_WORDS = (
    "1", "2.5", "1e400", "-", "+", "*", "/", "^", "**", "(", ")", "((", "))", ",", " ", "mm", "deg",
    "kg", "N*m", "rad/s", "%", "sqrt", "sin", "atan2", "min", "pi", "reach", "=", "'", "°", "µm",
    "1_0", "0x1", "é", "\0", "inf", "nan", "a.b", "[", "]", "9" * 400, "^-200", "if", "lambda",
    "__import__",
)  # fmt: skip


def odd(chance: random.Random, more: Sequence[Any] = ()) -> Any:
    """One of them, or something nested made of them."""
    depth = chance.random()
    if depth < 0.1:
        return [odd(chance, more) for _ in range(chance.randrange(4))]
    if depth < 0.2:
        keys = ("position", "boom", "x", "to", "at", "kind", "color")
        return {chance.choice(keys): odd(chance, more) for _ in range(chance.randrange(4))}
    return chance.choice((*ODD, *more))


def words(chance: random.Random) -> str:
    """Text of what expressions are made of, in no order."""
    return "".join(chance.choice(_WORDS) for _ in range(chance.randrange(1, 12)))
