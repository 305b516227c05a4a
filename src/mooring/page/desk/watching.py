"""Which files have changed since they were read."""

from __future__ import annotations

from collections.abc import Iterable
from pathlib import Path

Stamp = tuple[int, int] | None


class FileWatch:
    """Looks at files now and then; a file that is written in two goes is waited for.

    A change is told when the file has stood still for one look, so that nothing half written is
    read.
    """

    def __init__(self, files: Iterable[Path] = ()) -> None:
        self.follow(files)

    def follow(self, files: Iterable[Path]) -> None:
        """Take what they are like now as known."""
        self._known = {file: _stamp(file) for file in files}
        self._last = dict(self._known)

    @property
    def files(self) -> list[Path]:
        return list(self._known)

    def changed(self) -> list[Path]:
        """Files that are not as they were known to be, and were so at the last look already."""
        now = {file: _stamp(file) for file in self._known}
        still = [
            file for file in now if now[file] != self._known[file] and now[file] == self._last[file]
        ]
        self._last = now
        for file in still:
            self._known[file] = now[file]
        return still


def _stamp(file: Path) -> Stamp:
    try:
        said = file.stat()
    except OSError:
        return None
    return said.st_mtime_ns, said.st_size
