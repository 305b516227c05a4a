"""From a parsed scene of nodes to placed parts and frames."""

from __future__ import annotations

import numpy as np

from mooring.cad.mesh import Mesh, weld
from mooring.cad.meshes.conventions import Convention
from mooring.cad.meshes.parsed import RawNode, RawScene
from mooring.cad.part import Geometry, NameRegister, Part
from mooring.cad.places.frame import Frame
from mooring.geometry import Array, placement

_RIGID = 1e-6


class SceneReader:
    """Collects the parts and frames of a parsed scene.

    Attributes:
        parts: every node that carries triangles.
        frames: every named node that carries none, by name.
        notes: what was applied, changed or left out.
    """

    def __init__(self, scene: RawScene, convention: Convention, stem: str) -> None:
        self._scene = scene
        self._convention = convention
        self._stem = stem
        self._names = NameRegister()
        self._shapes: dict[tuple[str, bytes], Geometry | None] = {}
        self._cleaned: dict[str, Mesh | None] = {}
        self.parts: list[Part] = []
        self.frames: dict[str, Frame] = {}
        self.notes: list[str] = list(convention.notes)
        for node in scene.nodes:
            self._add(node)
        if self._names.changed:
            self.notes.append(
                f"{self._names.changed} parts shared a name with another and were numbered"
            )

    def _add(self, node: RawNode) -> None:
        name = node.name or self._stem
        if node.transform.shape != (4, 4) or not np.isfinite(node.transform).all():
            self.notes.append(f"{name}: its placement is not finite; left out")
            return
        rigid, stretch = _split(node.transform)
        if rigid is None:
            self.notes.append(f"{name}: its placement flattens it; left out")
            return
        rigid[:3, 3] *= self._convention.scale
        place = self._convention.turn @ rigid
        if node.shape is None:
            self.frames[name] = Frame(place, f"the empty node {name}")
            return
        shape = self._geometry(name, node.shape, stretch)
        if shape is not None:
            color = self._scene.shapes[node.shape].color
            path = "/".join((*node.path, name))
            self.parts.append(Part(self._names.unique(name), path, place, shape, color))

    def _geometry(self, node: str, name: str, stretch: Array | None) -> Geometry | None:
        key = (name, b"" if stretch is None else stretch.tobytes())
        if key not in self._shapes:
            self._shapes[key] = self._make(node, name, stretch)
        return self._shapes[key]

    def _make(self, node: str, name: str, stretch: Array | None) -> Geometry | None:
        mesh = self._clean(name)
        if mesh is None:
            return None
        if stretch is not None:
            mirrored = np.linalg.det(stretch) < 0
            factors = np.linalg.svd(stretch)[1]
            even = np.ptp(factors) < _RIGID * factors[0]
            listed = f"{factors[0]:.4g}" if even else " x ".join(f"{f:.4g}" for f in factors)
            what = "a mirror image" if mirrored and even and abs(factors[0] - 1) < _RIGID else ""
            self.notes.append(
                f"{node}: {what or f'the scale {listed} of its node'} was applied to its geometry"
                + (", mirrored" if mirrored and not what else "")
            )
            faces = mesh.faces[:, ::-1] if mirrored else mesh.faces
            mesh = Mesh(mesh.vertices @ stretch.T, np.ascontiguousarray(faces), mesh.paint)
        label = self._stem if name.startswith("geometry_") else name
        from mooring.cad.features import find_surfaces

        surfaces = find_surfaces(mesh)
        return Geometry(label, mesh, mesh.solid, "mesh", surfaces, mesh.bodies, mesh.closed)

    def _clean(self, name: str) -> Mesh | None:
        """The triangles that can be used, in metres; None when there are none."""
        if name not in self._cleaned:
            self._cleaned[name] = self._cleaned_mesh(name)
        return self._cleaned[name]

    def _cleaned_mesh(self, name: str) -> Mesh | None:
        source = self._scene.shapes[name]
        faces, vertices = source.faces, source.vertices
        if not len(faces):
            self.notes.append(f"{name}: holds no triangles and was left out")
            return None
        known = ((faces >= 0) & (faces < len(vertices))).all(axis=1)
        usable = np.zeros(len(faces), dtype=bool)
        finite = np.asarray(np.isfinite(vertices).all(axis=1))
        usable[known] = finite[faces[known]].all(axis=1)
        dropped = int((~usable).sum())
        if dropped:
            self.notes.append(
                f"{name}: {dropped} triangles with coordinates that are no numbers were left out"
            )
        vertices = np.where(finite[:, None], vertices, 0.0) * self._convention.scale
        kept = faces[usable]
        if not len(kept):
            return None
        size = float(np.ptp(vertices[kept.ravel()], axis=0).max())
        paint = None if source.paint is None else source.paint.of(usable)
        mesh = weld(vertices, kept, max(1e-7 * size, 1e-12), paint)
        if len(mesh.faces) < len(kept):
            flat = len(kept) - len(mesh.faces)
            self.notes.append(f"{name}: {flat} triangles of zero area were left out")
        return mesh if len(mesh.faces) else None


def _split(transform: Array) -> tuple[Array | None, Array | None]:
    """A transform as a rigid placement after a stretch: its polar decomposition.

    The stretch is None where there is none; the placement is None where the transform flattens.
    """
    linear = transform[:3, :3]
    if np.abs(linear @ linear.T - np.eye(3)).max() < _RIGID and np.linalg.det(linear) > 0:
        return placement(transform[:3, 3], linear), None
    u, factors, vt = np.linalg.svd(linear)
    if factors[-1] < 1e-9 * max(factors[0], 1e-30):
        return None, None
    turn = u @ vt
    if np.linalg.det(turn) < 0:
        # Keep the placement right-handed: the mirror goes into the geometry.
        turn = -turn
    stretch = turn.T @ linear
    return placement(transform[:3, 3], turn), np.where(np.abs(stretch) < 1e-12, 0.0, stretch)
