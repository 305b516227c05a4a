"""The errors a user can meet, and the places they point to."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path


@dataclass(frozen=True)
class Place:
    """Where something was written: a file, and a line counted from 1 where there is one."""

    file: Path
    line: int | None = None

    def __str__(self) -> str:
        return str(self.file) if self.line is None else f"{self.file}:{self.line}"


class MooringError(Exception):
    """Anything Mooring refuses to do; the message says what is wrong and what to do."""


class InputError(MooringError):
    """A file or value that cannot be read as what it should be."""


class UnitError(InputError, ValueError):
    """A quantity with the wrong dimension, an unknown unit, or none where one is needed."""


class ModelError(MooringError, ValueError):
    """A call that the robot as it stands cannot take: an unknown name, a name already taken."""


class UnsoundRobotError(MooringError):
    """The kinematic tree cannot be built; `mooring.check` says why in full."""


class RunError(MooringError):
    """A simulation that could not be carried on."""


class DocumentError(InputError):
    """Everything wrong with one document, each line with its place."""

    def __init__(self, problems: Sequence[tuple[Place, str]]) -> None:
        self.problems = tuple(problems)
        super().__init__("\n".join(f"{place}: {message}" for place, message in self.problems))


def did_you_mean(word: str, known: Sequence[str]) -> str:
    """A helpful ending for a message about an unknown word.

    >>> did_you_mean("mastt", ["mast", "boom"])
    "; did you mean 'mast'?"
    >>> did_you_mean("x", ["mast", "boom"])
    '; known: boom, mast'
    """
    from difflib import get_close_matches

    close = get_close_matches(word, known, n=1, cutoff=0.7)
    if close:
        return f"; did you mean {close[0]!r}?"
    if not known:
        return "; there are none"
    listed = sorted(known)
    shown = ", ".join(listed[:12]) + (f", and {len(listed) - 12} more" if len(listed) > 12 else "")
    return f"; known: {shown}"
