"""The second pass: a document that exists is brought up to a changed CAD file."""

from __future__ import annotations

import os
from collections.abc import Iterator, Sequence
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np

from mooring.cad import Assembly, joined
from mooring.cad.assembly.contents import NOT
from mooring.cad.proposing import ProposedJoint, propose
from mooring.errors import InputError, ModelError
from mooring.files import true_path
from mooring.formats.document.cad import read_entry
from mooring.formats.document.drafting import remembered
from mooring.formats.document.drafting.matching import Matched, match
from mooring.formats.document.drafting.mentions import (
    OF_PARTS,
    forms_of,
    listed,
    mentions,
    section_of,
)
from mooring.formats.document.drafting.remembered import JointPrint, Remembered, print_of
from mooring.formats.document.drafting.text import (
    Snippet,
    closure_snippet,
    joint_snippet,
    link_snippet,
    pattern_of,
    travel_words,
)
from mooring.formats.document.editor import DocumentEditor
from mooring.formats.document.nodes import flow, new_mapping
from mooring.model.definition.problems import EntryError
from mooring.model.naming import free_name


def redraft(
    file: Path, cad: Sequence[Path] = (), unit: str | None = None, tolerance: float | None = None
) -> list[str]:
    """Bring a document up to its CAD, which has changed, and keep what was edited.

    Parts are told by shape and place, not only by name: those that were renamed are renamed in the
    document, those that are new join the links they belong to or become links with joints, those
    that are gone are taken out. Places and limits that still stand as they were drafted follow the
    CAD; others stay. Nothing is written if the result could not be read.

    Args:
        file: the document.
        cad: files to read instead of those it names, as many as it names.
        unit: of these.
        tolerance: how far apart parts may be and still touch [m].

    Returns:
        What changed, a line each: + what is new, - what is gone, ~ what is otherwise.

    Raises:
        InputError: a file cannot be read, or the document could not be read afterwards.
    """
    editor = DocumentEditor(file, sound=False, allow_outside=True)
    before = remembered.recall(file)
    return _Redraft(editor, before, _assembly(editor, cad, unit), tolerance).run()


def _assembly(editor: DocumentEditor, cad: Sequence[Path], unit: str | None) -> Assembly:
    entries = section_of(editor, "cad")
    if not isinstance(entries, list) or not all(isinstance(entry, dict) for entry in entries):
        raise InputError(f"{editor.file}: has no cad: to be drafted from, - file: ...")
    if cad and len(cad) != len(entries):
        raise InputError(
            f"{editor.file}: names {len(entries)} CAD files, and {len(cad)} are given instead"
        )
    for entry, other in zip(entries, cad, strict=False):
        entry["file"] = os.path.relpath(true_path(other), true_path(editor.file).parent)
        if unit is not None:
            entry["unit"] = unit
    try:
        return joined([read_entry(editor.file.parent, entry) for entry in entries])
    except EntryError as error:
        raise InputError(f"{editor.file}: {error}") from None


