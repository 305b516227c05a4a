"""Adding items to a robot, one or several for one entry."""

from __future__ import annotations

from collections.abc import Mapping
from fnmatch import fnmatchcase
from typing import TYPE_CHECKING, Any

from mooring.errors import ModelError, Problem, did_you_mean
from mooring.model.chain import Chain
from mooring.model.compound_joint import COMPOUND_TYPES, CompoundJoint, freedoms
from mooring.model.definition.context import Context
from mooring.model.definition.problems import EntryError, define
from mooring.model.definition.walking import fields_of
from mooring.model.frame import LinkFrame
from mooring.model.giving_joint import GivingJoint, flexures
from mooring.model.joint import Joint, Limits
from mooring.model.joint_types import JointType
from mooring.model.link import Link
from mooring.model.note import Note
from mooring.model.placement import Placement
from mooring.model.registry import KINDS, Kind
from mooring.model.robot.fitting import refuse_item
from mooring.model.robot.references import matching
from mooring.model.robot.section import read_item

if TYPE_CHECKING:
    from mooring.model.robot.robot import Robot


def add(robot: Robot, kind: Kind, name: Any, entry: Any, context: Context) -> None:
    """Add an item; see `Robot.add`."""
    section = robot.section(kind.name)
    section.refuse_taken(name)
    if kind.name == "joint" and isinstance(entry, Mapping) and entry.get("type") in COMPOUND_TYPES:
        _add_compound(robot, name, dict(entry), context)
        return
    if kind.name == "joint" and isinstance(entry, Mapping) and "give" in entry:
        _add_giving(robot, name, dict(entry), context)
        return
    item = read_item(kind, kind.called(name), entry, context, {kind.key_field: name})
    refuse_item(robot, kind, name, item)
    section.put(name, item)
    robot.note_change()


def said(entry: Mapping[str, Any]) -> dict[str, Any]:
    """What was said in a call; None says nothing."""
    return {key: value for key, value in entry.items() if value is not None}


def add_joint(robot: Robot, name: str, type: str | JointType, entry: Mapping[str, Any]) -> None:
    """Add a joint whose limits may stand beside its other fields; see `Robot.add_joint`."""
    beside = fields_of(Limits)
    own = {**fields_of(GivingJoint), **fields_of(CompoundJoint)}
    for key in entry:
        if key not in beside and key not in own:
            text = f"unknown key {key!r}{did_you_mean(key, [*own, *beside])}"
            raise EntryError(f"joint {name!r}", [Problem(text, (), "unknown-key")])
    own_fields = dict(entry)
    limits = {key: own_fields.pop(key) for key in entry if key in beside}
    if limits:
        if "limits" in own_fields:
            raise EntryError(
                f"joint {name!r}", [(("limits",), f"give either limits or {', '.join(limits)}")]
            )
        own_fields["limits"] = limits
    word = type.name if isinstance(type, JointType) else type
    robot.add("joint", name, {"type": word, **own_fields})


def _add_compound(robot: Robot, name: str, entry: dict[str, Any], context: Context) -> None:
    """The simple joints of a joint of several freedoms, with links without mass between them."""
    what = f"joint {name!r}"
    joint = define(CompoundJoint, what, entry, context)
    chain = freedoms(joint)
    joints: dict[str, Joint] = {}
    links: dict[str, Link] = {}
    link, place = joint.parent, joint.at
    for number, freedom in enumerate(chain, start=1):
        child = joint.child
        if number < len(chain):
            child = f"{name}_{freedom.name}_carrier"
            links[child] = Link(name=child, carrier=True)
        said = freedom.said.model_dump(exclude_none=True)
        turning = "revolute" if freedom.said.limits else "continuous"
        simple = {
            "type": "prismatic" if freedom.slides else turning,
            "parent": link, "child": child, "at": place, "axis": freedom.axis, **said,
        }  # fmt: skip
        own = f"{name}_{freedom.name}"
        try:
            joints[own] = define(Joint, what, simple, context, name=own)
        except EntryError as error:
            raise error.inside(freedom.name, what=what) from None
        link, place = child, Placement()
    _put_all(robot, joints, links)


def _add_giving(robot: Robot, name: str, entry: dict[str, Any], context: Context) -> None:
    """A joint that gives: simple joints with springs or play, and then itself."""
    what = f"joint {name!r}"
    joint = define(GivingJoint, what, entry, context, name=name)
    joints: dict[str, Joint] = {}
    links: dict[str, Link] = {}
    link, place = joint.parent, joint.at
    for flexure in flexures(joint):
        child = f"{name}_{flexure.name}_carrier"
        links[child] = Link(name=child, carrier=True)
        turning = "revolute" if "limits" in flexure.entry else "continuous"
        simple = {
            "type": "prismatic" if flexure.slides else turning,
            "parent": link, "child": child, "at": place, "axis": flexure.axis, **flexure.entry,
        }  # fmt: skip
        own = f"{name}_{flexure.name}"
        joints[own] = define(Joint, what, simple, context, name=own)
        link, place = child, Placement()
    given = {key: value for key, value in entry.items() if key != "give"}
    itself = given | {"parent": link, "at": Placement(), "axis": joint.axis}
    joints[name] = define(Joint, what, itself, context, name=name)
    _put_all(robot, joints, links)


