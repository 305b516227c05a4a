"""Text and symbols drawn over a rendered image."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from PIL import Image, ImageDraw, ImageFont

from mooring.drawing.camera import Camera
from mooring.drawing.layers import Label
from mooring.drawing.palette import AXES, LIGHT, Theme
from mooring.geometry import Array
from mooring.units import show

_LABEL_SIZE, _CAPTION_SIZE = 15, 16
_FRAME = "#8d9aa3"
Box = tuple[float, float, float, float]


def fitted(
    draw: ImageDraw.ImageDraw, text: str, font: ImageFont.ImageFont | ImageFont.FreeTypeFont,
    width: float,
) -> str:  # fmt: skip
    """A text, cut off so that it is no wider than that [pixels]."""
    if draw.textlength(text, font=font) <= width:
        return text
    while text and draw.textlength(f"{text}...", font=font) > width:
        text = text[:-1]
    return f"{text.rstrip()}..."


def draw_labels(
    image: Image.Image, labels: Sequence[Label], at: Array, theme: Theme = LIGHT
) -> None:
    """Put labels beside their points, none over another, each with a leader where it is far.

    `at` is (n, 3): where each point is [pixels], and the radius to keep clear around it [pixels].
    """
    draw = ImageDraw.Draw(image)
    font = ImageFont.load_default(_LABEL_SIZE)
    taken: list[Box] = []
    for number in np.argsort(at[:, 1]):
        x, y, clear = (float(value) for value in at[number])
        if not (0 <= x < image.width and 0 <= y < image.height):
            continue
        box = _free_box(draw, labels[number].text, font, (x, y, clear), image.size, taken)
        taken.append(box)
        middle = (box[1] + box[3]) / 2
        near = box[0] - 2 if box[0] > x else box[2] + 2
        if abs(middle - y) > 10 or abs(near - x) > clear + 16:
            draw.line([(x, y), (near, middle)], fill=theme.ink, width=1)
        draw.rounded_rectangle(box, radius=3, fill=theme.paper, outline=_FRAME)
        draw.text((box[0] + 4, box[1] + 1), labels[number].text, fill=theme.ink, font=font)


def _free_box(
    draw: ImageDraw.ImageDraw,
    text: str,
    font: ImageFont.FreeTypeFont | ImageFont.ImageFont,
    point: tuple[float, float, float],
    size: tuple[int, int],
    taken: Sequence[Box],
) -> Box:
    """The place nearest to a point where a text covers no other and stays on the picture."""
    width, height = draw.textlength(text, font=font) + 8, _LABEL_SIZE + 6
    best: Box | None = None
    x, y, clear = point
    for ring in range(40):
        drop = ring * 6
        for dx, dy in ((clear + 10, -height / 2), (-clear - 10 - width, -height / 2)):
            for way in (drop, -drop):
                left = min(max(2.0, x + dx), size[0] - width - 2)
                top = min(max(2.0, y + dy + way), size[1] - height - 2)
                box = (left, top, left + width, top + height)
                best = best or box
                if not any(_overlap(box, other) for other in taken):
                    return box
    assert best is not None
    return best


def _overlap(a: Box, b: Box) -> bool:
    return a[0] < b[2] + 2 and b[0] < a[2] + 2 and a[1] < b[3] + 2 and b[1] < a[3] + 2


def draw_triad(image: Image.Image, camera: Camera, theme: Theme = LIGHT) -> None:
    """The world's axes in the lower left corner."""
    draw = ImageDraw.Draw(image)
    font = ImageFont.load_default(_LABEL_SIZE)
    origin = np.array([62.0, image.height - 62.0])
    reach = 42.0
    tips = [
        (float(axis @ camera.back), np.array([axis @ camera.right, -(axis @ camera.up)]), number)
        for number, axis in enumerate(np.eye(3))
    ]
    for _, way, number in sorted(tips, key=lambda tip: tip[0]):
        color = AXES[number]
        tip = origin + reach * way
        length = float(np.linalg.norm(way))
        draw.line([tuple(origin), tuple(tip)], fill=color, width=3)
        if length > 0.15:
            along, across = way / length, np.array([-way[1], way[0]]) / length
            base = tip - 9 * along
            head = [tuple(tip + 3 * along), tuple(base + 5 * across), tuple(base - 5 * across)]
            draw.polygon(head, fill=color)
        x, y = origin + (reach + 14) * (way / length if length > 0.15 else way + 0.3)
        name = "xyz"[number]
        draw.text(
            (x, y),
            name,
            fill=color,
            font=font,
            anchor="mm",
            stroke_width=2,
            stroke_fill=theme.paper,
        )


def draw_caption(image: Image.Image, left: str, right: str, theme: Theme = LIGHT) -> None:
    """A line at the top left, and one at the lower right."""
    draw = ImageDraw.Draw(image)
    font = ImageFont.load_default(_CAPTION_SIZE)
    draw.text((16, 12), left, fill=theme.ink, font=font)
    corner = (image.width - 16, image.height - 14)
    draw.text(corner, right, fill=theme.ink, font=font, anchor="rs")


def draw_scale(image: Image.Image, pixels_per_metre: float, theme: Theme = LIGHT) -> None:
    """A bar of a round length in the lower right corner, above the caption there.

    Args:
        image: to draw on.
        pixels_per_metre: of lengths across the line of sight, where the bar is to be true.
        theme: the colors.
    """
    wanted = 0.16 * image.width / pixels_per_metre
    power = 10.0 ** np.floor(np.log10(wanted))
    length = float(power * max(step for step in (1, 2, 5) if step * power <= wanted))
    wide = length * pixels_per_metre
    right, low = image.width - 16, image.height - 42
    draw = ImageDraw.Draw(image)
    draw.line([(right - wide, low), (right, low)], fill=theme.ink, width=2)
    for x in (right - wide, right):
        draw.line([(x, low - 5), (x, low + 5)], fill=theme.ink, width=2)
    font = ImageFont.load_default(_LABEL_SIZE)
    said = show(length, "length")
    draw.text((right - wide / 2, low - 6), said, fill=theme.ink, font=font, anchor="ms")
