"""What is recorded, appended to a file while it is: a power cut costs the last second of a run.

A journal is a row of records: a length and a checksum, then what it says. The first is the layout;
then come rows, and times to which a run was taken back. Whatever is behind the first record that is
cut off or damaged was being written when everything ended.
"""

from __future__ import annotations

import io
import json
import os
import struct
import time
import zipfile
import zlib
from collections.abc import Callable, Iterator, Sequence
from contextlib import suppress
from dataclasses import dataclass
from io import RawIOBase
from pathlib import Path

import numpy as np

from mooring.errors import InputError
from mooring.simulation.recording.kept import Kept, Measured
from mooring.simulation.recording.layout import Layout
from mooring.simulation.stepping.arrays import Columns

_MAGIC = b"mooring-journal-1\n"
_HEAD = struct.Struct("<cQI")
_LAYOUT, _ROWS, _BACK = b"L", b"R", b"B"
_EVERY = 0.5
"""How often it is written [s]."""
_BEFORE = ".before"
_BROKEN = (OSError, ValueError, KeyError, TypeError, EOFError, MemoryError, zipfile.BadZipFile)


@dataclass
class Journaled:
    """What a journal says.

    Attributes:
        layout: what the numbers stand for.
        kept: rows, and measurements of each sensor of the layout.
    """

    layout: Layout
    kept: Kept


class Journal:
    """Appends to a file what is recorded.

    Attributes:
        file: what is appended to.
        keep: how much is kept at least [s]; what is older by more than that goes.
    """

    def __init__(self, file: Path, layout: Layout, keep: float) -> None:
        """Begin a journal, over one that is there.

        Raises:
            InputError: it cannot be written.
        """
        self.file, self.layout, self.keep = file, layout, keep
        self._older = file.with_name(file.name + _BEFORE)
        self._older.unlink(missing_ok=True)
        self._stream: RawIOBase | None = None
        self._begin()

    def _begin(self) -> None:
        try:
            self._stream = self.file.open("wb", buffering=0)
        except OSError as error:
            raise self._unwritable(error) from None
        self._first: float | None = None
        self._last = time.monotonic()
        said = json.dumps(self.layout.described(), ensure_ascii=False).encode()
        self._write(_LAYOUT, said, head=_MAGIC)
        self.flush()

    @property
    def due(self) -> bool:
        """Whether it is time to append."""
        return self._stream is not None and time.monotonic() - self._last > _EVERY

    def append(self, columns: Columns | None, measured: Sequence[Measured | None]) -> None:
        """Append rows, and of each sensor what it has measured.

        Raises:
            InputError: nothing more can be written; what has been written stays.
        """
        arrays = {} if columns is None else columns._asdict()
        for number, new in enumerate(measured):
            if new is not None:
                arrays[f"times.{number}"], arrays[f"values.{number}"] = new
        if columns is not None:
            self._first = float(columns.time[0]) if self._first is None else self._first
            if columns.time[-1] - self._first > self.keep:
                self.close()
                self.file.replace(self._older)
                self._begin()
                self._first = float(columns.time[0])
        packed = io.BytesIO()
        np.savez(packed, **arrays)
        self._write(_ROWS, packed.getvalue())

    def back(self, time: float) -> None:
        """Note that the rows from a time on [s] count no more."""
        self._write(_BACK, struct.pack("<d", time))
        self.flush()

    def _write(self, kind: bytes, said: bytes, head: bytes = b"") -> None:
        record = head + _HEAD.pack(kind, len(said), zlib.crc32(said)) + said
        self._try(lambda stream: _write_all(stream, record))

    def flush(self) -> None:
        """See to it that all that was appended outlives a power cut."""
        self._last = time.monotonic()
        self._try(lambda stream: os.fsync(stream.fileno()))

    def _try(self, do: Callable[[RawIOBase], object]) -> None:
        if self._stream is None:
            raise InputError(f"{self.file}: cannot be written any more")
        try:
            do(self._stream)
        except OSError as error:
            with suppress(OSError):
                self.close()
            raise self._unwritable(error) from None

    def _unwritable(self, error: OSError) -> InputError:
        return InputError(f"{self.file}: cannot be written: {error.strerror or error}")

    def close(self) -> None:
        """Write no more."""
        stream, self._stream = self._stream, None
        if stream is not None:
            stream.close()

    def read(self) -> Journaled:
        """What it says so far."""
        return read_journal(self.file)


def _write_all(stream: RawIOBase, data: bytes) -> None:
    # Without a buffer: what has been taken is written, and what is not is known at once.
    while data:
        data = data[stream.write(data) or 0 :]


def is_journal(file: Path) -> bool:
    """Whether a file begins as a journal does."""
    try:
        with file.open("rb") as stream:
            return stream.read(len(_MAGIC)) == _MAGIC
    except OSError:
        return False


def holds_rows(file: Path) -> bool:
    """Whether anything was recorded in a journal, besides what would be."""
    if file.with_name(file.name + _BEFORE).exists():
        return True
    try:
        with file.open("rb") as stream:
            head = stream.read(len(_MAGIC) + _HEAD.size)[len(_MAGIC) :]
            _, length, _ = _HEAD.unpack(head)
            return stream.seek(0, os.SEEK_END) > len(_MAGIC) + _HEAD.size + int(length)
    except (OSError, struct.error):
        return False


def read_journal(file: Path) -> Journaled:
    """What a journal says, up to where it was cut off.

    Raises:
        InputError: it is no journal, or nothing can be made of it.
    """
    older = file.with_name(file.name + _BEFORE)
    found: Journaled | None = None
    try:
        for path in (older, file):
            if path is file or path.exists():
                found = _extended(found, path.read_bytes())
    except (
        OSError,
        ValueError,
        KeyError,
        TypeError,
        EOFError,
        MemoryError,
        zipfile.BadZipFile,
    ) as error:
        raise InputError(f"{file}: not the journal of a run, or a broken one: {error}") from None
    if found is None:
        raise InputError(f"{file}: not the journal of a run, or cut off before it began")
    return found


def _extended(found: Journaled | None, data: bytes) -> Journaled | None:
    for kind, said in _records(data):
        if kind == _LAYOUT:
            layout = Layout.read(json.loads(said))
            found = found or Journaled(layout, Kept(len(layout.sensors)))
        elif found is None:
            raise ValueError("it does not begin with what its numbers are")
        elif kind == _ROWS:
            _take(found, said)
        elif kind == _BACK:
            found.kept.cut(*struct.unpack("<d", said))
    return found


def _records(data: bytes) -> Iterator[tuple[bytes, bytes]]:
    """Kind and contents of each record that is whole."""
    if not data.startswith(_MAGIC):
        return
    at = len(_MAGIC)
    while at + _HEAD.size <= len(data):
        kind, length, check = _HEAD.unpack_from(data, at)
        at += _HEAD.size
        said = data[at : at + length]
        if len(said) < length or zlib.crc32(said) != check:
            return
        at += length
        yield kind, said


def _take(found: Journaled, said: bytes) -> None:
    with np.load(io.BytesIO(said), allow_pickle=False) as arrays:
        columns = None
        if "time" in arrays:
            columns = Columns(**{name: arrays[name] for name in Columns._fields})
        found.kept.add(
            columns,
            [
                (arrays[f"times.{number}"], arrays[f"values.{number}"])
                if f"times.{number}" in arrays
                else None
                for number in range(len(found.kept.measured))
            ],
        )
