"""The demo machines: their CAD, documents and the scripts that make them."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path


@dataclass(frozen=True)
class DemoMachine:
    """A machine that ships with Mooring.

    Attributes:
        document: its description, to be read by `mooring.read`.
        step: its CAD file, beside the document.
    """

    document: Path
    step: Path


_FOLDER = Path(__file__).parent


def _machine(folder: str, name: str) -> DemoMachine:
    return DemoMachine(_FOLDER / folder / f"{name}.yaml", _FOLDER / folder / f"{name}.step")


LINE_TENDER = _machine("line_tender", "line_tender")
WALKER = DemoMachine(_FOLDER / "walker" / "walker.yaml", _FOLDER / "walker" / "hull.step")
WALKER_LEG = _machine("walker", "leg")
DRUM_CART = _machine("drum_cart", "drum_cart")
