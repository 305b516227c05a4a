"""Mooring's colors."""

from __future__ import annotations

Rgb = tuple[float, float, float]


def rgb(color: str) -> Rgb:
    """A color "#rrggbb" as three values from 0 to 1."""
    red, green, blue = (int(color[k : k + 2], 16) / 255 for k in (1, 3, 5))
    return red, green, blue


INK = "#1f2a33"
PAPER = "#ffffff"
SKY = "#f4f6f7"
HAZE = "#dfe4e7"
QUAY = "#e9ebe8"
COLLISION = "#e07a3f"
MASS = "#f2c14e"
PLAIN = "#9fb0ba"
AXES = ("#c8433f", "#2f8f5b", "#2f6db3")

# For parts without a color, and for lines in plots; told apart also by color-blind people
# (after Okabe and Ito, "Color Universal Design", 2008, dimmed a little).
SERIES = ("#2f6db3", "#d9822b", "#2f8f5b", "#b0508e", "#7a6a53", "#5aa7c7", "#c8433f", "#8a8f2e")
