"""The lines of a document that a change meant, put among all others as they were written.

A document that is parsed and written again keeps its comments and its order, and loses how it was
spaced: `[1,1,1]`, columns, lists over several lines, the depth of its indentation. So it is written
twice, without the change and with it, and what differs between the two is brought into the text
that was there: a merge of three texts, of which the first two say the same.
"""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from difflib import SequenceMatcher
from itertools import chain
from typing import Literal

_BEGIN = re.compile(r"( *)((?:- +)*)[^\s#]")
_DASH = re.compile(r"- +")
# What stands before a word is space, and so are comments in it.
_SPACE = r"(?:\s++(?:#[^\n]*+)?|^#[^\n]*+)*+"
_WORD = re.compile(rf"({_SPACE})([\w.+-]+|\S)")
_BEHIND = re.compile(rf"{_SPACE}\Z")
_PIECE = re.compile(r"""("(?:[^"\\]|\\.)*"|'(?:[^']|'')*')|(?:^|(?<=\s))#.*|\s+|(.)""")


Keep = Literal["words", "span", "lines"]


@dataclass(frozen=True)
class _Cell:
    """Lines of the text that was there, and the same lines as they are written again.

    Attributes:
        own: the first and one past the last, in the text that was there.
        plain: the same in what is written again.
    """

    own: tuple[int, int]
    plain: tuple[int, int]


def merged(before: str, plain: str, changed: str, keep: Keep = "words") -> str:
    """A text with a change brought into it.

    Args:
        before: what was there.
        plain: the same, written again.
        changed: written again with the change in it.
        keep: of lines that change the spaces before each word (`"words"`), those before and behind
            what changes in them (`"span"`), or none (`"lines"`). Where spaces mean something, what
            comes of the first, and of comments of the second, may be something else.

    Example:
        >>> merged("a: [1,2]\\nb: 1\\n", "a: [1, 2]\\nb: 1\\n", "a: [1, 5]\\nb: 3\\n")
        'a: [1,5]\\nb: 3\\n'
    """
    if before == plain:
        return changed
    before += "" if before.endswith("\n") else "\n"
    own, base, new = (text.splitlines(keepends=True) for text in (before, plain, changed))
    added: dict[int, list[str]] = {}
    gone: set[int] = set()
    for kind, first, last, start, stop in _differences(base, new):
        if kind == "equal":
            continue
        gone.update(range(first, last))
        # As many lines as before are those lines, each with its change.
        pairs = range(last - first - 1) if last - first == stop - start else ()
        for k in pairs:
            added[first + k] = [new[start + k]]
        added[first + len(pairs)] = new[start + len(pairs) : stop]
    depths = _Depths()
    out: list[str] = []
    for cell in _cells(own, base):
        first, last = cell.plain
        inside, lines = range(first, last), own[slice(*cell.own)]
        if inside and lines:
            depths.expect(base[first], lines[0])
        touched = not gone.isdisjoint(inside) or any(k in added for k in inside)
        if keep != "lines" and touched and first in gone and lines:
            said = [
                line
                for k in inside
                for line in (*added.pop(k, ()), *(() if k in gone else base[k : k + 1]))
            ]
            out.append(_woven("".join(lines), "".join(base[first:last]), "".join(said), keep))
            depths.note(base[first], lines[0])
            continue
        if inside or first == len(base):
            out += depths.fitting(added.pop(first, ()))
        if not gone.isdisjoint(inside) or any(k in added for k in inside[1:]):
            for k in inside:
                out += depths.fitting(added.get(k, ()) if k > first else ())
                out += depths.fitting(() if k in gone else base[k : k + 1])
            continue
        out += lines
        if inside and lines:
            depths.note(base[first], lines[0])
    return "".join([*out, *depths.fitting(added.get(len(base), ()))])


def _woven(own: str, plain: str, changed: str, keep: Keep) -> str:
    """Lines with a change in them, spaced as they were.

    Where what was there is not what is written again, but for its spaces, it is written again.
    """
    ends = [next(_BEHIND.finditer(text)).start() for text in (own, plain, changed)]
    here, there, new = (
        _WORD.findall(text[:end]) for text, end in zip((own, plain, changed), ends, strict=True)
    )
    old, words = [word for _, word in there], [word for _, word in new]
    if [word for _, word in here] != old:
        return changed
    if keep == "words" and len(old) == len(words):
        spaced = [(space, word) for (space, _), word in zip(here, words, strict=True)]
    else:
        head, tail = _same_ends(old, words)
        middle = new[head : len(new) - tail]
        if middle and head < len(here):
            # It begins where that did what it comes in the place of.
            middle[0] = (here[head][0], middle[0][1])
        spaced = [*here[:head], *middle, *here[len(here) - tail :]]
    return "".join(chain(*spaced)) + own[ends[0] :]


