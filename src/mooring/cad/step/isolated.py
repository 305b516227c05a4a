"""STEP files are read in a process of their own.

Open CASCADE is a large C++ library, and a damaged file can make it end the process it runs in. That
must not be the user's.
"""

from __future__ import annotations

import os
import subprocess
import sys
import tempfile
from dataclasses import replace
from pathlib import Path

from mooring import announcing
from mooring.cad import stored
from mooring.cad.assembly import Assembly
from mooring.cad.sampling import Sampling
from mooring.errors import InputError
from mooring.files import true_path

REFUSED = 3
"""Exit code of the reading process when it refuses the file in words."""

PROGRESS = "mooring-progress"
"""Begins the lines in which the reading process says how far it is."""

_HEADER, _TRAILER = b"ISO-10303-21", b"END-ISO-10303-21"


def read_step(file: Path, sampling: Sampling) -> Assembly:
    """Read a STEP file (AP203, AP214, AP242); lengths come out in metres whatever the file's unit.

    Raises:
        InputError: not a STEP file, cut off, damaged, without any solid, or the reader is not
            installed.
    """
    _refuse_what_is_no_step(file)
    with tempfile.TemporaryDirectory(prefix="mooring-") as folder:
        result = Path(folder) / "assembly.npz"
        arguments = [str(true_path(file)), str(result), repr(sampling.length), repr(sampling.angle)]
        code, words = _run_worker(arguments, Path(folder) / "words")
        if code == REFUSED:
            raise InputError(words)
        if code != 0 or not result.is_file():
            raise InputError(
                f"{file}: the STEP file is damaged; Open CASCADE broke down while reading it "
                f"(exit code {code})"
            )
        return replace(stored.load(result), file=file)


def _run_worker(arguments: list[str], words: Path) -> tuple[int, str]:
    """Run the reading process, passing on how far it is; its exit code, and what it complains."""
    with (
        words.open("wb") as complaints,
        subprocess.Popen(
            [sys.executable, "-m", "mooring.cad.step.worker", *arguments],
            stdout=subprocess.PIPE,
            stderr=complaints,
            text=True,
            errors="replace",
            env=_environment(),
        ) as worker,
    ):
        assert worker.stdout is not None
        try:
            for line in worker.stdout:
                # Open CASCADE writes what it likes there as well.
                mark, *numbers = line.split()[:3] or [""]
                if mark == PROGRESS and len(numbers) == 2:
                    announcing.progress(int(numbers[0]), int(numbers[1]))
        except BaseException:
            worker.kill()
            raise
    return worker.returncode, words.read_text(errors="replace").strip()


def _refuse_what_is_no_step(file: Path) -> None:
    with file.open("rb") as stream:
        start = stream.read(4096)
        size = stream.seek(0, 2)
        stream.seek(max(0, size - 4096))
        end = stream.read()
    if not start.strip():
        raise InputError(f"{file}: the file is empty")
    if _HEADER not in start:
        raise InputError(f"{file}: not a STEP file; it does not begin with {_HEADER.decode()}")
    if _TRAILER not in end:
        raise InputError(
            f"{file}: the STEP file is cut off; it does not end with {_TRAILER.decode()}. "
            "Export or copy it again."
        )


def _environment() -> dict[str, str]:
    """The child's environment: it must find the same Mooring."""
    source = str(Path(__file__).parents[3])
    path = os.pathsep.join([source, *filter(None, [os.environ.get("PYTHONPATH")])])
    return os.environ | {"PYTHONPATH": path}
