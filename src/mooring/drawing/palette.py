"""Mooring's colors."""

from __future__ import annotations

from dataclasses import dataclass

Rgb = tuple[float, float, float]


def rgb(color: str) -> Rgb:
    """A color "#rrggbb" as three values from 0 to 1."""
    red, green, blue = (int(color[k : k + 2], 16) / 255 for k in (1, 3, 5))
    return red, green, blue


@dataclass(frozen=True)
class Theme:
    """The colors around what is drawn.

    Attributes:
        ink: of text.
        paper: behind labels.
        sky, haze: of the background, at the top and at the bottom.
        quay: of the ground.
        edge: of the parts' edges.
    """

    ink: str
    paper: str
    sky: str
    haze: str
    quay: str
    edge: str


INK = "#1f2a33"
PAPER = "#ffffff"
QUAY = "#e9ebe8"
LIGHT = Theme(INK, PAPER, "#f4f6f7", "#dfe4e7", QUAY, INK)
DARK = Theme("#e6ecef", "#222b32", "#232c33", "#141a1e", "#2c363d", "#05080a")
COLLISION = "#e07a3f"
MASS = "#f2c14e"
DIMENSION = "#7a6a53"
CUT = "#c2506e"
DIFFERENT = "#c8433f"
ALIKE = "#b9c2c8"
PLAIN = "#9fb0ba"
AXES = ("#c8433f", "#2f8f5b", "#2f6db3")

# For parts without a color, and for lines in plots; told apart also by color-blind people
# (after Okabe and Ito, "Color Universal Design", 2008, dimmed a little).
SERIES = ("#2f6db3", "#d9822b", "#2f8f5b", "#b0508e", "#7a6a53", "#5aa7c7", "#c8433f", "#8a8f2e")
