"""Text and symbols drawn over a rendered image."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from PIL import Image, ImageDraw, ImageFont

from mooring.drawing.camera import Camera
from mooring.drawing.layers import Label
from mooring.drawing.palette import AXES, INK, PAPER
from mooring.geometry import Array

_LABEL_SIZE, _CAPTION_SIZE = 15, 16
Box = tuple[float, float, float, float]


def draw_labels(image: Image.Image, labels: Sequence[Label], at: Array) -> None:
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
            draw.line([(x, y), (near, middle)], fill=INK, width=1)
        draw.rounded_rectangle(box, radius=3, fill=(255, 255, 255), outline="#b8c2c9")
        draw.text((box[0] + 4, box[1] + 1), labels[number].text, fill=INK, font=font)


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


def draw_triad(image: Image.Image, camera: Camera) -> None:
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
            (x, y), name, fill=color, font=font, anchor="mm", stroke_width=2, stroke_fill=PAPER
        )


def draw_caption(image: Image.Image, left: str, right: str) -> None:
    """A line at the top left, and one at the lower right."""
    draw = ImageDraw.Draw(image)
    font = ImageFont.load_default(_CAPTION_SIZE)
    draw.text((16, 12), left, fill=INK, font=font)
    corner = (image.width - 16, image.height - 14)
    draw.text(corner, right, fill=INK, font=font, anchor="rs")
