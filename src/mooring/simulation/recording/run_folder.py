"""The folder of a run: whole or not at all, and one run's only.

What a run writes comes into a folder beside, which takes the place of the old one when all of it is
there. A manifest, run.json, says which files are the run's; what is not is somebody's, and stays.
"""

from __future__ import annotations

import glob
import json
import os
import secrets
import shutil
import time
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from dataclasses import dataclass
from hashlib import sha256
from pathlib import Path

from mooring.errors import InputError
from mooring.files import true_path, write_text
from mooring.simulation.recording.journal import holds_rows

MODEL_FILE = "model.json"
"""What a folder with a run calls the robot that was run."""
DESCRIBED = "recording.json"
JOURNAL = "run.journal"
_MANIFEST = "run.json"
_UNFINISHED, _BEFORE = ".unfinished-", ".before-"


@dataclass(frozen=True)
class Work:
    """A run's folder while it is written.

    Attributes:
        path: where it is written.
        run: the name of the run, which its files bear.
    """

    path: Path
    run: str


def refuse_foreign(folder: Path, force: bool = False) -> None:
    """Refuse to write a run over something else.

    Raises:
        InputError: it is a file, or a folder that holds something, and no run.
    """
    if folder.exists() and not folder.is_dir():
        raise InputError(f"{folder}: is a file, and a folder is needed")
    if force or not folder.is_dir() or _files_of(folder) is not None:
        return
    there = sorted(path.name for path in folder.iterdir())
    if there:
        more = f" and {len(there) - 1} more" if len(there) > 1 else ""
        raise InputError(
            f"{folder}: holds {there[0]}{more}, and no run; name another folder, or say --force "
            "(force=True) to write into it all the same"
        )


def unfinished(folder: Path) -> list[Path]:
    """Folders of runs that were to come here, and have not."""
    target = _true(folder)
    return sorted(
        path
        for home in (target.parent, target)
        if home.is_dir()
        for path in home.iterdir()
        if path.name.startswith(target.name + _UNFINISHED)
        and ((path / JOURNAL).exists() or (path / _MANIFEST).exists())
    )


@contextmanager
def whole_folder(folder: Path, *, force: bool = False) -> Iterator[Work]:
    """Write a run's folder that takes its place when all of it is written.

    An earlier run there is replaced; files that no run wrote stay. After a failure or an
    interruption the folder is as it was, and what has a journal is left beside it.

    Args:
        folder: where the run's files will be.
        force: write into a folder of something else as well, file by file.

    Raises:
        InputError: it cannot be written, or holds something else.
    """
    target = _true(folder)
    try:
        mended(target)
        refuse_foreign(target, force)
        run = f"{time.strftime('%Y%m%d-%H%M%S')}-{secrets.token_hex(3)}"
        target.parent.mkdir(parents=True, exist_ok=True)
        home = target.parent if os.access(target.parent, os.W_OK) else target
        work = home / f"{target.name}{_UNFINISHED}{run}"
        work.mkdir()
    except OSError as error:
        raise _unwritable(folder, error) from None
    try:
        yield Work(work, run)
        _write_manifest(work, run)
        _put(work, target, run)
    except BaseException as error:
        worth = holds_rows(work / JOURNAL) or (work / _MANIFEST).exists()
        left = work if worth else None
        if left is None:
            shutil.rmtree(work, ignore_errors=True)
        if isinstance(error, OSError):
            raise _unwritable(folder, error, left) from None
        raise


def mended(folder: Path) -> None:
    """End what a writer that was killed while folders changed places has begun."""
    target = _true(folder)
    if not target.parent.is_dir():
        return
    for before in target.parent.glob(f"{glob.escape(target.name)}{_BEFORE}*"):
        run = before.name.removeprefix(target.name + _BEFORE)
        new = target.with_name(f"{target.name}{_UNFINISHED}{run}")
        if not target.exists():
            (new if (new / _MANIFEST).exists() else before).rename(target)
        if before.exists():
            _carry_over(before, target)