def _cells(own: Sequence[str], base: Sequence[str]) -> Iterator[_Cell]:
    """Both texts from end to end: lines that say the same, and what stands between those."""
    at = at_plain = 0
    blocks = [
        (first, start, stop - start)
        for kind, first, _, start, stop in _differences(_bare(own), _bare(base))
        if kind == "equal"
    ]
    for first, start, count in (*blocks, (len(own), len(base), 0)):
        yield from _cells_between(own, base, (at, first), (at_plain, start))
        for k in range(count):
            yield _Cell((first + k, first + k + 1), (start + k, start + k + 1))
        at, at_plain = first + count, start + count


def _cells_between(
    own: Sequence[str], base: Sequence[str], here: tuple[int, int], there: tuple[int, int]
) -> Iterator[_Cell]:
    """Of lines that stand otherwise: as few together as say the same, but for comments."""
    (at, last), (at_plain, last_plain) = here, there
    while at < last or at_plain < last_plain:
        begin, begin_plain = at, at_plain
        said = _content(own[at]) if at < last else ""
        plain = _content(base[at_plain]) if at_plain < last_plain else ""
        # Comments by themselves may stand elsewhere when they are written again.
        if at < last and not said:
            at += 1
        elif at_plain < last_plain and not plain:
            at_plain += 1
        else:
            at, at_plain = min(at + 1, last), min(at_plain + 1, last_plain)
            while said != plain and at < last and plain.startswith(said):
                said, at = said + _content(own[at]), at + 1
            while said != plain and at_plain < last_plain and said.startswith(plain):
                plain, at_plain = plain + _content(base[at_plain]), at_plain + 1
            if said != plain:
                # They say something else: all that is left is one.
                at, at_plain = last, last_plain
        yield _Cell((begin, at), (begin_plain, at_plain))


def _content(line: str) -> str:
    """What a line says, without its spaces and its comment."""
    return "".join(quoted or letter for quoted, letter in _PIECE.findall(line))


def _differences(
    one: Sequence[str], other: Sequence[str]
) -> Iterator[tuple[str, int, int, int, int]]:
    """How to make another list of lines of one; what is the same at both ends costs nothing."""
    head, tail = _same_ends(one, other)
    yield "equal", 0, head, 0, head
    within = SequenceMatcher(
        None, one[head : len(one) - tail], other[head : len(other) - tail], autojunk=False
    )
    for kind, first, last, start, stop in within.get_opcodes():
        yield kind, first + head, last + head, start + head, stop + head
    yield "equal", len(one) - tail, len(one), len(other) - tail, len(other)


def _same_ends(one: Sequence[str], other: Sequence[str]) -> tuple[int, int]:
    """How many are the same from the beginning, and of the rest from the end."""
    short = min(len(one), len(other))
    head = next((k for k in range(short) if one[k] != other[k]), short)
    tail = next((k for k in range(short - head) if one[-1 - k] != other[-1 - k]), short - head)
    return head, tail


def _bare(lines: Sequence[str]) -> list[str]:
    return ["".join(line.split()) for line in lines]


class _Depths:
    """In which columns the text that was there begins its entries, by those of the plain one."""

    def __init__(self) -> None:
        self._known: dict[int, int] = {0: 0}

    def note(self, plain: str, own: str) -> None:
        """Take a line as it is written again, and as it stands in what comes of it."""
        columns = _columns(plain)
        if columns:
            # What was deeper belonged to something else.
            self._known = {d: o for d, o in self._known.items() if d < columns[0]}
            self._known.update(zip(columns, _columns(own), strict=False))

    def expect(self, plain: str, own: str) -> None:
        """Take a line that is to come: what stands before it, or in its place, may be as deep."""
        for column, there in zip(_columns(plain), _columns(own), strict=False):
            self._known.setdefault(column, there)

    def fitting(self, lines: Sequence[str]) -> list[str]:
        """Lines that are written again, in the columns of those that were there beside them."""
        fit = []
        for line in lines:
            begins = line.lstrip(" ")
            columns = _columns(line) or [len(line) - len(begins)]
            beside = max(d for d in self._known if d <= columns[0])
            at = self._known[beside] + columns[0] - beside
            text = " " * at
            for column in columns[1:]:
                at = max(self._known.get(column, at + 2), at + 2)
                text = f"{text}-".ljust(at)
            fit.append(text + line[columns[-1] :])
            self.note(line, fit[-1])
        return fit


def _columns(line: str) -> list[int]:
    """Where a line begins, and where it goes on after each dash of a list; empty for no entry."""
    begin = _BEGIN.match(line)
    if begin is None:
        return []
    return [len(begin[1]), *(begin.start(2) + dash.end() for dash in _DASH.finditer(begin[2]))]
