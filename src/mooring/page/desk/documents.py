"""The document that is shown and those it includes, as far as they can be changed."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping
from pathlib import Path
from typing import Any

from mooring.checks import Report, check
from mooring.errors import InputError
from mooring.formats.editing import EDITABLE
from mooring.model import Robot
from mooring.page.desk.editing import Edits, ProposedEdit

ItemPath = tuple[str, ...]


class Documents:
    """What changes each of them.

    Attributes:
        own: of the document that is shown; None where that cannot be changed.
    """

    def __init__(self, file: Path | None, allow_outside: bool) -> None:
        self.own = None if file is None else Edits(file, allow_outside)
        self._allow_outside = allow_outside
        self._others: dict[Path, Edits] = {}

    def look(self, robot: Robot) -> None:
        """Read all of them as they are now, which takes a moment.

        Args:
            robot: that was made of them.
        """
        if self.own is None:
            return
        files = {place.file for item, place in robot.places.items() if len(item) == 2}
        for file in files - {self.own.file}:
            if file.suffix.lower() in EDITABLE and file.is_file() and file not in self._others:
                self._others[file] = Edits(file, self._allow_outside)
        for edits in (self.own, *self._others.values()):
            edits.look()

    def home_of(self, robot: Robot, path: ItemPath) -> tuple[Edits, ItemPath] | None:
        """What changes the file in which an item is written, and the path it has there.

        None where it is written in no file that can be changed: built by a rule, as an example.
        """
        if self.own is None or len(path) < 2:
            return None
        if (own := self.own.home_of(path)) is not None:
            return self.own, own
        place = robot.place(path[:2])
        other = None if place is None else self._others.get(place.file)
        if place is None or other is None:
            return None
        name = other.line_of(path[0], place.line)
        return None if name is None else (other, (path[0], name, *path[2:]))

    def of(self, proposal: ProposedEdit) -> Edits:
        """What made a change, to take it back or make it again.

        Raises:
            InputError: nothing can be changed.
        """
        found = self._others.get(proposal.file, self.own)
        if found is None:
            raise InputError(f"{proposal.file}: cannot be changed here")
        return found

    @property
    def values(self) -> Mapping[str, Any]:
        """The named values of the document that is shown."""
        written = None if self.own is None else self.own.written(("values",))
        return written if isinstance(written, dict) else {}

    def copies_of(self, robot: Robot, edits: Edits) -> int:
        """How often the document that is shown includes another."""
        if edits is self.own:
            return 1
        items = [
            (item[0], place.line)
            for item, place in robot.places.items()
            if place.file == edits.file and len(item) == 2
        ]
        return max(Counter(items).values(), default=1)

    def refuse_wrong(self, edits: Edits, proposal: ProposedEdit, known: Report | None) -> None:
        """Refuse a change after which the checks find what they do not find now; takes a moment.

        Args:
            edits: of the document.
            proposal: the change.
            known: what is found in the document that is shown, where that is known already.

        Raises:
            InputError: with what would be wrong.
        """
        before = known if edits is self.own else None
        if before is None:
            before = check(edits.robot_of(proposal.before))
        there = {(finding.code, finding.item) for finding in before.findings}
        found = check(edits.robot_of(proposal.after))
        new = [f for f in found.open if f.severity == "error" and (f.code, f.item) not in there]
        if new:
            words = f"{new[0].message}; {new[0].remedy}"
            raise InputError(f"not written, as it would be wrong: {words}")
