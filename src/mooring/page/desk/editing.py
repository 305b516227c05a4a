"""Changes of the document from the page: shown first, then written, and taken back."""

from __future__ import annotations

import difflib
import re
from collections.abc import Callable, Mapping, Sequence
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from mooring.errors import InputError, ModelError
from mooring.formats.document import DocumentEditor, load_document
from mooring.formats.document.scene import held_items, kind_of, load_scene
from mooring.formats.document.source import YamlSource
from mooring.formats.editing import DOCUMENTS, Editor, editor_of, read_back, write_back
from mooring.formats.urdf import UrdfEditor, read_urdf
from mooring.model import Robot
from mooring.model.registry import BY_SECTION

KeyPath = tuple[str | int, ...]


@dataclass(frozen=True)
class ProposedEdit:
    """A change that is not made yet.

    Attributes:
        what: in words.
        before, after: the whole document.
        file: which.
    """

    what: str
    before: str
    after: str
    file: Path

    @property
    def diff(self) -> str:
        """What changes, as a unified diff with one line around it."""
        lines = difflib.unified_diff(
            self.before.splitlines(), self.after.splitlines(), lineterm="", n=1
        )
        return "\n".join(line for line in lines if not line.startswith(("---", "+++")))


class Edits:
    """Changes of one file.

    Attributes:
        file: a document, or a URDF file.
        is_document: whether it is a document, in which everything can be said.
    """

    def __init__(self, file: Path, allow_outside: bool = False) -> None:
        self.file, self.allow_outside = file, allow_outside
        self.is_document = file.suffix.lower() in DOCUMENTS
        self._seen: tuple[str, Any] | None = None

    def look(self) -> None:
        """Read the file as it is now, which takes a moment; `written` tells from it.

        A file that cannot be read is as if nothing stood in it.
        """
        try:
            text = read_back(self.file)
        except InputError:
            text = ""
        if self._seen is not None and self._seen[0] == text:
            return
        values: Any = None
        with suppress(InputError):
            if not self.is_document:
                values = UrdfEditor(self.file)
            elif text:
                values = YamlSource(self.file, text).values
        self._seen = text, values

    def written(self, path: Sequence[str | int]) -> Any:
        """What the file itself had at a path when it was last looked at; None for nothing."""
        if self._seen is None:
            self.look()
        assert self._seen is not None
        node = self._seen[1]
        if isinstance(node, UrdfEditor):
            try:
                return node.written(path)
            except InputError:
                return None
        for key in path:
            if not isinstance(node, dict) or key not in node:
                return None
            node = node[key]
        return node

    def home_of(self, item: Sequence[str]) -> tuple[str, ...] | None:
        """The path of an item, or of what is in it, in this file; None where it is in another."""
        if self.written(item[:2]) is not None:
            return tuple(item)
        document = self.written(())
        if not isinstance(document, dict) or document.get("kind") != "scene":
            return None
        home = held_items(document).get((*item[:2],))
        return None if home is None else (*home, *item[2:])

    def written_place(self, path: Sequence[str | int]) -> Any:
        """What stands at the xyz or rpy of an item, however its place is written."""
        at, last = self.written((*path[:2], "at")), path[-1]
        if isinstance(at, list):
            return at if last == "xyz" else None
        return at.get(last) if isinstance(at, dict) else self.written(path)

    def place_changes(self, path: KeyPath, value: Any) -> dict[KeyPath, Any]:
        """What changes the xyz or rpy of an item, however its place is written."""
        at, home = self.written((*path[:2], "at")), (*path[:2], "at")
        if isinstance(at, list):
            return {home: value if path[-1] == "xyz" else {"xyz": list(at), "rpy": value}}
        # What a scene holds has its place at one key; a joint, at three.
        held = path[0] not in BY_SECTION
        return {(*home, path[-1]): value} if isinstance(at, dict) or held else {path: value}

    def line_of(self, section: str, line: int | None) -> str | None:
        """The name of the item of a section that is written in a line."""
        if self._seen is None:
            self.look()
        assert self._seen is not None
        text, values = self._seen
        if not self.is_document or not isinstance(values, dict):
            return None
        source = YamlSource(self.file, text)
        for name in values.get(section) or ():
            if source.place((section, name)).line == line:
                return str(name)
        return None

    def values_in(self, written: Any) -> list[str]:
        """The named values that an expression uses."""
        if not isinstance(written, str) or not written.startswith("="):
            return []
        known = self.written(("values",)) or ()
        used = dict.fromkeys(re.findall(r"[A-Za-z_]\w*", written))
        return [name for name in used if name in known]

    def uses_of(self, value: str) -> int:
        """In how many expressions of the file a named value stands."""
        text = "" if self._seen is None else self._seen[0]
        used = re.compile(rf"\b{re.escape(value)}\b")
        return sum(bool(used.search(said)) for said in re.findall(r"=[^,\n\]}#]+", text))

    def propose(self, what: str, changes: Mapping[KeyPath, Any]) -> ProposedEdit:
        """What the document would be with some values set; None takes a value away.

        Raises:
            InputError: the document cannot be read, or would be wrong then.
            ModelError: it has no such place of its own.
        """

        def change(editor: Editor) -> None:
            for path, value in changes.items():
                if isinstance(editor, DocumentEditor):
                    self._make_room(editor, path)
                if value is None:
                    editor.remove(path)
                else:
                    editor.set(path, value)

        return self.propose_by(what, change)

    def propose_by(self, what: str, change: Callable[[Any], object]) -> ProposedEdit:
        """What the document would be after a change by its editor; raises as `propose`."""
        editor = editor_of(self.file, self.allow_outside)
        before = read_back(self.file)
        change(editor)
        editor.check()
        return ProposedEdit(what, before, editor.text, self.file)

    def _make_room(self, editor: DocumentEditor, path: KeyPath) -> None:
        """Sections and entries on the way that are not there yet; never the item itself."""
        for length in range(1, len(path)):
            try:
                found = editor.get(path[:length])
            except ModelError:
                found = None
            if found is not None:
                continue
            if length == 2:
                raise ModelError(
                    f"{path[0]} {path[1]!r} is not written in {self.file.name} itself: it comes "
                    "from a document that it includes; open that one to change it"
                )
            editor.set(path[:length], {})

    def robot_of(self, text: str) -> Robot:
        """The robot that the file would describe with another text; of a scene, all in it."""
        if not self.is_document:
            return read_urdf(self.file, text=text)
        if kind_of(self.file, text) == "scene":
            return load_scene(self.file, text=text, allow_outside=self.allow_outside).robot
        return load_document(self.file, text=text, allow_outside=self.allow_outside)

    def make(self, proposal: ProposedEdit) -> None:
        """Write a change.

        Raises:
            InputError: somebody else changed the document since it was proposed.
        """
        if read_back(self.file) != proposal.before:
            raise InputError(f"{self.file}: was changed by somebody else meanwhile; look again")
        write_back(self.file, proposal.after)

    def take_back(self, proposal: ProposedEdit) -> None:
        """Write what was there before a change.

        Raises:
            InputError: somebody else changed the document since.
        """
        if read_back(self.file) != proposal.after:
            raise InputError(
                f"{self.file}: was changed by somebody else since, so taking back "
                f"{proposal.what!r} would undo that as well"
            )
        write_back(self.file, proposal.before)
