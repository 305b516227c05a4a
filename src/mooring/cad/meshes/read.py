"""Mesh files as assemblies of placed parts."""

from __future__ import annotations

import logging
from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from dataclasses import replace
from pathlib import Path

import numpy as np

from mooring.cad.assembly import Assembly
from mooring.cad.meshes import collada, with_trimesh
from mooring.cad.meshes.conventions import UNITLESS, convention_of
from mooring.cad.meshes.guards import LARGEST_FILE, refuse_impossible
from mooring.cad.meshes.parsed import RawScene
from mooring.cad.meshes.scene import SceneReader
from mooring.errors import InputError, needing
from mooring.files import true_path
from mooring.units import show

MESH_SUFFIXES = (".stl", ".obj", ".ply", ".off", ".glb", ".gltf", ".dae", ".3mf")

# A machine larger than this was hardly modelled in metres; most CAD programs write millimetres.
IMPLAUSIBLE_SIZE = 20.0


def read_meshes(file: Path, unit: str | None = None) -> Assembly:
    """Read a mesh file as an assembly, in metres, z up.

    Args:
        file: STL, OBJ, PLY, OFF, glTF (.glb, .gltf), COLLADA (.dae) or 3MF.
        unit: the length that the file's number 1 stands for, e.g. `"mm"`. Without it that is what
            the file says, or for STL, OBJ, PLY and OFF metres; the notes say so.

    Raises:
        InputError: the file is not what its suffix says, is damaged, or holds no triangles.
    """
    suffix = file.suffix.lower()
    refuse_impossible(file, suffix)
    companions = _Companions(file)
    scene = _parse(file, suffix, companions)
    convention = convention_of(file, suffix, unit, scene.unit)
    reader = SceneReader(scene, convention, file.stem)
    notes = [*companions.notes(), *scene.notes, *reader.notes]
    if not reader.parts:
        why = f" ({'; '.join(notes[:3])})" if notes else ""
        raise InputError(f"{file}: holds no triangles that can be used{why}")
    assembly = Assembly(file.stem, file, tuple(reader.parts), tuple(notes), frames=reader.frames)
    if unit is None:
        low, high = assembly.bounds
        found = _about_unit(suffix, float((high - low).max()))
        assembly = replace(assembly, notes=(*found, *assembly.notes))
    return assembly


def _about_unit(suffix: str, size: float) -> list[str]:
    """What was assumed of the unit, and whether the size makes that unlikely."""
    name = suffix.lstrip(".").upper()
    across = f"at {show(size, 'length')} across this looks like millimetres"
    if suffix in UNITLESS:
        doubt = f"; {across}" if size > IMPLAUSIBLE_SIZE else ""
        return [f"{name} has no unit; metres assumed{doubt}. Give unit='mm' or another to change"]
    if size > IMPLAUSIBLE_SIZE:
        return [f"{across}, whatever the file says; give unit='mm' if it is"]
    return []


def companions(file: Path) -> list[Path]:
    """The files without which a mesh file cannot be read, or not with its colors.

    Raises:
        InputError: it cannot be read.
    """
    found = _Companions(file)
    if file.suffix.lower() in MESH_SUFFIXES:
        _parse(file, file.suffix.lower(), found)
    return list(dict.fromkeys(found.opened))


class _Companions(Mapping[str, bytes]):
    """The files a mesh file refers to; only those in its own folder or below are opened."""

    def __init__(self, file: Path) -> None:
        self.folder = true_path(file.parent)
        self.opened: list[Path] = []
        self.missing: list[str] = []
        self.refused: list[str] = []

    def __getitem__(self, name: str) -> bytes:
        path = true_path(self.folder / str(name).strip())
        if not path.is_relative_to(self.folder):
            self.refused.append(str(name))
            raise KeyError(name)
        if not path.is_file() or path.stat().st_size > LARGEST_FILE:
            self.missing.append(str(name))
            raise KeyError(name)
        self.opened.append(path)
        return path.read_bytes()

    def __iter__(self) -> Iterator[str]:
        return iter(())

    def __len__(self) -> int:
        return 0

    def notes(self) -> Iterator[str]:
        for name in dict.fromkeys(self.missing):
            yield f"the file {name} it refers to is not there"
        for name in dict.fromkeys(self.refused):
            yield f"the file {name} it refers to is outside its folder and was not opened"


def _parse(file: Path, suffix: str, companions: _Companions) -> RawScene:
    try:
        with _quiet():
            if suffix == ".dae":
                return collada.parse(file)
            return with_trimesh.parse(file, suffix, companions)
    except ModuleNotFoundError as error:
        raise InputError(needing(f"{file}: reading meshes", "meshes", error)) from error
    except (KeyboardInterrupt, SystemExit):
        raise
    except BaseException as error:  # parsers raise whatever they stumble over
        missing = f"; {'; '.join(companions.notes())}" if companions.missing else ""
        what = str(error).splitlines()[0][:200] if str(error) else "it contradicts itself"
        raise InputError(
            f"{file}: cannot be read as {suffix.lstrip('.').upper()} ({what}){missing}"
        ) from None


@contextmanager
def _quiet() -> Iterator[None]:
    """Keep a parser's own log and arithmetic warnings from the user, who gets our notes."""
    logger = logging.getLogger("trimesh")
    level = logger.level
    logger.setLevel(logging.CRITICAL)
    try:
        with np.errstate(all="ignore"):
            yield
    finally:
        logger.setLevel(level)