class _Redraft:
    def __init__(
        self,
        editor: DocumentEditor,
        before: Remembered | None,
        assembly: Assembly,
        tolerance: float | None,
    ) -> None:
        self.editor = editor
        self.before = before
        self.assembly = assembly
        self.proposal = propose(assembly, tolerance)
        self.told: list[str] = []
        self.links: dict[str, Any] = self._section("links")
        self.joints: dict[str, Any] = self._section("joints")
        self.closures: dict[str, Any] = self._section("closures")

    def _section(self, name: str) -> dict[str, Any]:
        """A section of entries by name; empty where there is none."""
        found = section_of(self.editor, name) or {}
        wrong = not isinstance(found, dict) or any(
            not isinstance(entry, dict | None) for entry in found.values()
        )
        if wrong:
            raise InputError(
                f"{self.editor.file}: {name} is a mapping from names to entries; mooring check "
                "says what is wrong"
            )
        return found

    def run(self) -> list[str]:
        matched = self._matched()
        self.told += matched.told
        self._rename(matched.names)
        self._take_out(matched.vanished)
        home = self._homes()
        of_proposal = self._take_in(home)
        self._follow(of_proposal)
        self._replace_lost_places(matched.vanished)
        self.editor.save()
        kept = replace(self.proposal, joints=tuple(self._by_their_names(of_proposal)))
        remembered.remember(self.editor.file, self.assembly, kept)
        return self.told

    def _matched(self) -> Matched:
        after = [print_of(part) for part in self.assembly.parts]
        if self.before is not None:
            return match(self.before.parts, after)
        self.told.append("~ nothing is known of the CAD as it was; parts are told by name only")
        return Matched({part.name: part.name for part in after})

    # What parts are called.

    def _rename(self, names: dict[str, str]) -> None:
        """The new names of parts wherever the document names them, all at once."""
        new = {
            form: pattern_of(name)
            for old, name in names.items()
            if old != name
            for form in forms_of(old)
        }
        new |= {f"{NOT}{form}": f"{NOT}{name}" for form, name in new.items()}
        if not new:
            return
        for owner, key in mentions(self.editor):
            if owner[key] in new:
                # Of the same type, which remembers the quotes.
                owner[key] = type(owner[key])(new[owner[key]])
        for link in self.links.values():
            table: Any = (link or {}).get("part_materials") or {}
            for old in [key for key in table if key in new]:
                place = list(table).index(old)
                table.insert(place, new[old], table.pop(old))

    # Which link a part belongs to.

    def _take_out(self, vanished: Sequence[str]) -> None:
        """What links say of parts that are gone, and patterns that match nothing any more."""
        gone = {form for name in vanished for form in forms_of(name)}
        for name, link in self.links.items():
            parts = (link or {}).get("parts")
            named_first = not str((listed(parts) or [""])[0]).startswith(NOT)
            for pattern in listed(parts):
                if self._is_known(pattern):
                    continue
                if isinstance(parts, list):
                    parts.remove(pattern)
                else:
                    link["parts"] = flow([])
                if pattern.removeprefix(NOT) not in gone:
                    self.told.append(f"~ link {name}: {pattern!r} matches nothing; taken out")
            left = listed((link or {}).get("parts"))
            if link and left and named_first and left[0].startswith(NOT):
                # What is left would exclude from all parts.
                link["parts"] = flow([])
            if link and link.get("parts") == []:
                self.told.append(f"~ link {name}: has no parts any more; remove it, if it is gone")

    def _homes(self) -> dict[str, str]:
        """The link of each part, as far as the document says."""
        found: dict[str, str] = {}
        for name, link in self.links.items():
            patterns = listed((link or {}).get("parts"))
            parts = self.assembly.pick(*patterns)
            found |= {part.name: name for part in parts if part.name not in found}
        return found

    def _is_known(self, pattern: str) -> bool:
        try:
            self.assembly.pick(pattern)
        except ModelError:
            return False
        return True

    def _take_in(self, home: dict[str, str]) -> dict[str, str]:
        """Give parts without a link one; the document's link for each that is proposed."""
        volumes = {part.name: abs(part.volume) for part in self.assembly.parts}
        meant: dict[str, str] = {}
        new: list[str] = []
        for link in self.proposal.links:
            shares: dict[str, float] = {}
            for part in link.parts:
                if part in home:
                    shares[home[part]] = shares.get(home[part], 0.0) + volumes[part]
            loose = [part for part in link.parts if part not in home]
            if shares:
                owner = meant[link.name] = max(shares, key=lambda name: shares[name])
                self._add_parts(owner, loose, link.reason)
            elif loose:
                name = free_name(link.name, self.links)
                meant[link.name] = name
                new.append(name)
                self._put("links", name, link_snippet(self.assembly, self.proposal, link, loose))
                self.told.append(f"+ link {name}: {', '.join(loose)}")
        self._connect(meant, new)
        return meant

    def _add_parts(self, owner: str, loose: Sequence[str], reason: str) -> None:
        if not loose:
            return
        link = self.links[owner]
        parts = link.get("parts") or []
        more = [pattern_of(name) for name in loose]
        if isinstance(parts, list) and parts:
            parts.extend(more)
        else:
            link["parts"] = flow([*listed(parts or None), *more])
        self.told.append(f"~ link {owner}: {', '.join(loose)} added ({reason})")

    def _connect(self, meant: dict[str, str], new: Sequence[str]) -> None:
        """Joints and closures for links that are new."""
        hung = {entry.get("child") for entry in self.joints.values() if entry}
        for joint in self.proposal.joints:
            parent, child = meant.get(joint.parent), meant.get(joint.child)
            if parent is None or child is None or parent == child or not {parent, child} & set(new):
                continue
            if parent in new and parent not in hung:
                parent, child = child, parent
            name = free_name(joint.name, {**self.joints, **self.closures})
            ends = parent, child
            if child in new and child not in hung and not joint.closes:
                made = joint_snippet(joint, self.assembly, self.proposal, ends)
                self._put("joints", name, made)
                hung.add(child)
                self.told.append(f"+ joint {name}: {joint.kind}, {parent} to {child}")
            else:
                made = closure_snippet(joint, self.assembly, self.proposal, ends)
                self._put("closures", name, made)
                self.told.append(f"+ closure {name}: {parent} and {child}")
        self.told += [
            f"~ link {name}: has no joint; give it one" for name in new if name not in hung
        ]

    def _put(self, section: str, name: str, snippet: Snippet) -> None:
        if not self._section(section):
            self.editor.set(section, new_mapping())
        owner = self.editor.get(section)
        owner[name] = snippet.entry()
        words = "\n".join(line.removeprefix("  # ") for line in snippet.comment("  "))
        owner.yaml_set_comment_before_after_key(name, before=words, indent=2)
        setattr(self, section, owner)

    # Where joints are.

    def _follow(self, meant: dict[str, str]) -> None:
        """Places and limits that stand as they were drafted, as the CAD has them now."""
        drafted = {} if self.before is None else {joint.name: joint for joint in self.before.joints}
        for section, entries in (("joint", self.joints), ("closure", self.closures)):
            for name, entry in entries.items():
                old = drafted.get(name)
                new = None if old is None else self._proposed(entry, meant, old)
                if old is None or new is None:
                    continue
                if not _same_line(old, new):
                    self.told.append(f"~ {section} {name}: {self._moved(entry, old, new)}")
                if _as_drafted(entry.get("limits"), old) and old.kind == new.kind:
                    ends = travel_words(new.kind, new.travel)
                    if ends != travel_words(old.kind, old.travel):
                        entry["limits"].update(zip(("lower", "upper"), ends, strict=True))
                        self.told.append(f"~ joint {name}: goes from {ends[0]} to {ends[1]} now")

    def _moved(self, entry: Any, old: JointPrint, new: ProposedJoint) -> str:
        """Put a joint where the CAD has it now, if it stands as it was drafted; what was done."""
        at = entry.get("at")
        if not (isinstance(at, dict) and "xyz" in at):
            return "follows the CAD by its place"
        if not _is_drafted(at, old):
            return "moved in the CAD; its place was edited, and stays"
        made = joint_snippet(new, self.assembly, self.proposal).entry()
        for key in ("at", "axis"):
            if key in made:
                entry[key] = made[key]
        return "put where the CAD has it now"

    def _by_their_names(self, meant: dict[str, str]) -> Iterator[ProposedJoint]:
        """The proposed joints, under the names that the document has for them."""
        drafted = {} if self.before is None else {joint.name: joint for joint in self.before.joints}
        names: dict[str, str] = {}
        for entries in (self.joints, self.closures):
            for name, entry in entries.items():
                new = self._proposed(entry or {}, meant, drafted.get(name))
                if new is not None:
                    names.setdefault(new.name, name)
        taken = set(names.values())
        for joint in self.proposal.joints:
            if joint.name in names:
                yield replace(joint, name=names[joint.name])
            elif joint.name not in taken:
                yield joint

    def _proposed(
        self, entry: Any, meant: dict[str, str], old: JointPrint | None
    ) -> ProposedJoint | None:
        """The proposal between the links of a joint; of several the one nearest to what it was."""
        ends = {entry.get("parent"), entry.get("child"), *(entry.get("between") or ())} - {None}
        found = [
            joint
            for joint in self.proposal.joints
            if {meant.get(joint.parent), meant.get(joint.child)} == ends
        ]
        if old is None:
            return found[0] if len(found) == 1 else None
        return min(found, key=lambda j: _line_gap(old, j), default=None)

    def _replace_lost_places(self, vanished: Sequence[str]) -> None:
        """Numbers in the place of features of parts that are gone."""
        gone = {form for name in vanished for form in forms_of(name)}
        drafted = {} if self.before is None else {joint.name: joint for joint in self.before.joints}
        for entries in (self.joints, self.closures):
            for name, entry in entries.items():
                at = (entry or {}).get("at")
                named = {n for key in OF_PARTS for n in listed((at or {}).get(key))}
                if not isinstance(at, dict) or not named & gone or name not in drafted:
                    continue
                old = drafted[name]
                xyz = [f"{1000 * v + 0.0:.6g} mm" for v in old.origin]
                entry["at"] = flow({"xyz": xyz, "relative_to": "cad"})
                entry["axis"] = flow([round(v, 9) + 0.0 for v in old.axis])
                lost = ", ".join(sorted(named & gone))
                self.told.append(f"~ {name}: {lost} is gone; it stays where it was, by numbers")


def _same_line(old: JointPrint, new: ProposedJoint) -> bool:
    sine = float(np.linalg.norm(np.cross(old.axis, new.axis)))
    return sine < 1e-6 and _line_gap(old, new) < 1e-5


def _line_gap(old: JointPrint, new: ProposedJoint) -> float:
    way = np.array(new.origin) - np.array(old.origin)
    axis = np.array(old.axis)
    return float(np.linalg.norm(way - axis * (way @ axis)))


def _as_drafted(limits: Any, old: JointPrint) -> bool:
    """Whether limits are written as they were drafted."""
    if not isinstance(limits, dict) or old.kind not in ("revolute", "prismatic"):
        return False
    written = [str(limits.get(key)) for key in ("lower", "upper")]
    return written == travel_words(old.kind, old.travel)


def _is_drafted(at: Any, old: JointPrint) -> bool:
    """Whether a place is written as it was drafted."""
    written = [f"{1000 * v + 0.0:.6g} mm" for v in old.origin]
    return [str(v) for v in at["xyz"]] == written and at.get("relative_to") == "cad"
