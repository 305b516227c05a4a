"""Assemblies as files of plain arrays: for the cache, and to pass between processes."""

from __future__ import annotations

import json
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import numpy as np

from mooring.cad.assembly import Assembly
from mooring.cad.cylinder import Cylinder
from mooring.cad.mesh import Mesh
from mooring.cad.part import CadMaterial, Geometry, Part
from mooring.cad.solid import SolidProperties
from mooring.files import write_whole


def save(assembly: Assembly, file: Path) -> None:
    """Write an assembly; only arrays and JSON, nothing that could run."""
    geometries = {id(part.geometry): part.geometry for part in assembly.parts}
    numbers = {key: number for number, key in enumerate(geometries)}
    shapes = list(geometries.values())
    story: dict[str, Any] = {
        "name": assembly.name,
        "notes": assembly.notes,
        "geometries": [
            {
                "name": g.name,
                "source": g.source,
                "bodies": g.bodies,
                "closed": g.closed,
                "vertices": len(g.mesh.vertices),
                "faces": len(g.mesh.faces),
                "kinds": [c.kind for c in g.cylinders],
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
    rounds = [
        np.concatenate([c.centre, c.direction, [c.radius, c.length, c.coverage]])
        for g in shapes
        for c in g.cylinders
    ]
    arrays = {
        "vertices": np.concatenate([g.mesh.vertices for g in shapes]),
        "faces": np.concatenate([g.mesh.faces for g in shapes]),
        "solids": np.array(solids),
        "cylinders": np.array(rounds).reshape(-1, 9),
        "placements": np.array([p.placement for p in assembly.parts]),
    }
    text = np.frombuffer(json.dumps(story).encode(), dtype=np.uint8)
    with write_whole(file) as stream:
        np.savez(stream, allow_pickle=False, story=text, **arrays)


def load(file: Path) -> Assembly:
    """Read an assembly back.

    Raises:
        OSError, ValueError, KeyError, zipfile.BadZipFile: missing or damaged.
    """
    with np.load(file, allow_pickle=False) as arrays:
        story = json.loads(arrays["story"].tobytes())
        data = {name: arrays[name] for name in arrays.files if name != "story"}
    geometries = list(_geometries(story["geometries"], data))
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
    return Assembly(story["name"], Path(), parts, tuple(story["notes"]))


def _geometries(entries: list[dict[str, Any]], data: dict[str, Any]) -> Iterator[Geometry]:
    vertex = face = cylinder = 0
    for entry, solid in zip(entries, data["solids"], strict=True):
        mesh = Mesh(
            data["vertices"][vertex : vertex + entry["vertices"]],
            data["faces"][face : face + entry["faces"]],
        )
        rounds = data["cylinders"][cylinder : cylinder + len(entry["kinds"])]
        cylinders = tuple(
            Cylinder(kind, row[0:3], row[3:6], float(row[6]), float(row[7]), float(row[8]))
            for kind, row in zip(entry["kinds"], rounds, strict=True)
        )
        vertex += entry["vertices"]
        face += entry["faces"]
        cylinder += len(entry["kinds"])
        properties = SolidProperties(float(solid[0]), solid[1:4], solid[4:].reshape(3, 3))
        yield Geometry(
            entry["name"],
            mesh,
            properties,
            entry["source"],
            cylinders,
            entry["bodies"],
            entry["closed"],
        )