def add_chain(robot: Robot, name: str, entry: Mapping[str, Any], context: Context) -> None:
    """Add the joints of a table; see `Robot.add_chain`."""
    what = f"chain {name!r}"
    chain = define(Chain, what, entry, context, name=name)
    if chain.base not in robot.links:
        hint = did_you_mean(chain.base, list(robot.links))
        raise EntryError(what, [(("base",), f"no link is called {chain.base!r}{hint}")])
    steps, end = chain.placements()
    joints: dict[str, Joint] = {}
    parent = chain.base
    for number, (row, (joint, link), (place, axis)) in enumerate(
        zip(chain.rows, chain.names(), steps, strict=True)
    ):
        where = Placement(place)
        if number == 0:
            where = Placement(chain.at.matrix @ place, chain.at.relative_to)
        simple = {
            "type": row.type, "parent": parent, "child": link, "at": where, "axis": axis,
            "damping": row.damping, "friction": row.friction,
        }  # fmt: skip
        if row.limits is not None:
            simple["limits"] = dict(row.limits)
        try:
            if joint in joints:
                raise EntryError(what, [(("joint",), f"the table has {joint!r} twice")])
            _refuse_taken(robot, what, joint)
            joints[joint] = define(Joint, what, simple, context, name=joint)
        except EntryError as error:
            raise error.inside("rows", number, what=what) from None
        parent = link
    tool = chain.frame or f"{name}_end"
    robot.frames.refuse_taken(tool)
    new = {j.child: Link(name=j.child) for j in joints.values() if j.child not in robot.links}
    _put_all(robot, joints, new)
    frame = LinkFrame(name=tool, link=parent, role="tool", at=Placement(end))
    robot.frames.put(tool, frame)
    robot.note_change()


def _refuse_taken(robot: Robot, what: str, joint: str) -> None:
    """Refuse a row's joint if there is one called so; a link that is there already will do."""
    try:
        robot.joints.refuse_taken(joint)
    except ModelError as error:
        raise EntryError(what, [(("joint",), str(error))]) from None


def _put_all(robot: Robot, joints: Mapping[str, Joint], links: Mapping[str, Link]) -> None:
    """All of them, or none where a name is taken."""
    for name in joints:
        robot.joints.refuse_taken(name)
    for name in links:
        robot.links.refuse_taken(name)
    for name, link in links.items():
        robot.links.put(name, link)
    for name, joint in joints.items():
        robot.joints.put(name, joint)
    robot.note_change()


def set_collision(
    robot: Robot, pattern: str, collision: Any, context: Context, anew: bool = False
) -> None:
    """See `Robot.set_collision`."""
    named = [robot.links[name] for name in matching(robot, "link", pattern)]
    if not named:
        raise ModelError(f"no link matches {pattern!r}{did_you_mean(pattern, list(robot.links))}")
    if not any(_has_body(link) for link in named):
        text = f"no link that matches {pattern!r} has parts or visuals to fit shapes around"
        if pattern in robot.links:
            raise ModelError(text)
        robot.notes.append(Note(f"collision: {text}"))
    chosen = [link for link in named if (anew or link.collision is None) and _has_body(link)]
    for link in chosen:
        # All of them are tried before any is changed.
        link.with_fields(context, collision=collision)
    for link in chosen:
        link.collision = collision


def _has_body(link: Link) -> bool:
    return bool(link.parts or link.shapes or link.visuals)


def allow_overlap(robot: Robot, first: str, second: str, because: str) -> None:
    """See `Robot.allow_overlap`."""
    found = [
        [name for name in robot.links if fnmatchcase(name, pattern)] for pattern in (first, second)
    ]
    for pattern, names in zip((first, second), found, strict=True):
        if not names:
            hint = did_you_mean(pattern, list(robot.links))
            raise ModelError(f"no link matches {pattern!r}{hint}")
    pairs = [(a, b) for a in found[0] for b in found[1] if a != b]
    if not pairs:
        raise ModelError(f"{first!r} and {second!r} match no two different links")
    because = read_item(KINDS["allowance"], "allowance", because, robot.context, {})
    for a, b in pairs:
        robot.allowances.put((min(a, b), max(a, b)), because)
    robot.note_change()
