"""What sits at the frame of a link, and has to be told where that is when it is elsewhere."""

from __future__ import annotations

from typing import Any


def is_mounted(item: Any, link: str) -> bool:
    """Whether something sits at a link's frame, and might sit at another frame instead."""
    fields = getattr(type(item), "model_fields", {})
    return "frame" in fields and "link" in fields and item.link == link
