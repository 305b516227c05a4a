"""The robot: what a user builds in Python and what a document describes."""

from __future__ import annotations

import pathlib
import weakref
from collections.abc import Callable, Mapping, Sequence
from os import PathLike
from typing import TYPE_CHECKING, Any, Literal, TypeVar, Unpack

from mooring import outlet
from mooring.arguments import proven_methods
from mooring.cad import Assembly, Part
from mooring.errors import ModelError, Place, did_you_mean
from mooring.geometry import Array
from mooring.model.cable import Cable
from mooring.model.chain import TableRow
from mooring.model.closure import Closure
from mooring.model.collision.table import collision_table
from mooring.model.compound_joint import CompoundType
from mooring.model.conveyor import Conveyor
from mooring.model.coupling import Coupling
from mooring.model.definition.context import Context
from mooring.model.definition.described import Described
from mooring.model.definition.markers import NEUTRAL
from mooring.model.definition.problems import EntryError
from mooring.model.device import Device
from mooring.model.dimension_table import DimensionTable
from mooring.model.forces import Force
from mooring.model.frame import LinkFrame
from mooring.model.grip import Grip
from mooring.model.inertia import Inertia
from mooring.model.joint import Joint
from mooring.model.joint_types import JointType
from mooring.model.judging import CheckSettings
from mooring.model.link import Link
from mooring.model.material import Material
from mooring.model.motion import MotionStep
from mooring.model.motor import Motor
from mooring.model.note import Note
from mooring.model.placement import Where
from mooring.model.registry import KINDS, kind_called
from mooring.model.robot import adding, combining, editing, fitting, limits, refitting
from mooring.model.robot.adding import said
from mooring.model.robot.furnishing import Furnished
from mooring.model.robot.head import Base, RobotHead
from mooring.model.robot.keywords import (
    ChainKeywords,
    JointKeywords,
    JointTypeName,
    LimitsKeywords,
    LinkKeywords,
)
from mooring.model.robot.references import Item, problems_of_item
from mooring.model.robot.section import Section, read_item
from mooring.model.sensors import Sensor
from mooring.model.spring import Spring

if TYPE_CHECKING:
    import pandas as pd

    from mooring.simulation import Recording
    from mooring.tree import Tree

Made = TypeVar("Made")
ItemPath = tuple[str, ...]
Pair = tuple[str, str]


