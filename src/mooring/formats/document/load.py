"""From a document to a robot, by the same calls a Python user makes."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from functools import partial
from pathlib import Path
from typing import Any

from mooring.cad import Assembly, Axis, Frame, joined
from mooring.cad.meshes.conventions import UNITLESS
from mooring.errors import (
    DocumentError,
    InputError,
    ModelError,
    Place,
    did_you_mean,
)
from mooring.formats.document.cad import tidied
from mooring.formats.document.entries import (
    AllowanceEntry,
    BoreEntry,
    CadEntry,
    CentreEntry,
    FaceEntry,
    FootprintEntry,
    FrameEntry,
    IncludeEntry,
    LinkEntry,
    MeshEntry,
    SlideEntry,
)
from mooring.formats.document.including import included_robot
from mooring.formats.document.session import Session
from mooring.formats.document.source import KeyPath, Source
from mooring.formats.document.values import Values
from mooring.kinematics.footprint import footprint
from mooring.model import Hull, MeshShape, PlacedShape, Robot
from mooring.model.checking import CheckSettings
from mooring.model.collision.definition import ShapeEntry
from mooring.model.validation import EntryError, define

VERSION = 1
SECTIONS = (
    "mooring",
    "kind",
    "name",
    "base",
    "values",
    "cad",
    "materials",
    "links",
    "collision",
    "include",
    "frames",
    "chains",
    "joints",
    "couplings",
    "closures",
    "springs",
    "allowances",
    "motors",
    "sensors",
    "postures",
    "motions",
    "checks",
)


def load_document(file: Path, *, allow_outside: bool = False, text: str | None = None) -> Robot:
    """Read a robot from a YAML document.

    Args:
        file: which.
        allow_outside: whether it may include documents from outside its folder.
        text: what is taken to stand in it, instead of what does.

    Raises:
        InputError: the file is missing or not text.
        DocumentError: everything that is wrong in it, each with its line.
    """
    session = Session(None if allow_outside else file.resolve().parent)
    return read_document(Source(file, text), {}, session)


def read_document(source: Source, values: Mapping[str, Any], session: Session) -> Robot:
    """A robot from a document, as part of a reading that may have others open."""
    session.open.append(source.file.resolve())
    try:
        return Loader(source, values, session).robot()
    finally:
        session.open.pop()


_FOUND_BY = ("bore", "slide", "face", "centre", "frame")
"""Keys of an `at:` that is looked up in the CAD."""


class Loader:
    """Reads one document."""

    def __init__(self, source: Source, values: Mapping[str, Any], session: Session) -> None:
        self.source = source
        self.given = values
        self.session = session
        self.problems: list[tuple[Place, str]] = []
        self.cad: Assembly | None = None
        self.broken: set[str] = set()

    def robot(self) -> Robot:
        document = self.head("robot", SECTIONS)
        name = document.get("name", self.source.file.stem)
        if not isinstance(name, str):
            self._refuse(("name",), f"the name must be text, got {name!r}")
        robot = Robot(str(name))
        robot.base = document.get("base", "fixed")
        if robot.base not in ("fixed", "floating"):
            self._refuse(("base",), f"base must be fixed or floating, got {robot.base!r}")
        self.read_cad(robot, document.get("cad"))
        self.each(document, "materials", robot.describe_material)
        self.each(document, "links", lambda n, e: self._link(robot, n, e))
        # Chains make links that others may be put on, and may begin on links that others bring.
        self._chains(robot, document, on_own=True)
        self._collision(robot, document.get("collision"))
        self._include(robot, document.get("include"))
        if document.get("include") and self.problems:
            # What refers to the names of others would be found wrong; this is the news.
            raise DocumentError(self.problems)
        self._chains(robot, document, on_own=False)
        self.frames(robot, document, on_ground=False)
        self._include(robot, document.get("include"), attached=True)
        self.each(document, "joints", lambda n, e: robot.describe_joint(n, self.placed(e)))
        self.each(document, "couplings", robot.describe_coupling)
        self.each(document, "closures", lambda n, e: robot.describe_closure(n, self.placed(e)))
        self.each(document, "postures", partial(self.posture, robot))
        self.frames(robot, document, on_ground=True)
        self.each(document, "springs", robot.describe_spring)
        self.allowances(robot, document.get("allowances"))
        self.each(document, "motors", robot.describe_motor)
        self.each(document, "sensors", robot.describe_sensor)
        self.each(document, "motions", robot.add_motion, list)
        self.guard(("checks",), partial(_read_checks, robot, document.get("checks")))
        if self.problems:
            raise DocumentError(self.problems)
        self.remember(robot, document, SECTIONS)
        return robot

    def remember(self, robot: Robot, document: Mapping[str, Any], sections: Sequence[str]) -> None:
        """Keep where everything was written."""
        robot.places[()] = Place(self.source.file, 1)
        for section in sections:
            self.remember_places(robot, (section,), document.get(section))

    def head(self, kind: str, sections: Sequence[str]) -> dict[str, Any]:
        """The document with its expressions evaluated, once it is what it should be."""
        document = self.source.values
        if not isinstance(document, dict):
            self._refuse((), f"a {kind} document is a mapping that begins with 'mooring: 1'")
            raise DocumentError(self.problems)
        version = document.get("mooring")
        if version is None:
            self._refuse((), "the document does not say its version; begin it with 'mooring: 1'")
            raise DocumentError(self.problems)
        if version != VERSION:
            text = f"version {version!r} of the document format; this Mooring reads {VERSION}"
            self._refuse(("mooring",), text)
            raise DocumentError(self.problems)
        said = document.get("kind", "robot")
        if said != kind:
            advice = {"scene": "a scene is run, or read with read_scene"}.get(str(said), "")
            self._refuse(("kind",), f"this is a {said}, and not a {kind}; {advice}".rstrip("; "))
            raise DocumentError(self.problems)
        for key in document:
            if key not in sections:
                self._refuse((key,), f"unknown key {key!r}{did_you_mean(key, sections)}")
        return self._evaluated(document)

    def _evaluated(self, document: dict[str, Any]) -> dict[str, Any]:
        """The document with its expressions evaluated."""
        values = document.get("values")
        if values is not None and not isinstance(values, dict):
            self._refuse(("values",), "values is a mapping from names to quantities")
            raise DocumentError(self.problems)
        known = Values(values or {}, self.given, self._refuse)
        rest = {key: value for key, value in document.items() if key != "values"}
        evaluated: dict[str, Any] = known.applied(rest)
        if self.problems:
            # What uses a wrong value would be found wrong as well; this is the news that matters.
            raise DocumentError(self.problems)
        return evaluated

    def read_cad(self, robot: Robot, entries: Any) -> None:
        if entries is None:
            return
        if not isinstance(entries, list) or not entries:
            self._refuse(("cad",), "cad is a list of files: - file: ...")
            raise DocumentError(self.problems)
        assemblies = []
        for number, entry in enumerate(entries):
            found = self.guard(("cad", number), partial(self._assembly, entry))
            if found is not None:
                assemblies.append(found)
        if len(assemblies) < len(entries):
            # Without the parts every link would be found wrong; this is the news that matters.
            raise DocumentError(self.problems)
        self.cad = joined(assemblies)
        robot.assemblies.append(self.cad)
        robot.notes.extend(f"{self.cad.file.name}: {note}" for note in self.cad.notes)

    def _assembly(self, entry: Any) -> Assembly:
        cad = define(CadEntry, "cad", _mapping(entry))
        path = self.source.file.parent / cad.file
        try:
            assembly = self.session.cad(path, cad.unit, cad.tolerance)
        except InputError as error:
            raise EntryError("cad", [(("file",), str(error))]) from None
        return tidied(assembly, cad)

    def _chains(self, robot: Robot, document: dict[str, Any], on_own: bool) -> None:
        """The chains that begin on the document's own links, or those that do not."""
        chains, links = document.get("chains"), document.get("links") or {}
        chosen: Any
        if isinstance(chains, dict) and isinstance(links, dict):
            chosen = {
                name: entry
                for name, entry in chains.items()
                if (isinstance(entry, dict) and entry.get("base") in links) == on_own
            }
        else:
            chosen = chains if on_own else None
        add = partial(self._chain, robot)
        self.each({"chains": chosen}, "chains", add)

    def frames(self, robot: Robot, document: dict[str, Any], on_ground: bool) -> None:
        """The frames that are placed as they are written, or those that the geometry places."""
        frames = document.get("frames")
        chosen: Any = frames if not on_ground else None
        if isinstance(frames, dict):
            chosen = {
                name: entry
                for name, entry in frames.items()
                if (isinstance(entry, dict) and "on_ground" in entry) == on_ground
            }
        if on_ground and chosen and not self.problems:
            self.each({"frames": chosen}, "frames", partial(self._footprint, robot))
        elif not on_ground:
            add = partial(self._frame, robot)
            self.each({"frames": chosen}, "frames", add)

    def _frame(self, robot: Robot, name: str, entry: Any) -> None:
        robot.describe_frame(name, self.placed(entry))

    def _footprint(self, robot: Robot, name: str, entry: Any) -> None:
        stands = define(FootprintEntry, f"frame {name!r}", entry)
        posture = None if stands.on_ground is True else stands.on_ground
        robot.add_frame(name, link=stands.link, at=footprint(robot, stands.link, posture))

    def posture(self, robot: Robot, name: str, positions: Mapping[str, Any]) -> None:
        """A posture; one that included robots have too is theirs, but for what is said here."""
        if name not in robot.postures:
            robot.add_posture(name, positions)
            return
        robot.postures[name] |= robot.read_positions(f"posture {name!r}", positions)

    def allowances(self, robot: Robot, entries: Any) -> None:
        if entries is None:
            return
        if not isinstance(entries, list):
            self._refuse(("allowances",), "allowances is a list: - between: [link, link]")
            return
        for number, entry in enumerate(entries):
            self.guard(("allowances", number), partial(_allow, robot, entry))

    def _chain(self, robot: Robot, name: str, entry: Any) -> None:
        robot.describe_chain(name, self.placed(entry))

    def _collision(self, robot: Robot, rules: Any) -> None:
        """Rules for all links of a pattern, in the order they are written."""
        if rules is None:
            return
        if not isinstance(rules, dict):
            self._refuse(("collision",), "collision is a mapping from patterns of links to rules")
            return
        for pattern, rule in rules.items():
            call = partial(robot.set_collision, pattern, rule)
            self.guard(("collision", pattern), call)

    def _include(self, robot: Robot, entries: Any, attached: bool = False) -> None:
        """Include other documents: those fixed to links first, then those attached to frames."""
        if entries is None:
            return
        if not isinstance(entries, list):
            if not attached:
                self._refuse(("include",), "include is a list of documents: - file: ...")
            return
        for number, entry in enumerate(entries):
            by_frame = isinstance(entry, Mapping) and entry.get("frame") is not None
            if by_frame == attached:
                self.guard(("include", number), partial(self._include_one, robot, entry))

    def _include_one(self, robot: Robot, entry: Any) -> None:
        include = define(IncludeEntry, "include", self.placed(_mapping(entry)))
        read = partial(read_document, session=self.session)
        try:
            other = included_robot(include, self.source.file.parent, self.session, read)
        except DocumentError as error:
            # Told with the lines of the document that is included.
            self.problems.extend(error.problems)
            raise EntryError("include", []) from None
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

    def _link(self, robot: Robot, name: str, entry: Any) -> None:
        link = define(LinkEntry, f"link {name!r}", _mapping(entry))
        robot.add_link(
            name,
            parts=self.assembly_or_refuse("parts").pick(*link.parts) if link.parts else (),
            material=link.material,
            mass=link.mass,
            centre=link.centre,
            inertia=link.inertia,
            density=link.density,
            part_materials=link.part_materials,
            points=link.points,
            assumed=link.assumed,
            visuals=self.visuals(link.visuals),
            collision=self.meshes_in(link.collision),
            carrier=link.carrier,
            surface=link.surface,
        )

    def visuals(self, entries: list[Any]) -> list[PlacedShape]:
        shapes = []
        for number, entry in enumerate(entries):
            try:
                if _is_mesh(entry):
                    shapes.append(self._mesh(entry))
                else:
                    shapes.append(define(ShapeEntry, "visuals", entry).shape)
            except EntryError as error:
                raise error.inside("visuals", number) from None
        return shapes

    def meshes_in(self, collision: Any) -> Any:
        """What is said of collision, with meshes read from their files."""
        if _is_mesh(collision):
            collision = [collision]
        if not isinstance(collision, list):
            return collision
        read = []
        for number, item in enumerate(collision):
            try:
                read.append(self._mesh(item) if _is_mesh(item) else item)
            except EntryError as error:
                raise error.inside("collision", number) from None
        return read

    def _mesh(self, entry: Any) -> PlacedShape:
        said = define(MeshEntry, "mesh", entry)
        key = "mesh" if said.mesh is not None else "hull"
        file = self.source.file.parent / (said.mesh or said.hull or "")
        try:
            unit = said.unit if file.suffix.lower() in UNITLESS else None
            mesh = self.session.mesh(file, unit)
        except InputError as error:
            raise EntryError("mesh", [((key,), str(error))]) from None
        shape = MeshShape(mesh, file.stem) if key == "mesh" else Hull(mesh, file.stem)
        return PlacedShape(shape, said.at, said.name, said.color)

    def placed(self, entry: Any) -> dict[str, Any]:
        """The entry with `at: {bore: ...}` and the like looked up in the CAD."""
        placed: dict[str, Any] = dict(_mapping(entry))
        at = placed.get("at")
        key = next((k for k in _FOUND_BY if isinstance(at, Mapping) and k in at), None)
        if key is not None:
            try:
                axis = self._found(key, at)
            except EntryError as error:
                raise error.inside("at") from None
            except ModelError as error:
                raise EntryError("at", [(("at", key), str(error))]) from None
            placed["at"] = axis
        return placed

    def _found(self, key: str, at: Any) -> Axis | Frame:
        """The place in the CAD that an entry stands for."""
        assembly = self.assembly_or_refuse(key)
        if key == "slide":
            return assembly.slide(*define(SlideEntry, "at", at).slide)
        if key == "face":
            face = define(FaceEntry, "at", at)
            return assembly.face(assembly.pick(*face.face), face.toward, near=face.near)
        if key == "centre":
            return assembly.centre(assembly.pick(*define(CentreEntry, "at", at).centre))
        if key == "frame":
            return assembly.frame(define(FrameEntry, "at", at).frame)
        bore = define(BoreEntry, "at", at)
        return assembly.bore(*bore.bore, radius=bore.radius, near=bore.near)

    def assembly_or_refuse(self, key: str) -> Assembly:
        if self.cad is None:
            raise EntryError(
                key, [((key,), f"{key!r} needs a CAD file; add a section cad: with - file: ...")]
            )
        return self.cad

    def each(
        self,
        document: dict[str, Any],
        section: str,
        add: Callable[[str, Any], None],
        kind: type = dict,
    ) -> None:
        entries = document.get(section)
        if entries is None:
            return
        if not isinstance(entries, dict):
            self._refuse((section,), f"{section} is a mapping from names to entries")
            return
        for name, entry in entries.items():
            path = (section, name)
            if not isinstance(entry, kind) and not (entry is None and kind is dict):
                words = "a list of steps" if kind is list else "a mapping of keys"
                self._refuse(path, f"{section} {name!r} must be {words}, got {entry!r}")
                continue
            self.guard(path, partial(add, name, {} if entry is None else entry))

    def guard(self, path: KeyPath, call: Callable[[], Any]) -> Any:
        """Call, and note what goes wrong with the line where it was written."""
        try:
            return call()
        except EntryError as error:
            problems = error.problems
        except ModelError as error:
            problems = (((), str(error)),)
        for inner, text in problems:
            # That nothing is called so follows from another mistake, which is told already.
            if not any(f"is called {name!r}" in text for name in self.broken):
                self._refuse((*path, *inner), f"{_named(path)}{text}")
        self.broken.update(map(str, path[-1:]))
        return None

    def _refuse(self, path: KeyPath, message: str) -> None:
        self.problems.append((self.source.place(path), message))

    def remember_places(self, robot: Robot, path: KeyPath, value: Any) -> None:
        if value is None:
            return
        robot.places[tuple(str(key) for key in path)] = self.source.place(path)
        if isinstance(value, dict) and len(path) < 4:
            for key, inner in value.items():
                self.remember_places(robot, (*path, key), inner)


