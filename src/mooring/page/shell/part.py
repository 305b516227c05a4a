"""A part of the page that is drawn by one of the page's own modules in the browser."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import nicegui
from nicegui import ui

CLIENT = Path(__file__).parent.parent / "client"
THREE = Path(nicegui.__file__).parent / "elements" / "scene" / "dist"
"""NiceGUI's bundle of three.js, which a saved page carries inside as well."""


class ClientPart(
    ui.element,
    component="part.js",
    esm={"nicegui-scene": str(THREE), "mooring-page": str(CLIENT)},
):
    """A module of `client/` and the room it fills."""

    def __init__(self, module: str) -> None:
        super().__init__()
        self._props["module"] = module

    def tell(self, kind: str, news: Any) -> None:
        """Tell all parts of the same window something."""
        self.run_method("tell", kind, news)
