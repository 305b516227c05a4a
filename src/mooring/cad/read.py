"""`read_cad`: the one door for CAD files."""

from __future__ import annotations

from os import PathLike
from pathlib import Path

from mooring.cad import cache
from mooring.cad.assembly import Assembly
from mooring.cad.meshes import MESH_SUFFIXES, read_meshes
from mooring.cad.sampling import Sampling
from mooring.cad.step import read_step
from mooring.errors import InputError
from mooring.files import note_file
from mooring.units import to_si

STEP_SUFFIXES = (".step", ".stp")
READABLE = (*STEP_SUFFIXES, *MESH_SUFFIXES)


def read_cad(
    file: str | PathLike[str],
    *,
    unit: str | None = None,
    tolerance: float | str | None = None,
    angle: float | str | None = None,
) -> Assembly:
    """Read a CAD file as an assembly of placed parts, in metres.

    A STEP file read before is taken from a cache, as long as neither it nor the tolerances changed.

    Args:
        file: STEP (.step, .stp), STL, OBJ, PLY, OFF, glTF (.glb, .gltf), COLLADA (.dae) or 3MF.
        unit: for STL, OBJ, PLY and OFF, the length that the number 1 stands for, e.g. `"mm"`. The
            others carry their own.
        tolerance: for STEP, the largest distance of triangles from the true surface; 0.5 mm if
            not given.
        angle: for STEP, the largest angle between neighbouring triangles; 20 deg if not given.

    Raises:
        InputError: the file is missing, of another format, damaged or empty.

    Example:
        >>> from mooring.demo import LINE_TENDER
        >>> len(read_cad(LINE_TENDER.step).parts)
        109
    """
    path = Path(file)
    note_file(path)
    if not path.is_file():
        what = "is a folder" if path.is_dir() else "there is no such file"
        raise InputError(f"{path}: {what}")
    suffix = path.suffix.lower()
    if suffix in STEP_SUFFIXES:
        if unit is not None:
            raise InputError(f"{path}: STEP files state their own unit; leave out unit={unit!r}")
        usual = Sampling()
        sampling = Sampling(
            usual.length if tolerance is None else to_si(tolerance, "length"),
            usual.angle if angle is None else to_si(angle, "angle"),
        )
        if sampling.length <= 0 or sampling.angle <= 0:
            raise InputError("the tolerance and the angle must be greater than zero")
        return cache.remembered(path, sampling, lambda: read_step(path, sampling))
    if suffix in MESH_SUFFIXES:
        return read_meshes(path, unit)
    known = ", ".join(READABLE)
    raise InputError(f"{path}: cannot read files that end in {suffix!r}; readable are {known}")
