"""Where answers are written: proven before any work is done for them."""

from __future__ import annotations

import importlib.util
import os
import sys
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from mooring.cli.manner import manner
from mooring.errors import InputError

STANDARD = Path("-")
"""Standard input, or standard output."""

_EXTRAS = {
    "OCP": "step", "trimesh": "meshes", "collada": "meshes", "networkx": "meshes",
    "fast_simplification": "meshes", "manifold3d": "meshes", "charset_normalizer": "meshes",
    "PIL": "pictures", "matplotlib": "pictures", "av": "films", "pyarrow": "recordings",
    "nicegui": "page", "websockets": "bridge", "orjson": "bridge", "cbor2": "bridge",
    "paho": "bridge", "gymnasium": "learning",
}  # fmt: skip
"""Packages that not every installation has, and what they come with."""


def to_write(path: Path | None) -> Path | None:
    """A file that will be written, refused where it cannot be; `-` is standard output.

    Raises:
        InputError: it is a folder, read-only, or in a place where nothing can be written.
    """
    if path is None:
        return None
    if path == STANDARD:
        if manner.data_out:
            raise InputError("-: standard output holds one file")
        manner.data_out = True
        return path
    if path.is_dir():
        raise InputError(f"{path}: is a folder; name a file in it")
    if path.exists() and not (path.stat().st_mode & 0o222 and os.access(path, os.W_OK)):
        raise InputError(f"{path}: is read-only, so nothing is written over it")
    _refuse_place(path, path.parent)
    return path


def to_fill(path: Path | None) -> Path | None:
    """A folder that will be written into, refused where it cannot be.

    Raises:
        InputError: it is a file, or in a place where nothing can be written.
    """
    if path is None:
        return None
    if path.exists() and not path.is_dir():
        raise InputError(f"{path}: is a file, and a folder is needed")
    _refuse_place(path, path)
    return path


@contextmanager
def written(path: Path, suffix: str) -> Iterator[Path]:
    """The file to write; for `-` one whose content goes to standard output when it is done.

    Args:
        path: from `to_write`.
        suffix: of what goes to standard output.

    Raises:
        InputError: it does not come alone, so standard output cannot hold it.
    """
    if path != STANDARD:
        yield path
        return
    with tempfile.TemporaryDirectory() as folder:
        file = Path(folder, f"stdout{suffix}")
        yield file
        others = sorted(other.name for other in Path(folder).iterdir() if other != file)
        if others:
            raise InputError(
                f"-: with the {suffix} come other files ({', '.join(others)}); name a file instead"
            )
        sys.stdout.flush()
        sys.stdout.buffer.write(file.read_bytes())
        sys.stdout.buffer.flush()


def _refuse_place(path: Path, folder: Path) -> None:
    """Refuse what can be made nowhere in a folder, which may be made as well."""
    here = folder.absolute()
    while not here.exists() and here != here.parent:
        here = here.parent
    if not here.is_dir():
        raise InputError(f"{path}: {here} is a file, and a folder is needed")
    if not os.access(here, os.W_OK | os.X_OK):
        raise InputError(f"{path}: nothing can be written in {here}")


def refuse_without(*packages: str) -> None:
    """Refuse to begin what will need packages that are not installed.

    Raises:
        InputError: with how to install them.
    """
    for package in packages:
        if importlib.util.find_spec(package) is None:
            raise InputError(missing(package))


def missing(package: str) -> str:
    """What to say of a package that is not installed."""
    extra = _EXTRAS.get(package.split(".")[0], "all")
    return f"this needs the package {package!r}: pip install 'mooring-robotics[{extra}]'"
