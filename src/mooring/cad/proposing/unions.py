"""Sets that only ever grow together (disjoint-set forest: Galler and Fisher, 1964)."""

from __future__ import annotations

from collections.abc import Iterable


class Unions:
    """Names in sets; each set is called after one of its names.

    Example:
        `sets = Unions("abc"); sets.join("a", "b"); sets.of("b")` is `"a"`.
    """

    def __init__(self, names: Iterable[str]) -> None:
        self._above = {name: name for name in names}

    def of(self, name: str) -> str:
        """What the set of a name is called."""
        while self._above[name] != name:
            self._above[name] = self._above[self._above[name]]
            name = self._above[name]
        return name

    def join(self, one: str, other: str) -> bool:
        """Make one of two sets, called after the first; whether they were two."""
        a, b = self.of(one), self.of(other)
        self._above[b] = a
        return a != b
