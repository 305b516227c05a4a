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
LINE_TENDER = DemoMachine(
    _FOLDER / "line_tender" / "line_tender.yaml",
    _FOLDER / "line_tender" / "line_tender.step",
)
