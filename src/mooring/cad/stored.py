"""Assemblies as files of plain arrays: for the cache, and to pass between processes."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any, BinaryIO

import numpy as np

from mooring.cad.assembly import Assembly
from mooring.cad.mesh import Mesh
from mooring.cad.paint import Paint
from mooring.cad.part import CadMaterial, Geometry, Part
from mooring.cad.places.frame import Frame
from mooring.cad.solid import SolidProperties
from mooring.cad.surfaces.rows import as_row, from_row


def save(assembly: Assembly, stream: BinaryIO) -> None:
    """Write an assembly; only arrays and JSON, nothing that could run."""
    # What a geometry consists of comes before it.
    geometries = {
        id(one): one for part in assembly.parts for one in (*part.geometry.solids, part.geometry)
    }
    numbers = {key: number for number, key in enumerate(geometries)}
    shapes = list(geometries.values())
    story: dict[str, Any] = {
        "name": assembly.name,
        "notes": assembly.notes,
        "frames": {name: [f.matrix.tolist(), f.found] for name, f in assembly.frames.items()},
        "geometries": [
            {
                "name": g.name,
                "source": g.source,
                "bodies": g.bodies,
                "closed": g.closed,
                "bounds": None if g.exact_bounds is None else g.exact_bounds.tolist(),
                "vertices": len(g.mesh.vertices),
                "faces": len(g.mesh.faces),
                "surfaces": [as_row(surface) for surface in g.surfaces],
                "paint": None if g.mesh.paint is None else g.mesh.paint.colors,
                "solids": [numbers[id(one)] for one in g.solids],
            }
            for g in shapes
        ],
        "parts": [
            {
                "name": p.name,
                "path": p.path,
                "geometry": numbers[id(p.geometry)],
                "color": p.color,
                "material": None if p.material is None else [p.material.name, p.material.density],
            }
            for p in assembly.parts
        ],
    }
    solids = [
        np.concatenate([[g.solid.volume], g.solid.centroid, g.solid.inertia.ravel()])
        for g in shapes
    ]
    paints = [g.mesh.paint.of_triangle for g in shapes if g.mesh.paint is not None]
    arrays = {
        "vertices": np.concatenate([g.mesh.vertices for g in shapes]),
        "faces": np.concatenate([g.mesh.faces for g in shapes]),
        "solids": np.array(solids),
        "paint": np.concatenate([np.zeros(0, np.int32), *paints]),
        "placements": np.array([p.placement for p in assembly.parts]),
    }
    text = np.frombuffer(json.dumps(story).encode(), dtype=np.uint8)
    np.savez(stream, allow_pickle=False, story=text, **arrays)


def load(file: Path | BinaryIO) -> Assembly:
    """Read an assembly back.

    Raises:
        OSError, ValueError, KeyError, zipfile.BadZipFile: missing or damaged.
    """
    with np.load(file, allow_pickle=False) as arrays:
        story = json.loads(arrays["story"].tobytes())
        data = {name: arrays[name] for name in arrays.files if name != "story"}
    geometries = _geometries(story["geometries"], data)
    parts = tuple(
        Part(
            entry["name"],
            entry["path"],
            place,
            geometries[entry["geometry"]],
            entry["color"],
            None if entry["material"] is None else CadMaterial(*entry["material"]),
        )
        for entry, place in zip(story["parts"], data["placements"], strict=True)
    )
    frames = {name: Frame(np.array(m), found) for name, (m, found) in story["frames"].items()}
    return Assembly(story["name"], Path(), parts, tuple(story["notes"]), frames=frames)


def _geometries(entries: list[dict[str, Any]], data: dict[str, Any]) -> list[Geometry]:
    found: list[Geometry] = []
    vertex = face = painted = 0
    for entry, solid in zip(entries, data["solids"], strict=True):
        paint = None
        if entry["paint"] is not None:
            paint = Paint(tuple(entry["paint"]), data["paint"][painted : painted + entry["faces"]])
            painted += entry["faces"]
        mesh = Mesh(
            data["vertices"][vertex : vertex + entry["vertices"]],
            data["faces"][face : face + entry["faces"]],
            paint,
        )
        vertex += entry["vertices"]
        face += entry["faces"]
        properties = SolidProperties(float(solid[0]), solid[1:4], solid[4:].reshape(3, 3))
        found.append(
            Geometry(
                entry["name"],
                mesh,
                properties,
                entry["source"],
                tuple(map(from_row, entry["surfaces"])),
                entry["bodies"],
                entry["closed"],
                None if entry["bounds"] is None else np.array(entry["bounds"]),
                tuple(found[number] for number in entry["solids"]),
            )
        )
    return found
