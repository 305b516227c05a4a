"""Words that show when the pointer rests on something."""

from __future__ import annotations

from typing import TypeVar

from nicegui import ui

Shown = TypeVar("Shown", bound=ui.element)


def hint(element: Shown, text: str) -> Shown:
    """Give an element a hint; the browser's own, which goes when the element goes."""
    element._props["title"] = text
    return element
