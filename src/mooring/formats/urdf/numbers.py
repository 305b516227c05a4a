"""Numbers as URDF has them."""

from __future__ import annotations

from collections.abc import Iterable


def number_text(value: float) -> str:
    """The shortest text that reads back as the same number."""
    text = repr(float(value) + 0.0)
    return text.removesuffix(".0")


def tidy_text(values: Iterable[float] | float) -> str:
    """One number or several without the dust that units leave in the last digit."""
    if isinstance(values, float | int):
        return number_text(float(f"{values:.15g}"))
    return numbers_text(float(f"{value:.15g}") for value in values)


def numbers_text(values: Iterable[float]) -> str:
    """Several, with spaces between them."""
    return " ".join(number_text(value) for value in values)
