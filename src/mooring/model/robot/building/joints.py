"""Adding joints and chains of them."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from mooring.cad import Axis
from mooring.errors import did_you_mean
from mooring.model.chain import Chain
from mooring.model.compound import COMPOUND_TYPES, CompoundJoint, freedoms
from mooring.model.frame import LinkFrame
from mooring.model.joint import Joint
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
        stiffness: float | str = 0.0,
        rest: float | str = 0.0,
        rotor_inertia: float | str = 0.0,
        soft: Mapping[str, float | str] | None = None,
    ) -> None:
        """Add a joint.

        Args:
            name: a new name.
            type: `"fixed"`, `"revolute"`, `"continuous"`, `"prismatic"` or `"floating"`.
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
            stiffness, rest: of a spring, and the position it pulls to.
            rotor_inertia: what the drive adds to the inertia that the joint moves.
            soft: limits that a controller keeps, with the keys of `SoftLimits`.

        Raises:
            ModelError: the name is taken or a value is not what it should be.
        """
        entry = {
            "type": type, "parent": parent, "child": child, "at": at, "axis": axis,
            "limits": {
                "lower": lower, "upper": upper, "velocity": velocity, "effort": effort,
                "soft": soft,
            },
            "damping": damping, "friction": friction, "stiffness": stiffness, "rest": rest,
            "rotor_inertia": rotor_inertia,
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
                raise error.inside(freedom.name, what=what) from None
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
                raise error.inside("rows", number, what=what) from None
            parent = link
        tool = chain.frame or f"{name}_end"
        self._free("frame", tool, self.frames)
        for new in made:
            self.joints[new.name] = new
            self.links.setdefault(new.child, Link(new.child))
        self.frames[tool] = LinkFrame(name=tool, link=parent, role="tool", at=Placement(end))