@proven_methods
class Robot(Furnished, outlet.Shown):
    """A robot description.

    Build it link by link and joint by joint; `mooring.check` says what is missing. Whatever is set
    is checked when it is set, and what follows from it is made anew.

    Attributes:
        links, joints, couplings, closures, springs, cables, forces, conveyors, grips, motors,
            sensors, frames, postures, motions, materials: by name; see the definition of each for
            what can be said of it.
        tables: of dimensions that it must agree with.
        allowances: why two links may overlap, by their names in alphabetical order.
        assemblies: the CAD whose parts the robot is made of, to find parts left over.
        places: where things were written, by path, e.g. `("joints", "slew", "limits")`.
        notes: what a reader assumed, changed or left out, a `Note` each.
        unused: parts that robots it includes left over.
        revision: grows with every change.

    Example:
        >>> robot = Robot("crane")
        >>> robot.add_link("base")
        >>> robot.add_link("arm", mass="12 kg", centre=("0.5 m", 0, 0), inertia=(0.1, 1.1, 1.1))
        >>> robot.add_joint("slew", "revolute", parent="base", child="arm",
        ...                 lower="-90 deg", upper="90 deg", velocity="10 deg/s", effort="2 kN*m")
        >>> robot.coordinates
        ['slew']
        >>> robot.joints["slew"].limits.upper = "60 deg"
        >>> robot.add("posture", "aside", {"slew": "0.5 rad"})
        >>> robot.posture("aside")
        {'slew': 0.5}
        >>> robot.section("joint")
        <1 joints: slew>
        >>> robot.tree().links
        ('base', 'arm')
        >>> robot.mass(), robot.inertia("arm").centre
        (12.0, array([0.5, 0. , 0. ]))
        >>> robot.link_frames()["arm"][:3, 3]
        array([0., 0., 0.])
        >>> robot.branch("arm", "spare arm")
        <Robot 'spare arm': 1 links, 0 joints>
        >>> robot.read_positions("a wish", {"slew": "0.25 rad"})
        {'slew': 0.25}
        >>> robot.read_motion("a way", [{"to": "aside", "over": "2 s"}])[0].over
        2.0

        What it is made of, and where that stands:
        `[part.name for part in tender.leftover_parts()]`,
        `tender.place(("joints", "slew", "limits"))`, `tender.write("line_tender.urdf")`.
    """

    links: Section[Link]
    joints: Section[Joint]
    couplings: Section[Coupling]
    closures: Section[Closure]
    springs: Section[Spring]
    cables: Section[Cable]
    forces: Section[Force]
    conveyors: Section[Conveyor]
    devices: Section[Device]
    grips: Section[Grip]
    motors: Section[Motor]
    sensors: Section[Sensor]
    frames: Section[LinkFrame]
    postures: Section[dict[str, float]]
    motions: Section[tuple[MotionStep, ...]]
    allowances: Section[str]
    tables: Section[DimensionTable]
    materials: Section[Material]

    def __init__(self, name: str) -> None:
        self._head = RobotHead(name=name)
        self._head.belong_to(self)
        for kind in KINDS.values():
            object.__setattr__(self, kind.section, Section(self, kind))
        self.assemblies: list[Assembly] = []
        self.places: dict[ItemPath, Place] = {}
        self.notes: list[Note] = []
        self.unused: list[Part] = []
        self.revision = 0
        self._remembered: dict[str, tuple[int, Any]] = {}
        self._scenes: list[weakref.ref[Any]] = []

    def __setattr__(self, name: str, value: Any) -> None:
        if any(name == kind.section for kind in KINDS.values()):
            section: Section[Any] = getattr(self, name)
            editing.replace_section(self, section, value)
            return
        if name.startswith("_") or hasattr(type(self), name) or name in _PLAIN:
            object.__setattr__(self, name, value)
            return
        raise ModelError(f"a robot has no {name!r}")

    def __repr__(self) -> str:
        return f"<Robot {self.name!r}: {len(self.links)} links, {len(self.joints)} joints>"

    # As a whole.

    @property
    def head(self) -> RobotHead:
        """What is said of it as a whole."""
        return self._head

    @property
    def name(self) -> str:
        """Of the robot."""
        return self._head.name

    @name.setter
    def name(self, name: str) -> None:
        self._head.name = name

    @property
    def base(self) -> Base:
        """Whether its root is `"fixed"` to the world or `"floating"`."""
        return self._head.base

    @base.setter
    def base(self, base: Base) -> None:
        self._head.base = base

    @property
    def checks(self) -> CheckSettings:
        """How findings about it are judged."""
        return self._head.checks

    @checks.setter
    def checks(self, checks: CheckSettings) -> None:
        self._head.checks = checks

    def heads(self) -> list[Described]:
        """What refers to its items besides them: itself as a whole, and the scenes it is in."""
        scenes = [scene for reference in self._scenes if (scene := reference()) is not None]
        return [self._head, *(scene.settings for scene in scenes)]

    def in_scene(self, scene: Any) -> None:
        """Let names in a scene follow those of its items."""
        self._scenes.append(weakref.ref(scene))

    def section(self, kind: str) -> Section[Any]:
        """All items of a kind, such as `"link"`.

        Raises:
            ModelError: there is no such kind.
        """
        found: Section[Any] = getattr(self, kind_called(kind).section)
        return found

    # Adding.

    def add(self, kind: str, name: Any, entry: Any, *, context: Context | None = None) -> None:
        """Add an item as a document describes it.

        Args:
            kind: `"link"`, `"joint"`, ..., see `mooring.model.registry`.
            name: a new name; of a coupling the joint that follows.
            entry: the keys of the definition of that kind; of a joint also those of
                `CompoundJoint`, which adds the simple joints it is made of, named after it, such as
                `hip_yaw`, `hip_pitch` and `hip_roll`, with links without mass between them.
            context: what the entry is read with, besides the robot.

        Raises:
            ModelError: the name is taken, something it names is unknown, or a value is wrong.
        """
        adding.add(self, kind_called(kind), name, entry, context or self.context)

    def add_link(
        self, name: str, *, cad: Assembly | None = None, **entry: Unpack[LinkKeywords]
    ) -> None:
        """Add a link.

        Args:
            name: a new name.
            cad: the assembly that its parts are from, to find parts that no link took.
            entry: the fields of `Link`: parts, material, mass, centre, inertia, collision, ...

        Raises:
            ModelError: the name is taken, the material is unknown, or a value is wrong.

        Example:
            `robot.add_link("arm", parts=assembly.pick("arm_*"), material="steel", collision="box")`
        """
        self.add("link", name, said(entry))
        if cad is not None and cad not in self.assemblies:
            self.assemblies.append(cad)

    def add_joint(
        self,
        name: str,
        type: JointTypeName | CompoundType | JointType,
        *,
        parent: str,
        child: str,
        **entry: Unpack[JointKeywords],
    ) -> None:
        """Add a joint.

        Args:
            name: a new name.
            type: `"fixed"`, `"revolute"`, `"continuous"`, `"prismatic"` or `"floating"`; or
                `"cylindrical"`, `"universal"`, `"spherical"`, `"planar"`, as for `add`; or a
                registered `JointType` of another package.
            parent, child: names of links, which may be added later.
            entry: the fields of `Joint`; those of its `Limits` (lower, upper, velocity, effort,
                soft) may stand beside them, as may those of `CompoundJoint`, and `give` of
                `GivingJoint`. `at`
                takes an axis or a frame of the CAD such as `assembly.bore("column", "mast")`, or a
                placement; with an axis from the CAD, `axis` may be left out, or tell which way is
                positive.

        Raises:
            ModelError: the name is taken or a value is not what it should be.

        Example:
            `robot.add_joint("luff", "revolute", parent="mast", child="boom", axis="-y",
            lower=0, upper="60 deg")`
        """
        adding.add_joint(self, name, type, {"parent": parent, "child": child, **said(entry)})

    def add_chain(
        self,
        name: str,
        *,
        base: str,
        convention: Literal["standard", "modified", "screws"],
        rows: Sequence[Mapping[str, Any] | TableRow],
        **entry: Unpack[ChainKeywords],
    ) -> None:
        """Add the joints of an arm from a table of its dimensions.

        Links of the names in the table that are there already are used; others are added empty.

        Args:
            name: of the chain; joints, links and its end are named after it.
            base: the link it begins on.
            convention: what the table means, see `Chain`.
            rows: a joint each, with the fields of `TableRow`.
            entry: the other fields of `Chain`.

        Raises:
            ModelError: a name is taken, the base is unknown, or a value is wrong.

        Example:
            `robot.add_chain("arm", base="post", convention="standard",
            rows=[{"d": "300 mm", "alpha": "90 deg"}, {"a": "250 mm"}])`
        """
        whole = {"base": base, "convention": convention, "rows": rows, **said(entry)}
        adding.add_chain(self, name, whole, self.context)

    def posture(self, name: str) -> Mapping[str, float]:
        """The positions of a posture by joint [rad or m].

        `neutral` every robot has: all joints at zero, unless it names a posture of its own so.

        Raises:
            ModelError: no posture has that name.
        """
        found = self.postures.get(name)
        if found is None and name != NEUTRAL:
            hint = did_you_mean(name, [*self.postures, NEUTRAL])
            raise ModelError(f"no posture is called {name!r}{hint}")
        return found or {}

    def set_collision(self, pattern: str, collision: Any, *, anew: bool = False) -> None:
        """Say what all links of a pattern collide with that nothing was said of yet.

        Rules are followed around what a link is made of: its parts, shapes or visuals.

        Args:
            pattern: as in the shell, e.g. `"*_wheel"`; matched by names of links that have such.
            collision: as of a `Link`.
            anew: whether it replaces what was said before.

        Raises:
            ModelError: no link matches, or a rule cannot be followed.

        Example:
            `robot.set_collision("*", "auto")`
        """
        adding.set_collision(self, pattern, collision, self.context, anew)

    def set_limits(self, pattern: str, **values: Unpack[LimitsKeywords]) -> None:
        """Give values to all moving joints of a pattern that have none of their own.

        A value whose unit does not fit a joint (an angle for one that slides) is left out there;
        the notes tell.

        Args:
            pattern: as in the shell, e.g. `"hip_*"`.
            values: the fields of `JointValues`: lower, upper, velocity, effort, acceleration,
                damping, friction, rotor_inertia.

        Raises:
            ModelError: no joint matches, or a value fits none of them.

        Example:
            `robot.set_limits("*", velocity="90 deg/s", effort="40 N*m", damping=0.5)`
        """
        limits.set_limits(self, pattern, said(values), self.context)

    def allow_overlap(self, first: str, second: str, because: str = "") -> None:
        """Say that links may overlap; nothing then looks for contact between them.

        Args:
            first, second: name patterns of links, as in the shell.
            because: why, for those who read the findings.

        Raises:
            ModelError: no two links match.

        Example:
            `robot.allow_overlap("*_jaw", "clamp_body", "the jaws sit in the body")`
        """
        adding.allow_overlap(self, first, second, because)

    # Other robots.

    def include(
        self,
        other: Robot,
        *,
        prefix: str = "",
        onto: str | None = None,
        at: Where = None,
        mirror: str | None = None,
        joint: str | None = None,
    ) -> None:
        """Add all of another robot, with its geometry shared and not copied.

        Names get the prefix, but for postures, motions and materials: a posture that both have
        moves both.

        Args:
            other: stays as it is.
            prefix: put before the names of its items.
            onto: the link it is fixed to; it may be left out only while this robot has no links.
            at: where its root's frame comes to be, on that link (or in the CAD).
            mirror: `"x"`, `"y"` or `"z"` to include its mirror image across that axis of its root.
            joint: name of the fixed joint; the prefix and `mount` if not given.

        Raises:
            ModelError: a name is taken, the link is unknown, or a material of the same name is
                another; nothing is added then.
            UnsoundRobotError: the other is no tree.

        Example:
            `robot.include(leg, prefix="left_", onto="hull", at=(0.2, 0.15, 0), mirror="y")`
        """
        combining.include(self, other, prefix, onto, at, mirror, joint)

    def attach(
        self,
        other: Robot,
        *,
        at: str,
        mount: str | None = None,
        prefix: str = "",
        joint: str | None = None,
    ) -> None:
        """Add another robot so that a frame of it comes to lie on a frame of this one.

        Two frames that look out of faces meet face to face, with x on x. How the other is turned by
        that is told in the notes.

        Args:
            other: stays as it is.
            at: the frame of this robot.
            mount: the frame of the other; its only frame of role mount if not given.
            prefix, joint: as for `include`.

        Raises:
            ModelError: a frame is unknown, or as for `include`.
            UnsoundRobotError: the other is no tree.

        Example:
            `arm.attach(gripper, at="flange", prefix="gripper_")`
        """
        combining.attach(self, other, at, mount, prefix, joint)

    def branch(self, link: str, name: str | None = None) -> Robot:
        """A link and everything that hangs on it, as a robot of its own.

        What refers only to what is in the branch is taken along; what is left behind is told in its
        notes.

        Args:
            link: the root of the branch.
            name: of the new robot; that of the link if not given.

        Raises:
            ModelError: the link is unknown.
            UnsoundRobotError: the robot is no tree.
        """
        return combining.branch(self, link, name)

    # Made good.

    def weigh(
        self,
        pattern: str = "*",
        *,
        mass: float | str | None = None,
        density: float | str | None = None,
        material: str | None = None,
    ) -> list[str]:
        """Compute the inertia of links anew, from their shapes: what they are made of or show, or
        else what they collide with.

        Args:
            pattern: of links, as in the shell; those that show nothing stay as they are.
            mass, density, material: one of these, or none to spread the mass that each has.

        Returns:
            What was done, a sentence a link.

        Raises:
            ModelError: no link matches, or a value is wrong.

        Example:
            `robot.weigh("*_wheel", density="1100 kg/m^3")`
        """
        return refitting.weigh(self, pattern, mass, density, material)

    def simplify(
        self,
        pattern: str = "*",
        *,
        triangles: int | None = None,
        tolerance: float | str | None = None,
    ) -> list[str]:
        """Give the meshes of links fewer triangles; they are written to files of their own then.

        Args:
            pattern: of links, as in the shell.
            triangles: the most of each mesh.
            tolerance: instead, as few as stay within this distance of the surface as it was.

        Returns:
            What became of each mesh, and how far it is off.

        Raises:
            ModelError: no link matches, or not one of the two is given.

        Example:
            `robot.simplify("*", triangles=2000)`
        """
        return refitting.simplify(self, pattern, triangles, tolerance)

    def set_mesh_unit(self, pattern: str, unit: str) -> list[str]:
        """Say in which unit the meshes of links are, whatever was taken so far.

        Args:
            pattern: of links, as in the shell.
            unit: the length that the number 1 stands for.

        Returns:
            What was done, a sentence a link.

        Raises:
            ModelError: no link with a mesh matches.
            UnitError: it is no length.

        Example:
            `robot.set_mesh_unit("*_jaw", "mm")`
        """
        return refitting.set_mesh_unit(self, pattern, unit)

    def merged(self, pattern: str = "*") -> Robot:
        """The robot in which links that fixed joints hold are part of those that carry them.

        Their shapes, masses and all that refers to them go along; a frame of each one's name stands
        where it was. What was computed or fitted is written out.

        Args:
            pattern: of joints, as in the shell; those that move stay.

        Raises:
            ModelError: no joint matches.
            UnsoundRobotError: the robot is no tree.

        Example:
            `robot.merged("*_mount")`
        """
        return refitting.merged(self, pattern)

    def rerooted(self, link: str) -> Robot:
        """The robot held at another link, with the joints on the way turned round.

        With equal positions all links stand to each other as before, so limits, couplings and
        postures stay what they are. The frames of the links on the way change, and everything on
        them is measured anew.

        Raises:
            ModelError: no link has that name.
            UnsoundRobotError: the robot is no tree.

        Example:
            `robot.rerooted("flange")`
        """
        return refitting.rerooted(self, link)

    # Changing.

    def rename(self, kind: str, old: str, new: str) -> None:
        """Give an item another name; every reference follows.

        Args:
            kind: `"link"`, `"joint"`, `"closure"`, `"spring"`, `"cable"`, `"force"`,
                `"conveyor"`, `"grip"`, `"motor"`, `"sensor"`, `"frame"`,
                `"posture"`, `"motion"` or `"material"`.
            old, new: names.

        Raises:
            ModelError: there is no such item, or the new name is taken.

        Example:
            `robot.rename("link", "boom", "arm")`
        """
        editing.rename(self, kind, old, new)

    def remove(self, kind: str, name: Any, *, with_dependents: bool = False) -> list[Item]:
        """Take an item away.

        Args:
            kind: as for `rename`; also `"coupling"` and `"allowance"`.
            name: of the item.
            with_dependents: take away what refers to it as well: with a joint the link it carries,
                with a link its joints, with a joint its motor and its place in postures.

        Returns:
            What was taken away, as kinds and names.

        Raises:
            ModelError: there is no such item, or something refers to it; the message lists what.

        Example:
            `robot.remove("link", "jib", with_dependents=True)`
        """
        return editing.remove(self, kind, name, with_dependents)

    # Reading.

    def read_positions(self, what: str, positions: Mapping[str, float | str]) -> dict[str, float]:
        """Positions by joint name in SI, from numbers or strings with units.

        Args:
            what: how messages call them.
            positions: by joint.

        Raises:
            ModelError: a joint is unknown or does not move, or a value is wrong.
        """
        read = read_item(KINDS["posture"], what, positions, self.context, {})
        return dict(read)

    def read_motion(
        self, what: str, steps: Sequence[Mapping[str, Any] | MotionStep]
    ) -> tuple[MotionStep, ...]:
        """Steps of a motion, checked.

        Args:
            what: how messages call it.
            steps: each a `MotionStep` or its fields.

        Raises:
            ModelError: something a step names is unknown, or a value is wrong.
        """
        kind = KINDS["motion"]
        read: tuple[MotionStep, ...] = read_item(kind, what, steps, self.context, {})
        problems = list(problems_of_item(self, kind, what, read))
        if problems:
            raise EntryError(what, problems)
        return read

    # What follows from the description.

    @property
    def coordinates(self) -> list[str]:
        """Names of the moving joints, in the order of q.

        Raises:
            UnsoundRobotError: the robot is no tree.
        """
        return list(self.tree().coordinates)

    def tree(self) -> Tree:
        """The robot compiled to arrays, which are not to be written into.

        Raises:
            UnsoundRobotError: the robot is no tree; the message says why.
        """
        from mooring.model.compiling import compile_tree

        return self.remembered("tree", lambda: compile_tree(self))

    def write(
        self,
        file: str | PathLike[str],
        *,
        posture: str | Mapping[str, float | str] | None = None,
        copy_meshes: bool = False,
    ) -> list[str]:
        """Write the robot in the format of the file's suffix.

        Args:
            file: .urdf; .yaml (a document for people); .json (resolved, for programs); .dot or .svg
                (the tree, drawn); .glb, .stl, .obj or .ply (its geometry).
            posture: for geometry, how it stands: a posture's name, or positions by joint.
            copy_meshes: whether mesh files it was read with are copied to a folder beside the file,
                and not named where they are.

        Returns:
            What the format could not carry, a sentence each.

        Raises:
            InputError: the suffix is of no format that can be written.
            ModelError: no such posture or joint.
            UnsoundRobotError: the robot is no tree.
        """
        return outlet.write(self, pathlib.Path(file), posture, copy_meshes)

    def show(
        self,
        posture: str | Mapping[str, float | str] | None = None,
        *,
        recording: Recording | None = None,
        height: int = 560,
    ) -> outlet.View:
        """The robot in three dimensions in a notebook's cell, to turn, jog or play.

        Everything is in the cell: it needs no server and no network, and stays in the notebook when
        that is saved. Outside a notebook, `robot.show().save("robot.html")` writes the same.

        Args:
            posture: how it stands at first, by name or positions by joint; neutral if not given.
            recording: a run of the robot, which plays there.
            height: of the cell [px].

        Raises:
            ModelError: no such posture or joint, or the recording is of another robot.
            UnsoundRobotError: the robot is no tree.

        Example:
            `tender.show(recording=mooring.simulate(tender, motion="lay_line"))`
        """
        return outlet.view(self, posture=posture, recording=recording, ground=None, height=height)

    def link_frames(self) -> dict[str, Array]:
        """Each link's frame in CAD coordinates with every joint at zero, (4, 4) by name.

        Raises:
            UnsoundRobotError: the robot is no tree.
        """
        return dict(zip(self.tree().links, self.tree().neutral_frames, strict=True))

    def inertia(self, link: str, frame: Array | None = None) -> Inertia | None:
        """Mass properties of a link in its own coordinates; None where something is not known.

        Args:
            link: its name.
            frame: the link's frame in CAD coordinates, (4, 4), for a robot that is no tree (yet).

        Raises:
            ModelError: no link has that name.
            UnsoundRobotError: the robot is no tree, and no frame is given.
        """
        if link not in self.links:
            raise ModelError(f"no link is called {link!r}{did_you_mean(link, list(self.links))}")
        if frame is not None:
            return self.links[link].mass_properties(frame, self.materials)
        tree = self.tree()
        place = tree.neutral_frames[tree.link(link)]
        return self.remembered(
            f"inertia of {link}", lambda: self.links[link].mass_properties(place, self.materials)
        )

    def mass(self) -> float:
        """Total mass of the links whose mass is known [kg]."""
        from mooring.model.mass import total_mass

        return total_mass(self.links.values(), self.materials)

    @property
    def collision_table(self) -> pd.DataFrame:
        """How well the fitted collision shapes fit, a row for each rule of each link.

        Columns: link, rule (for auto the one chosen), shapes, excess (their volume over that of
        the parts' convex hull, less one), overhang [m].
        """
        return collision_table(self.links)

    def leftover_parts(self) -> list[Part]:
        """The parts of the robot's assemblies that no link took, in the order of the assemblies."""
        taken = {id(part) for link in self.links.values() for part in link.parts}
        own = [p for cad in self.assemblies for p in cad.parts if id(p) not in taken]
        return own + self.unused

    def place(self, item: ItemPath) -> Place | None:
        """Where an item, or the nearest thing it is part of, was written; None where nowhere.

        Args:
            item: section, name and keys below it, such as `("joints", "slew", "limits")`.
        """
        for length in range(len(item), -1, -1):
            if item[:length] in self.places:
                return self.places[item[:length]]
        return None

    def remembered(self, what: str, make: Callable[[], Made]) -> Made:
        """Something that follows from the robot, made once for as long as nothing changes.

        Args:
            what: a name of its own.
            make: makes it.
        """
        revision = self.revision
        found = self._remembered.get(what)
        if found is None or found[0] != revision:
            found = (revision, make())
            self._remembered[what] = found
        made: Made = found[1]
        return made

    # What its items ask, and tell, it.

    @property
    def context(self) -> Context:
        """What values of its items are read with."""
        return Context(self)

    def refuse_unfit(self, old: Described, new: Described) -> None:
        """Refuse a change of one of its items that does not fit the rest.

        Args:
            old: the item, or what is said of the robot as a whole, which fits whatever it says.
            new: what it is to be.

        Raises:
            ModelError: what does not fit.
        """
        if old is not self._head:
            fitting.refuse_change(self, old, new)

    def note_change(self) -> None:
        """Something has changed: what was made of it counts no more."""
        self.revision += 1
        self._remembered.clear()


_PLAIN = ("assemblies", "places", "notes", "unused", "revision")
