"""The errors a user can meet, and the places they point to."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from pathlib import Path

_LONGEST = 80
"""Characters of what a user gave that a message repeats."""


@dataclass(frozen=True)
class Place:
    """Where something was written: a file, and a line counted from 1 where there is one."""

    file: Path
    line: int | None = None

    def __str__(self) -> str:
        return str(self.file) if self.line is None else f"{self.file}:{self.line}"


@dataclass(frozen=True)
class Problem:
    """One thing that is wrong with what a user gave.

    Attributes:
        message: what is wrong, in words, and what to do.
        path: keys on the way to it, inside what is spoken of.
        code: what sort of problem: `"value"`, `"missing"`, `"unknown-key"`, `"unknown-name"`,
            `"taken"`, `"unit"` or `"syntax"`.
        about: the kind and the name of an item that the problem names, and that is not there.
        place: where it was written; None where that is not known.
    """

    message: str
    path: tuple[str | int, ...] = ()
    code: str = "value"
    about: tuple[str, str] | None = None
    place: Place | None = None

    def inside(self, *keys: str | int) -> Problem:
        """The same of something that holds it under these keys."""
        return replace(self, path=(*keys, *self.path))

    def __str__(self) -> str:
        return self.message if self.place is None else f"{self.place}: {self.message}"


class MooringError(Exception):
    """Anything Mooring refuses to do; the message says what is wrong and what to do."""


class InputError(MooringError):
    """A file or value that cannot be read as what it should be."""


class UnitError(InputError, ValueError):
    """A quantity with the wrong dimension, an unknown unit, or none where one is needed."""


class ModelError(MooringError, ValueError):
    """A call that the robot as it stands cannot take: an unknown name, a name already taken."""


class UnknownNameError(ModelError, KeyError):
    """A name that no item has."""

    def __str__(self) -> str:
        return str(self.args[0])


class UnsoundRobotError(MooringError):
    """The kinematic tree cannot be built; `mooring.check` says why in full."""


class RunError(MooringError):
    """A simulation that could not be carried on."""


class DocumentError(InputError):
    """Everything wrong with one document, each problem with its place."""

    def __init__(self, problems: Sequence[Problem]) -> None:
        self.problems = tuple(problems)
        super().__init__("\n".join(map(str, self.problems)))


def told(value: object) -> str:
    """What a user gave, as a message can say it: never longer than a line.

    Example:
        >>> told(3.5), told(object())
        ('3.5', 'something of type object')
    """
    kind = type(value)
    if kind.__repr__ is object.__repr__:
        return f"something of type {kind.__name__}"
    try:
        text = repr(value)
    except Exception:
        # As of whole numbers with thousands of digits.
        return f"something of type {kind.__name__} that cannot be shown"
    cut = text.splitlines()[0][:_LONGEST] if text else ""
    return text if cut == text else f"{cut} ..., of type {kind.__name__}"


def needing(what: str, extra: str, error: ImportError) -> str:
    """What to say where a package is missing that comes with an extra."""
    return f"{what} needs more packages: pip install 'mooring-robotics[{extra}]' ({error})"


_MOST_KNOWN = 50
"""More than any item has keys, so that these are all told; of names there may be more."""


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
    more = len(listed) - _MOST_KNOWN
    shown = ", ".join(listed[:_MOST_KNOWN]) + (f", and {more} more" if more > 0 else "")
    return f"; known: {shown}"
