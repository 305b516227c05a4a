"""From a document to a robot, by the same calls a Python user makes."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from functools import partial
from pathlib import Path
from typing import Any, Literal

from mooring.cad import joined
from mooring.errors import DocumentError, ModelError, Place, Problem, did_you_mean
from mooring.files import true_path
from mooring.formats.document.cad import read_entry
from mooring.formats.document.context import DocumentContext
from mooring.formats.document.entries import (
    AllowanceEntry,
    FootprintEntry,
    IncludeEntry,
)
from mooring.formats.document.including import included_robot
from mooring.formats.document.sections import HEAD, SECTIONS, DocumentKind, sections_of
from mooring.formats.document.session import Session
from mooring.formats.document.source import KeyPath, YamlSource
from mooring.formats.document.values import Values
from mooring.kinematics.footprint import footprint
from mooring.model import Robot
from mooring.model.chain import row_names
from mooring.model.compound_joint import COMPOUND_TYPES
from mooring.model.definition.problems import EntryError, define
from mooring.model.note import MOST_ANGLE, Note
from mooring.model.registry import KINDS
from mooring.model.robot import adding
from mooring.model.robot.copying import copied
from mooring.model.robot.head import RobotHead
from mooring.model.robot.limits import set_limits
from mooring.model.robot.origins import origin_notes
from mooring.model.robot.overriding import override
from mooring.model.structure import roots

VERSION = 1
_MOST_LINKS = 5_000
"""Of all that is included, lest a few lines fan out without end."""
_READ_APART = ("link", "joint", "frame", "posture", "allowance", "material")
"""Kinds of item that are not read one after the other as they stand."""


def load_document(file: Path, *, allow_outside: bool = False, text: str | None = None) -> Robot:
    """Read a robot from a YAML document.

    Args:
        file: which.
        allow_outside: whether it may take CAD, meshes and documents from outside its folder, or
            the project that is in.
        text: what is taken to stand in it, instead of what does.

    Raises:
        InputError: the file is missing or not text.
        DocumentError: everything that is wrong in it, each with its line.
    """
    session = Session.of(file, allow_outside)
    return read_document(YamlSource(file, text), {}, session)


def read_document(source: YamlSource, values: Mapping[str, Any], session: Session) -> Robot:
    """A robot from a document, as part of a reading that may have others open."""
    session.open.append(true_path(source.file))
    try:
        return Loader(source, values, session).read()
    finally:
        session.open.pop()


class Loader:
    """Reads one document."""

    def __init__(self, source: YamlSource, values: Mapping[str, Any], session: Session) -> None:
        self.source = source
        self.given = values
        self.session = session
        self.problems: list[Problem] = []
        self.broken: set[tuple[str, str]] = set()
        self.document: dict[str, Any] = {}

    def read(self) -> Robot:
        """The robot that the document describes."""
        self.document = self.head("robot")
        robot: Robot = self.begin(Robot)
        self.whole(RobotHead, robot.head)
        self.bodies(robot)
        self._include(robot, "onto")
        if self.document.get("include"):
            # What refers to the names of others would be found wrong; this is the news.
            self.stop_if_wrong()
        self.structure(robot)
        self._refuse_loose_base(robot)
        self.rest(robot)
        self.stop_if_wrong()
        self.remember(robot)
        robot.notes += origin_notes(robot)
        return robot

    # In the order of reading.

    def begin(self, make: Callable[[str], Any]) -> Any:
        """The robot, or scene, under its name, and what its entries are read with."""
        name = self.document.get("name", self.source.file.stem)
        try:
            made = make(name)
        except ModelError as error:
            self.refuse(("name",), Problem(str(error).partition("name: ")[2] or str(error)))
            made = make("unnamed")
        robot = made if isinstance(made, Robot) else made.robot
        self.context = DocumentContext(robot, self.source.file.parent, self.session)
        return made

    def whole(self, definition: type, head: Any) -> None:
        """What is said of it as a whole."""
        said = {
            key: self.document[key]
            for key in definition.model_fields  # type: ignore[attr-defined]
            if key != "name" and self.document.get(key) is not None
        }
        self.guard((), lambda: self._set_head(definition, head, said))

    def _set_head(self, definition: type, head: Any, said: Mapping[str, Any]) -> None:
        required = {"name": head.name} if hasattr(head, "name") else {}
        read: Any = define(definition, "", {**required, **said}, self.context)
        head.owner.refuse_unfit(head, read)
        head.change(**{name: getattr(read, name) for name in said})

    def bodies(self, robot: Robot) -> None:
        """Materials and links."""
        self._read_cad(robot)
        self.items(robot, "material")
        # What everything else is put on, where another robot is.
        self._include(robot, "base")
        if robot.links or self.problems:
            # What refers to the names of others would be found wrong; this is the news.
            self.stop_if_wrong()
        self.items(robot, "link")
        # Chains make links that others may be put on, and may begin on links that others bring.
        self._chains(robot, on_own=True)

    def structure(self, robot: Robot) -> None:
        """Frames, what is attached to them, what links collide with, and joints."""
        self._chains(robot, on_own=False)
        self._frames(robot, on_ground=False)
        self._include(robot, "frame")
        for pattern, rule in self.mapping("collision").items():
            call = partial(adding.set_collision, robot, pattern, rule, self.context)
            self.guard(("collision", pattern), call)
        self.items(robot, "joint")
        for pattern, values in self.mapping("limits").items():
            call = partial(set_limits, robot, pattern, values, self.context)
            self.guard(("limits", pattern), call)

    def rest(self, robot: Robot) -> None:
        """What refers to links, joints and frames."""
        for name, positions in self.mapping("postures").items():
            self.guard(("postures", name), partial(self._posture, robot, name, positions))
        self._allowances(robot)
        for kind in KINDS.values():
            if kind.name == "frame":
                self._frames(robot, on_ground=True)
            elif kind.name not in _READ_APART:
                self.items(robot, kind.name)

    def stop_if_wrong(self) -> None:
        """Tell what is wrong, if anything is.

        Raises:
            DocumentError: something is.
        """
        if self.problems:
            raise DocumentError(self.problems)

    def remember(self, robot: Robot) -> None:
        """Keep where everything was written."""
        robot.places[()] = Place(self.source.file, 1)
        if self.source.is_json:
            return
        for section, value in self.document.items():
            self._remember(robot, (section,), value)
        for name, entry in (self.document.get("chains") or {}).items():
            for number, row in enumerate(entry["rows"]):
                place = self.source.place(("chains", name, "rows", number))
                made = row_names(name, number, row.get("joint"), row.get("link"))
                for section, item in zip(("joints", "links"), made, strict=True):
                    robot.places.setdefault((section, item), place)

        for name, entry in self.mapping("joints").items():
            if isinstance(entry, Mapping) and entry.get("type") in COMPOUND_TYPES:
                self._remember_compound(robot, str(name))
        self._look_at_angles(robot, (), self.document)

    def _remember_compound(self, robot: Robot, name: str) -> None:
        """The simple joints of a compound one stand where it is said what each can do."""
        for joint in robot.joints:
            if joint.startswith(f"{name}_"):
                own = ("joints", name, joint.removeprefix(f"{name}_"))
                robot.places.setdefault(("joints", joint), self.source.place(own))
                limits = self.source.place((*own, "limits"))
                robot.places.setdefault(("joints", joint, "limits"), limits)

    def _look_at_angles(self, robot: Robot, path: KeyPath, value: Any) -> None:
        """Tell of bare numbers that can hardly be radians."""
        if isinstance(value, list) and path[-1:] == ("rpy",):
            bare = [v for v in value if isinstance(v, int | float)]
            largest = max(bare, key=abs, default=0.0)
            if abs(largest) > MOST_ANGLE:
                turns = f"{largest:g} rad is {abs(largest) / math.tau:.3g} turns"
                note = Note(
                    f"rpy: {value}: {turns}; degrees?", "angle-unlikely", tuple(map(str, path)),
                    f"write '{largest:g} deg'; a plain number is in rad", self.source.place(path),
                )  # fmt: skip
                robot.notes.append(note)
        elif isinstance(value, dict | list):
            for key, inner in value.items() if isinstance(value, dict) else enumerate(value):
                self._look_at_angles(robot, (*path, key), inner)

    def _remember(self, robot: Robot, path: KeyPath, value: Any) -> None:
        if value is None:
            return
        robot.places[tuple(str(key) for key in path)] = self.source.place(path)
        if isinstance(value, dict) and len(path) < 4:
            for key, inner in value.items():
                self._remember(robot, (*path, key), inner)

    # The document itself.

    def head(self, kind: DocumentKind) -> dict[str, Any]:
        """The document with its expressions evaluated, once it is what it should be."""
        document = self.source.values
        if not isinstance(document, dict):
            self._give_up((), f"a {kind} document is a mapping that begins with 'mooring: 1'")
        version = document.get("mooring")
        if version is None:
            self._give_up((), "the document does not say its version; begin it with 'mooring: 1'")
        if version != VERSION:
            text = f"version {version!r} of the document format; this Mooring reads {VERSION}"
            self._give_up(("mooring",), text)
        said = document.get("kind", "robot")
        if said != kind:
            advice = {"scene": "a scene is run, or read with read_scene"}.get(str(said), "")
            self._give_up(("kind",), f"this is a {said}, and not a {kind}; {advice}".rstrip("; "))
        known = [*HEAD, *(section.key for section in sections_of(kind))]
        for key in document:
            if key not in known:
                text = f"unknown key {key!r}{did_you_mean(key, known)}"
                self.refuse((), Problem(text, (key,), "unknown-key"))
        return self._evaluated(document)

    def _give_up(self, path: KeyPath, message: str) -> None:
        self.refuse(path, Problem(message))
        self.stop_if_wrong()

    def _evaluated(self, document: dict[str, Any]) -> dict[str, Any]:
        """The document with its expressions evaluated."""
        values = document.get("values")
        if values is not None and not isinstance(values, dict):
            self._give_up(("values",), "values is a mapping from names to quantities")
        known = Values(
            values or {}, self.given, lambda path, text: self.refuse(path, Problem(text))
        )
        rest = {key: value for key, value in document.items() if key != "values"}
        evaluated: dict[str, Any] = known.applied(rest)
        # What uses a wrong value would be found wrong as well; this is the news that matters.
        self.stop_if_wrong()
        return evaluated

    def mapping(self, section: str) -> dict[str, Any]:
        """A section with entries by name; empty where it is none."""
        entries = self.document.get(section)
        if entries is None:
            return {}
        if not isinstance(entries, dict):
            names = "patterns" if SECTIONS[section].form == "pattern" else "names"
            self.refuse((section,), Problem(f"{section} is a mapping from {names} to entries"))
            return {}
        return entries

    def _listing(self, section: str, example: str) -> list[Any]:
        entries = self.document.get(section)
        if entries is None:
            return []
        if isinstance(entries, dict) and "file" in entries:
            # One alone needs no list.
            return [entries]
        if not isinstance(entries, list):
            problem = Problem(f"{section} is a list: {example}")
            if problem not in [Problem(one.message) for one in self.problems]:
                self.refuse((section,), problem)
            return []
        return entries

    # Sections.

    def items(self, robot: Robot, kind: str) -> None:
        """The items of a kind, one after the other as they stand."""
        what = KINDS[kind]
        for name, entry in self.mapping(what.section).items():
            said = {} if entry is None and kind != "motion" else entry
            self.guard(
                (what.section, name), partial(robot.add, kind, name, said, context=self.context)
            )

    def _read_cad(self, robot: Robot) -> None:
        entries = self.document.get("cad")
        if entries is None:
            return
        if isinstance(entries, dict) and "file" in entries:
            entries = [entries]
        if not isinstance(entries, list) or not entries:
            self._give_up(("cad",), "cad is a list of files: - file: ...")
        assemblies = []
        for number, entry in enumerate(entries):
            found = self.guard(
                ("cad", number),
                partial(read_entry, self.source.file.parent, entry, self.session.cad),
            )
            if found is not None:
                assemblies.append(found)
        if len(assemblies) < len(entries):
            # Without the parts every link would be found wrong; this is the news that matters.
            self.stop_if_wrong()
        assembly = joined(assemblies)
        self.context.assembly = assembly
        robot.assemblies.append(assembly)
        robot.notes.extend(Note(f"{assembly.file.name}: {note}") for note in assembly.notes)

    def _chains(self, robot: Robot, on_own: bool) -> None:
        """The chains that begin on the document's own links, or those that do not."""
        links = list(self.mapping("links"))
        for name, entry in self.mapping("chains").items():
            base = entry.get("base") if isinstance(entry, dict) else None
            if (base in links) == on_own:
                call = partial(adding.add_chain, robot, name, entry, self.context)
                self.guard(("chains", name), call)

    def _frames(self, robot: Robot, on_ground: bool) -> None:
        """The frames that are placed as they are written, or those that the geometry places."""
        for name, entry in self.mapping("frames").items():
            geometric = isinstance(entry, dict) and "on_ground" in entry
            if geometric != on_ground or (on_ground and self.problems):
                continue
            add = partial(self._footprint, robot) if on_ground else partial(self._frame, robot)
            self.guard(("frames", name), partial(add, name, {} if entry is None else entry))

    def _frame(self, robot: Robot, name: str, entry: Any) -> None:
        robot.add("frame", name, entry, context=self.context)

    def _footprint(self, robot: Robot, name: str, entry: Any) -> None:
        stands = define(FootprintEntry, f"frame {name!r}", entry)
        posture = None if stands.on_ground is True else stands.on_ground
        robot.add_frame(name, link=stands.link, at=footprint(robot, stands.link, posture))

    def _posture(self, robot: Robot, name: str, positions: Any) -> None:
        """A posture; one that included robots have too is theirs, but for what is said here."""
        positions = {} if positions is None else positions
        if name not in robot.postures:
            robot.add_posture(name, positions)
            return
        own = robot.read_positions(f"posture {name!r}", positions)
        robot.postures[name] = {**robot.postures[name], **own}

    def _allowances(self, robot: Robot) -> None:
        for number, entry in enumerate(self._listing("allowances", "- between: [link, link]")):
            self.guard(("allowances", number), partial(_allow, robot, entry))

    def _include(self, robot: Robot, how: Literal["base", "onto", "frame"]) -> None:
        """Include others: what is the base, what is fixed to links, or what is put on frames."""
        for number, entry in enumerate(self._listing("include", "- file: ...")):
            said = entry if isinstance(entry, Mapping) else {}
            on = next((key for key in ("frame", "onto") if said.get(key) is not None), "base")
            if on == how:
                call = partial(self._include_one, robot, entry)
                self.guard(("include", number), call)

    def _refuse_loose_base(self, robot: Robot) -> None:
        """What is included without onto, beside links that nothing joins it to, lacks that."""
        own = self.document.get("links") or {}
        loose = [name for name in roots(robot) if name not in own]
        if self.problems or not own or not loose or len(roots(robot)) == 1:
            return
        for number, entry in enumerate(self._listing("include", "")):
            if isinstance(entry, Mapping) and not {"onto", "frame"} & set(entry):
                text = (
                    f"onto: name the link that {loose[0]!r} is fixed to, or add a joint between it "
                    "and the links here"
                )
                self.refuse(("include", number), Problem(text))
        self.stop_if_wrong()

    def _include_one(self, robot: Robot, entry: Any) -> None:
        include = define(IncludeEntry, "include", entry, self.context)
        other = self.other_robot(include)
        if len(robot.links) + len(other.links) > _MOST_LINKS:
            text = f"more than {_MOST_LINKS:,} links come together; this is no robot description"
            raise EntryError("", [(("file",), text)])
        if include.frame is None:
            robot.include(
                other,
                prefix=include.prefix,
                onto=include.onto,
                at=include.at,
                joint=include.joint,
            )
        else:
            robot.attach(
                other,
                at=include.frame,
                mount=include.mount,
                prefix=include.prefix,
                joint=include.joint,
            )

    def other_robot(self, include: IncludeEntry) -> Robot:
        """The robot of another document or URDF file, with what is to be otherwise."""
        read = partial(read_document, session=self.session)
        try:
            other = included_robot(include, self.source.file.parent, self.session, read)
        except DocumentError as error:
            # Told with the lines of the document that is included.
            self.problems.extend(error.problems)
            raise EntryError("include", []) from None
        if not include.override:
            return other
        # It is shared with other inclusions of the same file.
        other = copied(other)
        try:
            override(other, include.override, self.context)
        except EntryError as error:
            raise error.inside("override") from None
        return other

    # What is wrong.

    def guard(self, path: KeyPath, call: Callable[[], Any]) -> Any:
        """Call, and note what goes wrong with the line where it was written."""
        try:
            return call()
        except EntryError as error:
            problems = error.problems
        except ModelError as error:
            problems = (Problem(str(error)),)
        section = SECTIONS.get(str(path[0])) if path else None
        named = section is not None and section.form in ("name", "pattern") and len(path) > 1
        for problem in problems:
            # That nothing is called so follows from another mistake, which is told already.
            if problem.about not in self.broken:
                said = f"{section.word} {path[1]!r}: " if named and section else ""
                self.refuse(path, problem, said)
        kind = next((k.name for k in KINDS.values() if path and k.section == path[0]), None)
        if kind is not None and named:
            self.broken.add((kind, str(path[1])))
        return None

    def refuse(self, path: KeyPath, problem: Problem, before: str = "") -> None:
        """Note what is wrong, at a path."""
        whole = (*path, *problem.path)
        place = problem.place or self.source.place(whole)
        self.problems.append(
            Problem(f"{before}{problem.message}", whole, problem.code, problem.about, place)
        )


def _allow(robot: Robot, entry: Any) -> None:
    allowance = define(AllowanceEntry, "allowance", entry)
    robot.allow_overlap(*allowance.between, allowance.because)
