"""Names for what has none of its own."""

from __future__ import annotations

from collections.abc import Container


def free_name(wanted: str, taken: Container[str]) -> str:
    """A name, or if it is taken that with a number."""
    name, number = wanted, 1
    while name in taken:
        number += 1
        name = f"{wanted}_{number}"
    return name
