"""Pictures of a CAD file: every distinct part by itself, and the assembly pulled apart."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

import numpy as np
from PIL import Image, ImageDraw, ImageFont

from mooring.cad import Assembly, Part
from mooring.drawing.camera import looking_at
from mooring.drawing.layers import Label
from mooring.drawing.overlay import draw_caption, draw_labels, draw_triad
from mooring.drawing.palette import INK, PLAIN
from mooring.drawing.pieces import Piece
from mooring.drawing.render import FAR, render
from mooring.drawing.robot_picture import Picture, picture_format
from mooring.geometry import Array, placement

_SIZE = (1280, 800)
_HEADER = 44
_CAPTION = 36
_COLUMNS, _ROWS = 8, 5
_SPREAD = 0.75
"""How far parts move away from the middle of their sub-assembly, as a share of their distance."""


def draw_parts(assembly: Assembly, file: Path) -> list[Path]:
    """Write contact sheets of the distinct parts, and the assembly pulled apart.

    Args:
        assembly: what to draw.
        file: the first sheet; others get a number, the assembly the ending `_apart`.

    Returns:
        The files written.

    Raises:
        InputError: pictures are not written in the format of the suffix.
    """
    picture_format(file)
    kinds = assembly.kinds()
    per_page = _COLUMNS * _ROWS
    written = []
    for page, first in enumerate(range(0, len(kinds), per_page), start=1):
        path = file if page == 1 else file.with_stem(f"{file.stem}_{page}")
        pages = -(-len(kinds) // per_page)
        where = f", page {page} of {pages}" if pages > 1 else ""
        title = f"{assembly.name}: {len(assembly.parts)} parts of {len(kinds)} kinds{where}"
        contact_sheet(kinds[first : first + per_page], title).save(path)
        written.append(path)
    apart = file.with_stem(f"{file.stem}_apart")
    pulled_apart(assembly).save(apart)
    return [*written, apart]


def contact_sheet(kinds: Sequence[Sequence[Part]], title: str) -> Picture:
    """Each kind of part in a cell of its own, with name, copies and size."""
    sheet = Image.new("RGB", _SIZE, "white")
    draw = ImageDraw.Draw(sheet)
    columns = max(1, min(_COLUMNS, int(np.ceil(np.sqrt(1.6 * len(kinds))))))
    rows = -(-len(kinds) // columns)
    width, height = _SIZE[0] // columns, (_SIZE[1] - _HEADER) // rows
    font, small = ImageFont.load_default(13), ImageFont.load_default(12)
    for number, copies in enumerate(kinds):
        left = (number % columns) * width
        top = _HEADER + (number // columns) * height
        part = copies[0]
        piece = Piece(part.mesh, _upright(part), part.color or PLAIN)
        inner = (width - 8, height - _CAPTION - 6)
        camera = looking_at(piece.vertices, "corner", inner[0] / inner[1])
        sheet.paste(Image.fromarray(render([piece], camera, inner, None)), (left + 4, top))
        name = part.geometry.name or part.name
        count = f"{len(copies)} x  " if len(copies) > 1 else ""
        size = " x ".join(f"{1000 * v:.4g}" for v in part.size) + " mm"
        x, y = left + 8, top + inner[1] + 3
        draw.text((x, y), _fitting(draw, count + name, font, width - 14), fill=INK, font=font)
        draw.text((x, y + 16), _fitting(draw, size, small, width - 14), fill="#5c6972", font=small)
    draw_caption(sheet, title, "")
    return Picture(sheet)


def pulled_apart(assembly: Assembly) -> Picture:
    """The assembly with its sub-assemblies, and their parts, moved away from each other."""
    offsets = _offsets(assembly)
    pieces = [
        Piece(part.mesh, placement(offset) @ part.placement, part.color or PLAIN)
        for part, offset in zip(assembly.parts, offsets, strict=True)
    ]
    camera = looking_at(
        np.concatenate([piece.vertices for piece in pieces]), "corner", _SIZE[0] / _SIZE[1]
    )
    image = Image.fromarray(render(pieces, camera, _SIZE, None))
    # Name what a person would look for: parts that are there once, the largest first.
    once = {id(copies[0]) for copies in assembly.kinds() if len(copies) == 1}
    named = [
        Label(piece.vertices.mean(axis=0), part.name)
        for part, piece in zip(assembly.parts, pieces, strict=True)
        if id(part) in once
    ]
    named = sorted(
        named, key=lambda label: -next(p.volume for p in assembly.parts if p.name == label.text)
    )[:30]
    at = np.array([label.point for label in named]).reshape(-1, 3)
    places = np.column_stack([camera.project(at, *_SIZE, FAR)[:, :2], np.zeros(len(named))])
    draw_labels(image, named, places)
    draw_triad(image, camera)
    draw_caption(image, f"{assembly.name}, pulled apart", "")
    return Picture(image)


def _upright(part: Part) -> Array:
    """The part turned as it is in the assembly, so that it is recognised."""
    return placement(rotation=part.placement[:3, :3])


def _offsets(assembly: Assembly) -> list[Array]:
    """How far each part is moved: level by level, away from the middle of what it belongs to."""
    centres: dict[tuple[str, ...], list[Array]] = {}
    trails = [tuple(part.path.split("/")) for part in assembly.parts]
    for part, trail in zip(assembly.parts, trails, strict=True):
        middle = (part.vertices.min(axis=0) + part.vertices.max(axis=0)) / 2
        for depth in range(len(trail) + 1):
            centres.setdefault(trail[:depth], []).append(middle)
    means = {trail: np.mean(points, axis=0) for trail, points in centres.items()}
    return [
        sum(
            (
                _SPREAD * (means[trail[:depth]] - means[trail[: depth - 1]])
                for depth in range(1, len(trail) + 1)
            ),
            np.zeros(3),
        )
        for trail in trails
    ]


def _fitting(
    draw: ImageDraw.ImageDraw,
    text: str,
    font: ImageFont.FreeTypeFont | ImageFont.ImageFont,
    width: float,
) -> str:
    """The text, with its middle left out where it is too long."""
    if draw.textlength(text, font=font) <= width:
        return text
    keep = len(text)
    while keep > 4 and draw.textlength(text[:keep] + "...", font=font) > width:
        keep -= 1
    return text[:keep] + "..."
