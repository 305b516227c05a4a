"""From a URDF file to a robot; what is wrong with single items is told, and the rest is read."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from pathlib import Path

from lxml import etree

from mooring.errors import Place
from mooring.formats.urdf.joints import JointReader
from mooring.formats.urdf.links import LinkReader
from mooring.formats.urdf.shapes import ShapeReader
from mooring.formats.urdf.source import read_source
from mooring.formats.urdf.told import Item, Told
from mooring.formats.urdf.transmissions import read_transmission
from mooring.formats.urdf.vocabulary import Stranger, strangers, vendor_parts
from mooring.model import Robot
from mooring.model.note import Note


def read_urdf(file: Path, search: Sequence[Path] = (), *, text: str | None = None) -> Robot:
    """Read a robot from a URDF file.

    One wrong item does not refuse the file: `robot.notes` tells what could not be read, was
    assumed, or is kept without being understood, each with its line; `check` makes findings of it.

    Args:
        file: which.
        search: folders to look for meshes in, before those near the file.
        text: what is taken to stand in it, instead of what does.

    Raises:
        InputError: the file is missing or too large.
        DocumentError: it is no XML, no robot, or a macro file that has not been expanded.
    """
    return _Reader(file, search, text).robot()


class _Reader:
    def __init__(self, file: Path, search: Sequence[Path], text: str | None) -> None:
        source = read_source(file, text)
        self.root = source.root
        self.told = Told(file)
        self.shapes = ShapeReader(self.told, search)
        self.result = Robot((self.root.get("name") or "").strip() or file.stem)
        remedy = "mend it: other programs may refuse the file"
        for words, line in source.odd:
            self.told.notes.append(Note(words, "not-standard", (), remedy, Place(file, line)))

    def robot(self) -> Robot:
        robot = self.result
        robot.places[()] = self.told.place(self.root)
        if not (self.root.get("name") or "").strip():
            text = f"<robot> has no name; called {robot.name!r}, like the file"
            self.told.note(self.root, text, code="value-assumed", remedy="give it a name")
        self._strangers()
        for element in [*self.root.findall("material"), *self.root.iter("material")]:
            if element.get("name") not in self.shapes.looks:
                self.shapes.material(element)
        links = LinkReader(robot, self.told, self.shapes)
        joints = JointReader(robot, self.told)
        for element in self.root.findall("link"):
            links.link(element)
        for element in self.root.findall("joint"):
            joints.joint(element)
        for element in self.root.findall("joint"):
            joints.mimics(element)
        unread = [
            e
            for e in self.root.findall("transmission")
            if not read_transmission(robot, self.told, e)
        ]
        kept = [etree.tostring(e, encoding="unicode", with_tail=False) for e in unread]
        robot.head.vendor = (*vendor_parts(self.root, ()), *kept)
        robot.notes.extend(self.told.notes)
        return robot

    def _strangers(self) -> None:
        """Tell what may be misspelt, and what is of other programs."""
        kept: list[str] = []
        for stranger in strangers(self.root, ()):
            if stranger.meant:
                self._misspelt(stranger)
            else:
                tag = str(stranger.element.tag).rpartition("}")[2]
                kept.append(f"{stranger.attribute}=" if stranger.attribute else f"<{tag}>")
        if kept:
            count = Counter(kept)
            listed = ", ".join(f"{n} {word}" if n > 1 else word for word, n in count.items())
            self.told.note(
                self.root, f"{listed}: of other programs; kept as they are, and written back"
            )

    def _misspelt(self, stranger: Stranger) -> None:
        element = stranger.element
        owner = element
        while owner.getparent() is not None and owner.tag not in ("link", "joint"):
            owner = owner.getparent()  # type: ignore[assignment]
        name = owner.get("name")
        item: Item = (f"{owner.tag}s", name) if owner.tag in ("link", "joint") and name else ()
        if stranger.attribute:
            what = f"{element.tag} has no attribute {stranger.attribute!r}"
        else:
            what = f"URDF has no element <{element.tag}> here"
        self.told.note(
            element, f"{what}; did you mean {stranger.meant!r}?", code="not-understood",
            item=item, remedy=f"write {stranger.meant}; as it stands it says nothing",
            respell=self._respelt(stranger),
        )  # fmt: skip

    def _respelt(self, stranger: Stranger) -> tuple[str, ...]:
        """How to spell it; nothing where the right one is there as well."""
        element, meant = stranger.element, stranger.meant
        owner = element.getparent()
        there = (
            element.get(meant)
            if stranger.attribute
            else (None if owner is None else owner.find(meant))
        )
        if there is not None:
            return ()
        return str(element.sourceline), str(element.tag), stranger.attribute, meant