def _put(work: Path, target: Path, run: str) -> None:
    """Let what was written take its place."""
    if target.exists() and not any(target.iterdir()) and not _stays(target):
        target.rmdir()
    if not target.exists():
        work.rename(target)
        return
    if work.parent == target.parent and _files_of(target) is not None and not _stays(target):
        before = target.with_name(f"{target.name}{_BEFORE}{run}")
        try:
            target.rename(before)
        except OSError:
            # Where it cannot be moved, as a place where a disk is mounted.
            _put_each(work, target)
            return
        work.rename(target)
        _carry_over(before, target)
        return
    _put_each(work, target)


def _stays(target: Path) -> bool:
    """Whether somebody stands in the folder, who would find himself nowhere."""
    here = Path.cwd()
    return target == here or target in here.parents


def _carry_over(before: Path, target: Path) -> None:
    """Bring what no run wrote from the old folder into the new one, and take the old one away."""
    _remove_own(before)
    _bring(before, target)
    shutil.rmtree(before, ignore_errors=True)


def _remove_own(folder: Path) -> None:
    """Take away what a run wrote, with the folders it made for that."""
    for name in (*(_files_of(folder) or ()), _MANIFEST):
        (folder / name).unlink(missing_ok=True)
        inner = (folder / name).parent
        if inner != folder:
            # Not where somebody has put something into it.
            with suppress(OSError):
                inner.rmdir()


def _bring(source: Path, target: Path) -> None:
    """Move everything in a folder into another; what has a name that is taken gets one beside."""
    for path in sorted(source.iterdir()):
        new = target / path.name
        if not os.path.lexists(new):
            path.rename(new)
        elif path.is_dir() and new.is_dir() and not path.is_symlink():
            _bring(path, new)
        else:
            path.rename(new.with_name(f"{new.name}.before"))


def _put_each(work: Path, target: Path) -> None:
    """Bring the files one by one; there is no run in the folder until all are there."""
    (target / DESCRIBED).unlink(missing_ok=True)
    _remove_own(target)
    files = _files_of(work) or []
    for name in (*files, _MANIFEST):
        (target / name).parent.mkdir(parents=True, exist_ok=True)
        (work / name).replace(target / name)
    shutil.rmtree(work, ignore_errors=True)


def _write_manifest(work: Path, run: str) -> None:
    journals = set(work.glob(f"{JOURNAL}*"))
    written = {path for path in work.rglob("*") if path.is_file()} - journals
    files = sorted(path.relative_to(work).as_posix() for path in written)
    # What says that there is a recording comes last.
    files.sort(key=lambda name: name == DESCRIBED)
    said = {"mooring": 1, "run": run, "model": _print_of(work / MODEL_FILE), "files": files}
    write_text(work / _MANIFEST, json.dumps(said, indent=1, ensure_ascii=False) + "\n")
    # Not before all else is there.
    for journal in journals:
        journal.unlink()


def is_of_another_run(model: Path) -> bool:
    """Whether the model in a run's folder is not what was run."""
    try:
        said = json.loads((model.parent / _MANIFEST).read_text("utf-8"))["model"]
    except (OSError, ValueError, KeyError, TypeError, RecursionError):
        return False
    return bool(said != _print_of(model))


def _print_of(file: Path) -> str | None:
    return sha256(file.read_bytes()).hexdigest() if file.is_file() else None


def _files_of(folder: Path) -> list[str] | None:
    """The files that a run has written into a folder; None if it holds no run."""
    try:
        said = json.loads((folder / _MANIFEST).read_text("utf-8"))
        names = [str(name) for name in said["files"]]
    except (OSError, ValueError, KeyError, TypeError, RecursionError):
        return None
    # A manifest may have been written by anybody: it counts in its own folder only.
    return [n for n in names if n and ".." not in Path(n).parts and not Path(n).is_absolute()]


def _true(folder: Path) -> Path:
    return true_path(folder.absolute())


def _unwritable(folder: Path, error: OSError, left: Path | None = None) -> InputError:
    where = "" if left is None else f"; what there is of it is in {left}"
    return InputError(f"{folder}: cannot be written: {error.strerror or error}{where}")
