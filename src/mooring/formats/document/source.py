"""A YAML file with the line of everything in it."""

from __future__ import annotations

import json
import re
from contextlib import suppress
from functools import cached_property, lru_cache
from pathlib import Path
from typing import Any

from mooring.errors import DocumentError, InputError, Place, Problem, told
from mooring.files import note_file, write_text

LARGEST_FILE = 4 * 2**20
"""[bytes] A description is written by people; anything larger is something else."""
_MOST_VALUES = 100_000
_MOST_KEYS = 20_000
"""Of YAML, which is written by people; what programs write is JSON, and read in no time."""
_MOST_LEVELS = 60
_MOST_DIGITS = 300

_HALF = re.compile("[\ud800-\udfff]")
_BRACKETS = re.compile(r"[\[\]{}]")

KeyPath = tuple[str | int, ...]


@lru_cache(maxsize=4)
def _loaded(text: str) -> Any:
    """YAML with the places of everything; shared by all who read the same text, and only read."""
    from ruamel.yaml import YAML

    return YAML(typ="rt", pure=True).load(text)


class YamlSource:
    """The values of a YAML file, as plain Python, and where each was written.

    Args:
        file: which.
        text: what is taken to stand in it, instead of what does.

    Raises:
        InputError: missing, too large, or not text.
        DocumentError: not YAML; a key twice.
    """

    def __init__(self, file: Path, text: str | None = None) -> None:
        self.file = file
        self._text = text_of(file) if text is None else text
        self._budget = _MOST_VALUES
        self.values: Any = self._json()
        self.is_json = self.values is not None
        """Whether a program wrote it: its lines are looked for only where something is wrong."""
        if not self.is_json:
            self.values = self._plain(self._tree)

    @cached_property
    def _tree(self) -> Any:
        return self._parse(self._text)

    def _json(self) -> Any:
        """What JSON holds, read many times faster than as YAML; None for anything else."""
        if self.file.suffix.lower() != ".json":
            return None
        try:
            return self._plain(json.loads(self._text, object_pairs_hook=_without_doubles))
        except (ValueError, RecursionError):
            # As YAML it may still be something, or is told with its line.
            return None

    def _refuse_what_takes_ages(self, text: str) -> None:
        """Refuse what no person has written, before it is read."""
        keys = text.count(": ") + text.count(":\n")
        if keys > _MOST_KEYS:
            message = f"some {keys:,} keys; more than {_MOST_KEYS:,} are read from JSON only"
            raise self._unreadable(None, message)
        depth = 0
        for match in _BRACKETS.finditer(text):
            depth += 1 if match[0] in "[{" else -1
            if depth > _MOST_LEVELS:
                line = text.count("\n", 0, match.start()) + 1
                raise self._unreadable(line, f"brackets in more than {_MOST_LEVELS} levels")

    def _parse(self, text: str) -> Any:
        from ruamel.yaml.constructor import DuplicateKeyError
        from ruamel.yaml.error import MarkedYAMLError, YAMLError

        self._refuse_what_takes_ages(text)
        try:
            return _loaded(text)
        except DuplicateKeyError as error:
            line = None if error.problem_mark is None else error.problem_mark.line + 1
            name = str(error.problem).split('"')[1] if '"' in str(error.problem) else ""
            message = f"the key {name!r} is there twice; names must be unique"
            raise self._unreadable(line, message) from None
        except MarkedYAMLError as error:
            mark = error.problem_mark or error.context_mark
            line = None if mark is None else mark.line + 1
            message = f"not readable as YAML: {error.problem or error.context}"
            raise self._unreadable(line, message) from None
        except TypeError:
            message = "not readable as YAML: a list or mapping stands where a key should be"
            raise self._unreadable(None, message) from None
        except (YAMLError, ValueError, RecursionError, AttributeError) as error:
            # The last is what the parser makes of a mapping that is merged into itself.
            inside = isinstance(error, AttributeError)
            first = (
                "something refers to itself"
                if inside
                else (str(error).splitlines() or ["too deeply nested"])[0]
            )
            message = f"not readable as YAML: {first}"
            raise self._unreadable(None, message) from None

    def _unreadable(self, line: int | None, message: str) -> DocumentError:
        return DocumentError([Problem(message, code="syntax", place=Place(self.file, line))])

    def _plain(self, value: Any, depth: int = 0) -> Any:
        # Aliases can make a small file stand for an enormous one; count what is unfolded.
        self._budget -= 1
        if self._budget < 0 or depth > _MOST_LEVELS:
            message = (
                f"more than {_MOST_VALUES:,} values or {_MOST_LEVELS} levels; this is no robot "
                "description"
            )
            raise self._unreadable(None, message)
        if isinstance(value, dict):
            return {self._text_of(str(k)): self._plain(v, depth + 1) for k, v in value.items()}
        if isinstance(value, list):
            return [self._plain(v, depth + 1) for v in value]
        if isinstance(value, bool) or value is None:
            return value
        if isinstance(value, int) and abs(value) >= 10**_MOST_DIGITS:
            raise self._unreadable(None, f"a number of more than {_MOST_DIGITS} digits")
        for kind in (int, float):
            if isinstance(value, kind):
                return kind(value)
        return self._text_of(str(value))

    def _text_of(self, text: str) -> str:
        if not text.isascii() and _HALF.search(text):
            # An escape can make one; nothing that holds it could be written anywhere.
            raise self._unreadable(None, f"half a letter (a surrogate) in {told(text)}")
        return text

    def place(self, path: KeyPath) -> Place:
        """Where a value, or the nearest thing it is part of, was written."""
        node, line = self._tree, 1
        for key in path:
            try:
                if isinstance(node, dict):
                    line = node.lc.key(key)[0] + 1  # type: ignore[attr-defined]
                else:
                    line = node.lc.item(key)[0] + 1
                node = node[key]
            except (KeyError, IndexError, TypeError, AttributeError):
                break
        return Place(self.file, line)


def _without_doubles(pairs: list[tuple[str, Any]]) -> dict[str, Any]:
    found = dict(pairs)
    if len(found) < len(pairs):
        raise ValueError("a key is there twice")
    return found


def text_of(file: Path) -> str:
    """The text of a document.

    Raises:
        InputError: missing, too large, empty, or not text.
    """
    note_file(file)
    if not file.is_file():
        what = "is a folder" if file.is_dir() else "there is no such file"
        raise InputError(f"{file}: {what}")
    if file.stat().st_size > LARGEST_FILE:
        raise InputError(f"{file}: larger than {LARGEST_FILE >> 20} MiB; no robot description is")
    try:
        text = file.read_text("utf-8")
    except UnicodeDecodeError as error:
        raise InputError(f"{file}: not UTF-8 text (byte {error.start})") from None
    except OSError as error:
        raise InputError(f"{file}: cannot be read ({error.strerror})") from None
    if not text.strip():
        raise InputError(f"{file}: the file is empty")
    return text


def rewrite(file: Path, text: str) -> None:
    """Write another text into a document, with the line ends that it has.

    Raises:
        InputError: it cannot be written.
    """
    with suppress(OSError):
        if b"\r\n" in file.read_bytes():
            text = text.replace("\n", "\r\n")
    write_text(file, text)
