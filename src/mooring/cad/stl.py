"""Reading STL, the format without units, names or colors."""

from __future__ import annotations

from pathlib import Path

import numpy as np

from mooring.cad.assembly import Assembly
from mooring.cad.mesh import weld
from mooring.cad.part import Geometry, Part
from mooring.errors import InputError
from mooring.units import show, to_si

# A part larger than this was hardly modelled in metres; most CAD programs write millimetres.
IMPLAUSIBLE_SIZE = 20.0


def read_stl(file: Path, unit: str | None = None) -> Assembly:
    """Read one STL file, text or binary, as an assembly of one part.

    Args:
        file: what to read.
        unit: the length that the file's number 1 stands for, e.g. `"mm"`. Without it metres are
            assumed, and the assembly's notes say so.

    Raises:
        InputError: the file is no STL file, holds no triangles, or has coordinates that are no
            numbers.
    """
    import trimesh

    scale = 1.0 if unit is None else to_si(f"1 {unit}", "length")
    _refuse_impossible_count(file)
    try:
        loaded = trimesh.load_mesh(str(file), file_type="stl", process=False)
        corners = np.asarray(loaded.triangles, dtype=float).reshape(-1, 3)
    except Exception as error:  # the parser raises whatever it stumbles over
        raise InputError(f"{file}: cannot be read as STL ({error})") from error
    if not len(corners):
        raise InputError(f"{file}: holds no triangles; it is empty or not an STL file")
    if not np.isfinite(corners).all():
        bad = int((~np.isfinite(corners).all(axis=1)).sum())
        raise InputError(f"{file}: {bad} corners have coordinates that are not finite numbers")
    faces = np.arange(len(corners), dtype=np.int64).reshape(-1, 3)
    mesh = weld(corners * scale, faces, tolerance=1e-7 * scale if unit else 1e-7)
    if not len(mesh.faces):
        raise InputError(f"{file}: all {len(faces)} triangles have zero area")
    notes = []
    if len(mesh.faces) < len(faces):
        notes.append(f"{len(faces) - len(mesh.faces)} triangles of zero area were left out")
    if unit is None:
        size = float((mesh.bounds[1] - mesh.bounds[0]).max())
        doubt = ""
        if size > IMPLAUSIBLE_SIZE:
            doubt = f"; at {show(size, 'length')} across this looks like millimetres"
        notes.append(f"STL has no unit; metres assumed{doubt}. Give unit='mm' or another to change")
    name = file.stem
    geometry = Geometry(name, mesh, mesh.solid, "mesh", (), mesh.bodies, mesh.closed)
    part = Part(name, name, np.eye(4), geometry)
    return Assembly(name, file, (part,), tuple(notes))


def _refuse_impossible_count(file: Path) -> None:
    """A binary file's header may claim any number of triangles; its size tells the truth."""
    with file.open("rb") as stream:
        start = stream.read(84)
        size = stream.seek(0, 2)
    if not start:
        raise InputError(f"{file}: the file is empty")
    text = start.lstrip().startswith(b"solid")
    if text or len(start) < 84:
        return
    claimed = int.from_bytes(start[80:84], "little")
    held = (size - 84) // 50
    if claimed > held:
        raise InputError(
            f"{file}: the STL header promises {claimed} triangles but the file holds {held}; "
            "it is cut off or not an STL file"
        )
