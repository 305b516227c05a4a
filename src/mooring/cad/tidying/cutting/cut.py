"""A fused body cut into several."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

import numpy as np

from mooring.cad.hierarchy import Boxes
from mooring.cad.mesh import Mesh
from mooring.cad.part import Part
from mooring.cad.tidying.cutting.creases import creases
from mooring.cad.tidying.cutting.cutters import (
    BoxCut,
    CreaseCut,
    Cut,
    CylinderCut,
    NeckCut,
    PlaneCut,
)
from mooring.cad.tidying.cutting.necks import Section, narrowest_near, necks
from mooring.cad.tidying.cutting.solids import (
    box,
    cylinder,
    geometry_of,
    halves_of,
    pieces_of,
    solid_of,
)
from mooring.cad.tidying.split import numbered
from mooring.errors import ModelError
from mooring.geometry import Array, apply, inverse
from mooring.units import show, show_point

if TYPE_CHECKING:
    from manifold3d import Manifold


def cut_part(part: Part, cuts: Sequence[Cut]) -> list[Part]:
    """The pieces of a part, largest first, called `name_1`, `name_2`, ...

    Each cut goes through all pieces that those before it left. What they open is closed with flat
    faces, or with what the box or cylinder has there.

    Raises:
        ModelError: the part is not closed, or a cut does not meet it.
    """
    whole = solid_of(part.mesh, part.name)
    pieces = pieces_of(whole)
    for cut in cuts:
        done = _Cutter(part, cut).of(pieces)
        if len(done) == len(pieces):
            raise ModelError(f"{_words(cut)} cuts nothing off {part.name}")
        pieces = done
    return numbered(part, [geometry_of(piece, part.geometry, whole) for piece in pieces])


class _Cutter:
    """One cut through the pieces of one part."""

    def __init__(self, part: Part, cut: Cut) -> None:
        self._part = part
        self._cut = cut
        self._home = inverse(part.placement)

    def of(self, pieces: list[Manifold]) -> list[Manifold]:
        cut = self._cut
        if isinstance(cut, PlaneCut):
            normal = self._home[:3, :3] @ (cut.normal / np.linalg.norm(cut.normal))
            offset = float(normal @ apply(self._home, cut.through))
            halves = [half for piece in pieces for half in halves_of(piece, normal, offset)]
            return [piece for half in halves for piece in half]
        if isinstance(cut, (BoxCut, CylinderCut)):
            if isinstance(cut, BoxCut):
                tool = box(np.minimum(cut.low, cut.high), np.maximum(cut.low, cut.high))
            else:
                tool = cylinder(cut.start, cut.end, cut.radius)
            tool = tool.transform(self._home[:3])
            parts = [part for piece in pieces for part in piece.split(tool) if part.volume() > 0]
            return [piece for part in parts for piece in pieces_of(part)]
        if isinstance(cut, NeckCut):
            return self._at_neck(pieces, cut)
        for piece in list(pieces):
            for section in creases(_mesh_of(piece), cut.angle, self._part.name):
                pieces = _through(pieces, section)
        return pieces

    def _at_neck(self, pieces: list[Manifold], cut: NeckCut) -> list[Manifold]:
        if cut.near is not None:
            near = apply(self._home, cut.near)
            piece = min(pieces, key=lambda one: _distance(one, near))
            return _through(pieces, narrowest_near(_mesh_of(piece), near))
        best: tuple[float, Section] | None = None
        for piece in pieces:
            mesh = _mesh_of(piece)
            for section in necks(mesh):
                if not np.isfinite(section.area):
                    continue
                volumes = [one.volume() for one in _through([piece], section)]
                if len(volumes) < 2:
                    continue
                # Cheeger's ratio: a small section for much on its smaller side.
                ratio = section.area / (sum(volumes) - max(volumes)) ** (2 / 3)
                if best is None or ratio < best[0]:
                    best = ratio, section
        if best is None:
            return pieces
        return self._at_neck(pieces, NeckCut(apply(self._part.placement, best[1].through)))


def _through(pieces: list[Manifold], section: Section) -> list[Manifold]:
    """The pieces, of which the one at a section is cut there, and nowhere else in its plane."""
    at = min(pieces, key=lambda piece: _distance(piece, section.through))
    halves = halves_of(at, section.normal, float(section.normal @ section.through))
    if not all(halves):
        return pieces
    sides = [min(half, key=lambda one: _distance(one, section.through)) for half in halves]
    off = min(sides, key=lambda piece: piece.volume())
    return [piece for piece in pieces if piece is not at] + [off, *pieces_of(at - off)]


def _distance(piece: Manifold, point: Array) -> float:
    return float(Boxes(_mesh_of(piece).corners).distances(point[None])[0])


def _mesh_of(piece: Manifold) -> Mesh:
    found = piece.to_mesh64()
    vertices = np.ascontiguousarray(np.asarray(found.vert_properties, dtype=float)[:, :3])
    return Mesh(vertices, np.asarray(found.tri_verts, dtype=np.int64))


def _words(cut: Cut) -> str:
    if isinstance(cut, PlaneCut):
        return f"the plane through {show_point(cut.through)}"
    if isinstance(cut, BoxCut):
        return f"the box from {show_point(cut.low)} to {show_point(cut.high)}"
    if isinstance(cut, CylinderCut):
        return f"the cylinder from {show_point(cut.start)} to {show_point(cut.end)}"
    if isinstance(cut, CreaseCut):
        return f"the creases of {show(cut.angle, 'angle')}"
    return "the narrowest place" + ("" if cut.near is None else f" near {show_point(cut.near)}")
