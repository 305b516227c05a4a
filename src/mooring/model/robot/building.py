"""Building a robot item by item.

Every `add_...` method has a twin `describe_...` that takes a mapping, as a document holds it.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from fnmatch import fnmatchcase
from typing import Any

from mooring.cad import Assembly, Axis, Part
from mooring.errors import ModelError, did_you_mean
from mooring.model.chain import Chain
from mooring.model.collision import CollisionWords, chosen_parts, read_collision
from mooring.model.compound import COMPOUND_TYPES, CompoundJoint, freedoms
from mooring.model.drive import MotionStep, Motor
from mooring.model.fields import Motion
from mooring.model.frame import LinkFrame
from mooring.model.joint import Closure, Coupling, Joint
from mooring.model.link import Link
from mooring.model.mass import PointMass
from mooring.model.material import COMMON_DENSITIES, Material, common_material
from mooring.model.placement import Placement, Where
from mooring.model.robot.contents import Contents
from mooring.model.robot.values import axis_on, given_inertia, read_value
from mooring.model.sensor import SENSOR_KINDS
from mooring.model.shapes import PlacedShape
from mooring.model.validation import EntryError, Path, define


class Building(Contents):
    """Adding items; see `Robot`."""

    def add_material(self, name: str, *, density: float | str, color: str | None = None) -> None:
        """Add a material, or give a name of the built-in table another density.

        Raises:
            ModelError: the name is taken, or a value is not what it should be.
        """
        self.describe_material(name, {"density": density, "color": color})

    def describe_material(self, name: str, entry: Mapping[str, Any]) -> None:
        """Add a material from a mapping with the keys of `Material`, as in a document."""
        self._free("material", name, self.materials)
        self.materials[name] = define(Material, f"material {name!r}", entry, name=name)

    def add_link(
        self,
        name: str,
        *,
        parts: Sequence[Part] = (),
        cad: Assembly | None = None,
        material: str | None = None,
        mass: float | str | None = None,
        centre: Sequence[float | str] | None = None,
        inertia: Sequence[float | str] | None = None,
        density: float | str | None = None,
        part_materials: Mapping[str, str] | None = None,
        points: Sequence[Mapping[str, Any] | PointMass] = (),
        assumed: bool = False,
        collision: CollisionWords | Sequence[CollisionWords] | None = None,
        visuals: Sequence[PlacedShape] = (),
    ) -> None:
        """Add a link.

        Args:
            name: a new name.
            parts: the CAD parts that move together as this link.
            cad: the assembly they come from; parts of it that no link takes are then found by
                `mooring.check`.
            material: of the parts; without it each keeps the material its CAD file states.
            mass: as weighed; with parts it scales what their geometry gives.
            centre: the centre of mass in link coordinates [m], for a link whose mass properties are
                given instead of computed.
            inertia: about the centre of mass, in link axes [kg m^2]: three principal moments, or
                ixx, iyy, izz, ixy, ixz, iyz.
            density: of the parts, instead of a material.
            part_materials: materials of single parts, by name pattern; these come first.
            points: masses to add, each with `mass` and `at` in link coordinates.
            assumed: whether the mass is nothing but a guess, to be told wherever it is shown.
            collision: a rule for fitting shapes around the parts (`"box"`, `"cylinder"`,
                `"capsule"`, `"sphere"`, `"hull"`, `"pieces"`, `"mesh"`, `"auto"`, `"none"`), a
                mapping with the keys of `CollisionRule`, a shape, or a list of such.
            visuals: shapes to draw besides the parts.

        Raises:
            ModelError: the name is taken, the material is unknown, or a value is wrong.
        """
        self._free("link", name, self.links)
        what = f"link {name!r}"
        self._know_material(what, ("material",), material)
        for pattern, other in (part_materials or {}).items():
            self._know_material(what, ("part_materials", pattern), other)
        if material is not None and density is not None:
            raise EntryError(what, [(("density",), "give either a material or a density")])
        weighed = None if mass is None else read_value(what, "mass", mass, "mass")
        if weighed is not None and weighed <= 0:
            raise EntryError(what, [(("mass",), f"the mass must be greater than zero, got {mass}")])
        given = given_inertia(what, weighed, centre, inertia)
        link = Link(
            name,
            parts=tuple(parts),
            material=material,
            weighed=None if given else weighed,
            given_inertia=given,
            extra_visuals=list(visuals),
            density=None if density is None else read_value(what, "density", density, "density"),
            part_materials=tuple((part_materials or {}).items()),
            points=_read_points(what, points),
            assumed=assumed,
        )
        if collision is not None:
            _say_collision(what, link, collision)
        if cad is not None and cad not in self.assemblies:
            self.assemblies.append(cad)
        self.links[name] = link

    def _know_material(self, what: str, path: Path, name: str | None) -> None:
        if name is None or name in self.materials or common_material(name) is not None:
            return
        known = [*self.materials, *COMMON_DENSITIES]
        raise EntryError(what, [(path, f"unknown material {name!r}{did_you_mean(name, known)}")])

    def set_collision(
        self, pattern: str, collision: CollisionWords | Sequence[CollisionWords]
    ) -> None:
        """Say what all links of a pattern collide with that nothing was said of yet.

        Args:
            pattern: as in the shell, e.g. `"*_wheel"`; matched by names of links with parts.
            collision: as for `add_link`.

        Raises:
            ModelError: no link matches, or a rule cannot be followed.

        Example:
            `robot.set_collision("*", "auto")`
        """
        named = [link for name, link in self.links.items() if fnmatchcase(name, pattern)]
        if not named:
            raise ModelError(
                f"no link matches {pattern!r}{did_you_mean(pattern, list(self.links))}"
            )
        for link in named:
            if link.collision_rules is None and not link.given_collisions and link.parts:
                _say_collision(f"link {link.name!r}", link, collision)

    def add_joint(
        self,
        name: str,
        type: str,
        *,
        parent: str,
        child: str,
        at: Where = None,
        axis: str | Sequence[float] | None = None,
        lower: float | str | None = None,
        upper: float | str | None = None,
        velocity: float | str | None = None,
        effort: float | str | None = None,
        damping: float | str = 0.0,
        friction: float | str = 0.0,
    ) -> None:
        """Add a joint.

        Args:
            name: a new name.
            type: `"fixed"`, `"revolute"`, `"continuous"` or `"prismatic"`.
            parent, child: names of links, which may be added later.
            at: where it is: an axis from the CAD such as `assembly.bore("column", "mast")`, a frame
                of the CAD such as `assembly.centre("drum")`, or a placement
                `{"xyz": [...], "rpy": [...], "relative_to": "link" or "cad"}`. By default the
                frame of the parent link.
            axis: direction of positive motion in the joint's frame: `"x"`, `"-y"`, three numbers.
                With an axis from the CAD it may be left out, or tell which way is positive.
            lower, upper, velocity, effort: limits.
            damping: effort per velocity against the motion.
            friction: dry friction effort against the motion.

        Raises:
            ModelError: the name is taken or a value is not what it should be.
        """
        entry = {
            "type": type, "parent": parent, "child": child, "at": at, "axis": axis,
            "limits": {"lower": lower, "upper": upper, "velocity": velocity, "effort": effort},
            "damping": damping, "friction": friction,
        }  # fmt: skip
        self.describe_joint(name, {key: value for key, value in entry.items() if value is not None})

    def describe_joint(self, name: str, entry: Mapping[str, Any]) -> None:
        """Add a joint from a mapping with the keys of `Joint`, as in a document.

        One with the keys of `CompoundJoint` adds the simple joints it is made of, named after it,
        such as `hip_yaw`, `hip_pitch` and `hip_roll`, with links without mass between them.
        """
        self._free("joint", name, self.joints)
        what = f"joint {name!r}"
        entry = dict(entry)
        if entry.get("type") in COMPOUND_TYPES:
            self._describe_compound(name, what, entry)
            return
        at = entry.get("at")
        if isinstance(at, Axis):
            entry["axis"] = axis_on(what, at, entry.get("axis"))
        self.joints[name] = define(Joint, what, entry, name=name)

    def _describe_compound(self, name: str, what: str, entry: dict[str, Any]) -> None:
        if isinstance(entry.get("at"), Axis) and entry["type"] != "spherical":
            entry["axis"] = axis_on(what, entry["at"], entry.get("axis"))
        joint = define(CompoundJoint, what, entry)
        chain = freedoms(joint)
        made: list[Joint] = []
        link, place = joint.parent, joint.at
        for number, freedom in enumerate(chain, start=1):
            child = joint.child if number == len(chain) else f"{name}_{freedom.name}_carrier"
            said = freedom.said.model_dump(exclude_none=True)
            turning = "revolute" if freedom.said.limits else "continuous"
            simple = {
                "type": "prismatic" if freedom.slides else turning,
                "parent": link, "child": child, "at": place, "axis": freedom.axis, **said,
            }  # fmt: skip
            try:
                made.append(define(Joint, what, simple, name=f"{name}_{freedom.name}"))
            except EntryError as error:
                problems = [((freedom.name, *path), text) for path, text in error.problems]
                raise EntryError(what, problems) from None
            link, place = child, Placement()
        for simple_joint in made:
            self._free("joint", simple_joint.name, self.joints)
            if simple_joint.child != joint.child:
                self._free("link", simple_joint.child, self.links)
        for simple_joint in made:
            self.joints[simple_joint.name] = simple_joint
            if simple_joint.child != joint.child:
                self.links[simple_joint.child] = Link(simple_joint.child, carrier=True)

    def add_chain(
        self,
        name: str,
        *,
        base: str,
        convention: str,
        rows: Sequence[Mapping[str, Any]],
        at: Where = None,
        end: Where = None,
        frame: str | None = None,
    ) -> None:
        """Add the joints of an arm from a table of its dimensions.

        Links of the names in the table that are there already are used; others are added empty.

        Args:
            name: of the chain; joints, links and its end are named after it.
            base: the link it begins on.
            convention: `"standard"` or `"modified"` Denavit-Hartenberg parameters, or `"screws"`.
            rows: a joint each, with the keys of `TableRow`.
            at: where the table's base frame is on the base; its own frame by default.
            end: for screws, the end frame at zero in base coordinates.
            frame: name of the frame at the end.

        Raises:
            ModelError: a name is taken, the base is unknown, or a value is wrong.

        Example:
            `robot.add_chain("arm", base="post", convention="standard",
            rows=[{"d": "300 mm", "alpha": "90 deg"}, {"a": "250 mm"}])`
        """
        entry = {
            "base": base, "convention": convention, "rows": list(rows), "at": at, "end": end,
            "frame": frame,
        }  # fmt: skip
        self.describe_chain(name, {key: value for key, value in entry.items() if value is not None})

    def describe_chain(self, name: str, entry: Mapping[str, Any]) -> None:
        """Add a chain from a mapping with the keys of `Chain`, as in a document."""
        what = f"chain {name!r}"
        chain = define(Chain, what, entry, name=name)
        if chain.base not in self.links:
            hint = did_you_mean(chain.base, list(self.links))
            raise EntryError(what, [(("base",), f"no link is called {chain.base!r}{hint}")])
        steps, end = chain.placements()
        names = chain.names()
        made: list[Joint] = []
        parent = chain.base
        for number, (row, (joint, link), (place, axis)) in enumerate(
            zip(chain.rows, names, steps, strict=True)
        ):
            self._free("joint", joint, self.joints)
            where = Placement(place)
            if parent == chain.base:
                where = Placement(chain.at.matrix @ place, chain.at.relative_to)
            simple = {
                "type": row.type, "parent": parent, "child": link, "at": where, "axis": axis,
                "damping": row.damping, "friction": row.friction,
            }  # fmt: skip
            if row.limits is not None:
                simple["limits"] = row.limits
            try:
                made.append(define(Joint, what, simple, name=joint))
            except EntryError as error:
                problems = [(("rows", number, *path), text) for path, text in error.problems]
                raise EntryError(what, problems) from None
            parent = link
        tool = chain.frame or f"{name}_end"
        self._free("frame", tool, self.frames)
        for new in made:
            self.joints[new.name] = new
            self.links.setdefault(new.child, Link(new.child))
        self.frames[tool] = LinkFrame(name=tool, link=parent, role="tool", at=Placement(end))

    def add_coupling(
        self, joint: str, *, follows: str, ratio: float = 1.0, offset: float | str = 0.0
    ) -> None:
        """Make a joint follow another: position = ratio * followed position + offset.

        Raises:
            ModelError: a joint is unknown, follows two others, or a value is wrong.
        """
        self.describe_coupling(joint, {"follows": follows, "ratio": ratio, "offset": offset})

    def describe_coupling(self, joint: str, entry: Mapping[str, Any]) -> None:
        """Add a coupling from a mapping with the keys of `Coupling`, as in a document."""
        what = f"coupling of {joint!r}"
        if joint in self.couplings:
            raise ModelError(f"{what}: the joint already follows {self.couplings[joint].follows!r}")
        motion = self._motion_of(joint, what, ())
        coupling = define(Coupling, what, entry, joint=joint, motion=motion)
        self._motion_of(coupling.follows, what, ("follows",))
        leader = coupling.follows
        while leader in self.couplings:
            leader = self.couplings[leader].follows
        if leader == joint:
            raise EntryError(what, [(("follows",), f"{joint!r} would follow itself")])
        self.couplings[joint] = coupling

    def add_closure(
        self,
        name: str,
        kind: str,
        *,
        between: tuple[str, str],
        at: Where = None,
        axis: str | Sequence[float] | None = None,
    ) -> None:
        """Close a loop between two links that meet at a place in the neutral posture.

        Args:
            name: a new name.
            kind: `"ball"`, `"hinge"`, `"slide"` or `"weld"`.
            between: the two links.
            at: an axis from the CAD, or a placement on the first link (or in the CAD).
            axis: of the hinge or slide, in the frame of `at`.

        Raises:
            ModelError: the name is taken, a link is unknown or a value is wrong.
        """
        entry = {"kind": kind, "between": between, "at": at, "axis": axis}
        self.describe_closure(
            name, {key: value for key, value in entry.items() if value is not None}
        )

    def describe_closure(self, name: str, entry: Mapping[str, Any]) -> None:
        """Add a closure from a mapping with the keys of `Closure`, as in a document."""
        self._free("closure", name, self.closures)
        what = f"closure {name!r}"
        entry = dict(entry)
        if isinstance(entry.get("at"), Axis):
            entry["axis"] = axis_on(what, entry["at"], entry.get("axis"))
        closure = define(Closure, what, entry, name=name)
        for link in closure.between:
            if link not in self.links:
                hint = did_you_mean(link, list(self.links))
                raise EntryError(what, [(("between",), f"no link is called {link!r}{hint}")])
        self.closures[name] = closure

    def add_motor(
        self,
        name: str,
        *,
        joint: str,
        p: float | str,
        d: float | str = 0.0,
        mode: str = "position",
    ) -> None:
        """Drive a joint towards a target position.

        Args:
            name: a new name.
            joint: the joint it drives; its effort limit is where the motor saturates.
            p: effort per position error, e.g. `"9 kN*m/rad"`.
            d: effort per velocity error, e.g. `"900 N*m*s/rad"`.
            mode: `"position"`.

        Raises:
            ModelError: the name is taken, the joint is unknown or driven already, a value is wrong.
        """
        self.describe_motor(name, {"joint": joint, "p": p, "d": d, "mode": mode})

    def describe_motor(self, name: str, entry: Mapping[str, Any]) -> None:
        """Add a motor from a mapping with the keys of `Motor`, as in a document."""
        self._free("motor", name, self.motors)
        what = f"motor {name!r}"
        motion: Motion = "rotation"
        if isinstance(entry.get("joint"), str):
            motion = self._motion_of(entry["joint"], what, ("joint",))
        motor = define(Motor, what, entry, name=name, motion=motion)
        for other in self.motors.values():
            if other.joint == motor.joint:
                text = f"joint {motor.joint!r} is already driven by {other.name!r}"
                raise EntryError(what, [(("joint",), text)])
        self.motors[name] = motor

    def add_frame(
        self,
        name: str,
        *,
        link: str,
        at: Where = None,
        role: str = "plain",
    ) -> None:
        """Fix a frame to a link.

        Args:
            name: a new name.
            link: the link it moves with.
            at: where it is on the link (or in the CAD); by default the link's own frame.
            role: `"plain"`, `"tool"`, `"mount"` or `"sensor"`.

        Raises:
            ModelError: the name is taken, the link is unknown, or a value is wrong.

        Example:
            `robot.add_frame("grip", link="clamp", at=(0, 0, "140 mm"), role="tool")`
        """
        entry = {"link": link, "role": role}
        self.describe_frame(name, entry if at is None else {**entry, "at": at})

    def describe_frame(self, name: str, entry: Mapping[str, Any]) -> None:
        """Add a frame from a mapping with the keys of `LinkFrame`, as in a document."""
        self._free("frame", name, self.frames)
        what = f"frame {name!r}"
        frame = define(LinkFrame, what, entry, name=name)
        if frame.link not in self.links:
            hint = did_you_mean(frame.link, list(self.links))
            raise EntryError(what, [(("link",), f"no link is called {frame.link!r}{hint}")])
        self.frames[name] = frame

    def add_sensor(self, name: str, kind: str, **entry: Any) -> None:
        """Add a sensor.

        Args:
            name: a new name.
            kind: `"imu"`, `"encoder"`, `"force_torque"`, `"contact"`, `"range_scanner"` or
                `"camera"`.
            entry: the keys of that kind, see `mooring.model.sensor`.

        Raises:
            ModelError: the name is taken, a link, frame or joint is unknown, or a value is wrong.

        Example:
            `robot.add_sensor("tip_imu", "imu", link="boom", rate="200 Hz")`
        """
        self.describe_sensor(name, {"kind": kind, **entry})

    def describe_sensor(self, name: str, entry: Mapping[str, Any]) -> None:
        """Add a sensor from a mapping with a kind and the keys of that kind, as in a document."""
        self._free("sensor", name, self.sensors)
        what = f"sensor {name!r}"
        kind = entry.get("kind")
        if kind not in SENSOR_KINDS:
            hint = did_you_mean(str(kind), list(SENSOR_KINDS))
            raise EntryError(what, [(("kind",), f"unknown kind of sensor {kind!r}{hint}")])
        sensor = define(SENSOR_KINDS[str(kind)], what, entry, name=name)
        for key, names, known in (
            ("link", sensor.links(), self.links),
            ("frame", sensor.frames(), self.frames),
            ("joint", sensor.joints(), self.joints),
        ):
            for other in names:
                if other not in known:
                    hint = did_you_mean(other, list(known))
                    raise EntryError(what, [((key,), f"no {key} is called {other!r}{hint}")])
        self.sensors[name] = sensor

    def add_posture(self, name: str, positions: Mapping[str, float | str]) -> None:
        """Name a posture: positions by joint; joints not named are at zero.

        Joints that follow others or are moved by a loop need not be named.

        Raises:
            ModelError: the name is taken, a joint is unknown, or a value is wrong.
        """
        self._free("posture", name, self.postures)
        self.postures[name] = self.read_positions(f"posture {name!r}", positions)

    def add_motion(self, name: str, steps: Iterable[Mapping[str, Any] | MotionStep]) -> None:
        """Name a motion: a sequence of steps from posture to posture.

        Args:
            name: a new name.
            steps: each with `to` (a posture), `over` (a duration) and `hold` (a duration).

        Raises:
            ModelError: the name is taken, a posture is unknown, or a value is wrong.
        """
        self._free("motion", name, self.motions)
        what = f"motion {name!r}"
        made = []
        for number, step in enumerate(steps):
            try:
                entry = step.model_dump() if isinstance(step, MotionStep) else step
                made.append(define(MotionStep, what, entry))
            except EntryError as error:
                problems = [((number, *path), text) for path, text in error.problems]
                raise EntryError(what, problems) from None
            to = made[-1].to
            if to is not None and to not in self.postures:
                hint = did_you_mean(to, list(self.postures))
                raise EntryError(what, [((number, "to"), f"no posture is called {to!r}{hint}")])
        if not made:
            raise EntryError(what, [((), "a motion needs at least one step")])
        self.motions[name] = tuple(made)


def _read_points(
    what: str, points: Sequence[Mapping[str, Any] | PointMass]
) -> tuple[PointMass, ...]:
    made = []
    for number, point in enumerate(points):
        try:
            entry = point.model_dump() if isinstance(point, PointMass) else point
            made.append(define(PointMass, what, entry))
        except EntryError as error:
            problems = [(("points", number, *path), text) for path, text in error.problems]
            raise EntryError(what, problems) from None
    return tuple(made)


def _say_collision(
    what: str, link: Link, collision: CollisionWords | Sequence[CollisionWords]
) -> None:
    try:
        rules, shapes = read_collision(collision)
        for rule in rules:
            chosen_parts(rule, link.parts)
    except EntryError as error:
        problems = [(("collision", *path), text) for path, text in error.problems]
        raise EntryError(what, problems) from None
    except ModelError as error:
        raise EntryError(what, [(("collision",), str(error))]) from None
    link.collision_rules, link.given_collisions = rules, shapes
