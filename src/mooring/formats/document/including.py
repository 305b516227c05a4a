"""The robots of other documents, for a document that includes them."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from pathlib import Path
from typing import Any

from mooring.errors import DocumentError, InputError, UnsoundRobotError
from mooring.files import true_path
from mooring.formats.document.entries import IncludeEntry
from mooring.formats.document.session import Session
from mooring.formats.document.source import YamlSource
from mooring.formats.urdf import read_urdf
from mooring.model import Robot
from mooring.model.definition.problems import EntryError
from mooring.model.robot.copying import mirrored, on_links

Read = Callable[[YamlSource, Mapping[str, Any]], Robot]


def included_robot(include: IncludeEntry, folder: Path, session: Session, read: Read) -> Robot:
    """The robot of another document, mirrored if asked; each is read and mirrored once.

    Args:
        include: the entry.
        folder: of the document that includes.
        session: what was read already, and what may be.
        read: reads a document with other values.

    Raises:
        EntryError: it is outside the folder, includes itself, or cannot be read; without problems
            where it failed before, and that was told.
        DocumentError: what is wrong in it.
    """
    path = true_path(folder / include.file)
    try:
        session.refuse_outside(path, include.file)
    except InputError as error:
        raise _refused(str(error)) from None
    if path in session.open:
        ring = " -> ".join(p.name for p in [*session.open[session.open.index(path) :], path])
        raise _refused(f"the documents include each other: {ring}")
    key = (path, tuple(sorted(include.values.items())), include.search)
    if key in session.failed:
        raise EntryError("include", [])
    if key not in session.robots:
        try:
            session.robots[key] = on_links(_read_file(include, folder, read))
        except DocumentError:
            session.failed.add(key)
            raise
        except (InputError, UnsoundRobotError) as error:
            raise _refused(str(error)) from None
    if include.mirror is None:
        return session.robots[key]
    image = (*key, include.mirror)
    if image not in session.robots:
        session.robots[image] = mirrored(session.robots[key], include.mirror)
    return session.robots[image]


def _read_file(include: IncludeEntry, folder: Path, read: Read) -> Robot:
    file = folder / include.file
    if file.suffix.lower() != ".urdf":
        return read(YamlSource(file), include.values)
    if include.values:
        raise InputError(f"{include.file}: a URDF file has no values")
    return read_urdf(file, [folder / other for other in include.search])


def _refused(why: str) -> EntryError:
    return EntryError("include", [(("file",), why)])