def _is_mesh(entry: Any) -> bool:
    return isinstance(entry, Mapping) and ("mesh" in entry or "hull" in entry)


def _read_checks(robot: Robot, entry: Any) -> None:
    if entry is not None:
        robot.checks = define(CheckSettings, "checks", entry)


def _allow(robot: Robot, entry: Any) -> None:
    allowance = define(AllowanceEntry, "allowance", entry)
    robot.allow_overlap(*allowance.between, allowance.because)


def _mapping(entry: Any) -> Mapping[str, Any]:
    if not isinstance(entry, Mapping):
        raise EntryError("", [((), f"expected a mapping of keys, got {entry!r}")])
    return entry


_SINGULAR = {
    "cad": "cad",
    "collision": "collision of",
    "materials": "material",
    "frames": "frame",
    "chains": "chain",
    "links": "link",
    "joints": "joint",
    "couplings": "coupling of",
    "closures": "closure",
    "springs": "spring",
    "motors": "motor",
    "sensors": "sensor",
    "postures": "posture",
    "motions": "motion",
    "robots": "robot",
    "obstacles": "obstacle",
    "bodies": "body",
}


def _named(path: KeyPath) -> str:
    if len(path) < 2 or path[0] in ("cad", "include", "allowances", "checks"):
        return ""
    return f"{_SINGULAR[str(path[0])]} {path[1]!r}: "
