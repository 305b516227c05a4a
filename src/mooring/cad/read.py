"""`read_cad`: the one door for CAD files."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import replace
from os import PathLike
from pathlib import Path

from mooring.announcing import logged
from mooring.arguments import proven
from mooring.cad import cache
from mooring.cad.assembly import Assembly, joined
from mooring.cad.meshes import MESH_SUFFIXES, read_meshes
from mooring.cad.sampling import Sampling
from mooring.cad.step import read_step
from mooring.errors import InputError
from mooring.files import note_file
from mooring.units import to_si

STEP_SUFFIXES = (".step", ".stp")
READABLE = (*STEP_SUFFIXES, *MESH_SUFFIXES)
COMPANIONS = (".mtl", ".bin", ".png", ".jpg", ".jpeg", ".webp")
"""What lies beside mesh files and belongs to them."""


@proven
def read_cad(
    file: str | PathLike[str],
    *more: str | PathLike[str],
    unit: str | None = None,
    tolerance: float | str | None = None,
    angle: float | str | None = None,
) -> Assembly:
    """Read CAD files as an assembly of placed parts, in metres.

    A STEP file read before is taken from a cache, as long as neither it nor the tolerances changed.

    Args:
        file: STEP (.step, .stp), STL, OBJ, PLY, OFF, glTF (.glb, .gltf), COLLADA (.dae) or 3MF;
            a folder, of which all such files are read; or a pattern, such as `"parts/*.stl"`.
        more: other files of the same assembly.
        unit: for mesh files, the length that the number 1 stands for, e.g. `"mm"`; if not given,
            what the file says, or metres.
        tolerance: for STEP, the largest distance of triangles from the true surface; 0.5 mm if
            not given.
        angle: for STEP, the largest angle between neighbouring triangles; 20 deg if not given.

    Raises:
        InputError: a file is missing, of another format, damaged or empty.

    Example:
        >>> from mooring.demo import LINE_TENDER
        >>> len(read_cad(LINE_TENDER.step).parts)
        109
    """
    sampling = _sampling(tolerance, angle)
    return joined([_read(Path(one), unit, sampling) for one in (file, *more)])


def _sampling(tolerance: float | str | None, angle: float | str | None) -> Sampling:
    usual = Sampling()
    sampling = Sampling(
        usual.length if tolerance is None else to_si(tolerance, "length"),
        usual.angle if angle is None else to_si(angle, "angle"),
    )
    if sampling.length <= 0 or sampling.angle <= 0:
        raise InputError("the tolerance and the angle must be greater than zero")
    return sampling


def _read(path: Path, unit: str | None, sampling: Sampling) -> Assembly:
    note_file(path)
    if path.is_dir():
        assembly = _read_all(path, sorted(path.iterdir()), unit, sampling)
    elif path.is_file():
        with logged(__name__, "read the CAD file %s", path):
            assembly = _read_file(path, unit, sampling)
    elif set("*?[") & set(path.name):
        assembly = _read_all(path, sorted(path.parent.glob(path.name)), unit, sampling)
    else:
        raise InputError(f"{path}: there is no such file")
    return replace(assembly, sources=((path, unit),))


def _read_file(path: Path, unit: str | None, sampling: Sampling) -> Assembly:
    suffix = path.suffix.lower()
    if suffix in STEP_SUFFIXES:
        if unit is not None:
            raise InputError(f"{path}: STEP files state their own unit; leave out unit={unit!r}")
        return cache.remembered(path, sampling, lambda: read_step(path, sampling))
    if suffix in MESH_SUFFIXES:
        return read_meshes(path, unit)
    known = ", ".join(READABLE)
    raise InputError(f"{path}: cannot read files that end in {suffix!r}; readable are {known}")


def _read_all(path: Path, files: Sequence[Path], unit: str | None, sampling: Sampling) -> Assembly:
    """The files of a folder or pattern as one assembly, with notes of what is left out."""
    chosen = [one for one in files if one.suffix.lower() in READABLE and one.is_file()]
    if not chosen:
        raise InputError(f"{path}: nothing there can be read; readable are {', '.join(READABLE)}")
    notes = []
    others = [
        one.name for one in files if one not in chosen and one.suffix.lower() not in COMPANIONS
    ]
    if others:
        notes.append(f"left out, as no CAD: {', '.join(others)}")
    for stem, count in Counter(one.stem for one in chosen).items():
        if count > 1:
            notes.append(f"{stem} is there in {count} formats, and all of them were read")
    found = []
    for one in chosen:
        steps = one.suffix.lower() in STEP_SUFFIXES
        assembly = _read_file(one, None if steps else unit, sampling)
        found.append(_below(assembly, one.stem))
        notes += [f"{one.name}: {note}" for note in assembly.notes]
    return replace(joined(found), name=path.name, file=path, notes=tuple(dict.fromkeys(notes)))


def _below(assembly: Assembly, folder: str) -> Assembly:
    """The assembly with paths below the name of its file; a single part is called like it."""
    if len(assembly.parts) == 1:
        return replace(assembly, parts=(replace(assembly.parts[0], name=folder, path=folder),))
    parts = tuple(
        part if part.path.split("/")[0] == folder else replace(part, path=f"{folder}/{part.path}")
        for part in assembly.parts
    )
    return replace(assembly, parts=parts)
