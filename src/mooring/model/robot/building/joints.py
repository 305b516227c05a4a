"""Adding joints, chains of them, and what ties them together."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from mooring.cad import Axis
from mooring.errors import ModelError, did_you_mean
from mooring.model.chain import Chain
from mooring.model.compound import COMPOUND_TYPES, CompoundJoint, freedoms
from mooring.model.frame import LinkFrame
from mooring.model.joint import Closure, Coupling, Joint
from mooring.model.link import Link
from mooring.model.placement import Placement, Where
from mooring.model.robot.contents import Contents
from mooring.model.robot.values import axis_on
from mooring.model.validation import EntryError, define


class Joints(Contents):
    """Connections; see `Robot`."""

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
