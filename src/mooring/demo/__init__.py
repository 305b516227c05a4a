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


@dataclass(frozen=True)
class Demo:
    """What `mooring demo` can show.

    Attributes:
        document: of a machine or a scene; what it needs stands in the same folder.
        about: what it is, in a few words.
        picture: the posture that shows it best; None for neutral.
    """

    document: Path
    about: str
    picture: str | None = None

    @property
    def files(self) -> list[Path]:
        """The document, and all that it may be made from."""
        return sorted(
            file for file in self.document.parent.iterdir() if file.suffix in (".yaml", ".step")
        )


_FOLDER = Path(__file__).parent


def _machine(folder: str, name: str) -> DemoMachine:
    return DemoMachine(_FOLDER / folder / f"{name}.yaml", _FOLDER / folder / f"{name}.step")


LINE_TENDER = _machine("line_tender", "line_tender")
WALKER = DemoMachine(_FOLDER / "walker" / "walker.yaml", _FOLDER / "walker" / "hull.step")
WALKER_LEG = _machine("walker", "leg")
DRUM_CART = _machine("drum_cart", "drum_cart")

DEMOS = {
    "line_tender": Demo(
        LINE_TENDER.document, "a deck arm: a loop with a cylinder, a telescope, coupled jaws",
        "over_ship",
    ),
    "bollard": Demo(
        _FOLDER / "line_tender" / "bollard.yaml", "the line tender lays a line over a bollard"
    ),
    "walker": Demo(WALKER.document, "six legs from one document, on the ground", "standing"),
    "leg": Demo(WALKER_LEG.document, "one leg of the walker, made once and included six times"),
    "breakwater": Demo(
        _FOLDER / "walker" / "breakwater.yaml", "the walker crosses a step with a tripod gait"
    ),
    "drum_cart": Demo(DRUM_CART.document, "a cart on wheels with a scanner and a camera"),
    "quay": Demo(_FOLDER / "drum_cart" / "quay.yaml", "the drum cart drives an eight on a quay"),
}  # fmt: skip
"""By the names that `mooring demo` knows them by."""
