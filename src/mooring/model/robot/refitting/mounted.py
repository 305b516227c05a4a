"""What sits at the frame of a link, and has to be told where that is when it is elsewhere."""

from __future__ import annotations

from collections.abc import Container
from typing import Any


def is_mounted(item: Any, link: str) -> bool:
    """Whether something sits at a link's frame, and might sit at another frame instead."""
    fields = getattr(type(item), "model_fields", {})
    return "frame" in fields and "link" in fields and item.link == link


def free_name(wanted: str, taken: Container[str]) -> str:
    """A name that nothing has."""
    name, number = wanted, 1
    while name in taken:
        number += 1
        name = f"{wanted}_{number}"
    return name
