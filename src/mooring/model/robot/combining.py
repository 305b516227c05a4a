"""Robots made of robots: included, attached, and cut out again."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

import numpy as np

from mooring.errors import ModelError, did_you_mean
from mooring.geometry import inverse, placement, rpy_from_rotation
from mooring.model.note import Note
from mooring.model.placement import Placement, Where
from mooring.model.registry import KINDS
from mooring.model.robot.copying import mirrored, on_links
from mooring.model.robot.editing import drop_items, rename_all
from mooring.model.robot.references import references
from mooring.model.structure import roots

if TYPE_CHECKING:
    from mooring.model.robot.robot import Robot


def include(
    robot: Robot,
    other: Robot,
    prefix: str,
    onto: str | None,
    at: Where,
    mirror: str | None,
    joint: str | None,
) -> None:
    """See `Robot.include`."""
    if mirror is not None and mirror not in ("x", "y", "z"):
        raise ModelError(f"mirror: {mirror!r} is none of x, y, z")
    added = on_links(other) if mirror is None else mirrored(other, mirror)
    if prefix:
        rename_all(added, lambda kind, n: f"{prefix}{n}" if KINDS[kind].prefixed else n)
    mount = joint or f"{prefix}mount"
    _refuse_unfit(robot, added, mount, onto)
    root = roots(added)[0]
    if onto is not None:
        robot.add(
            "joint", mount, {"type": "fixed", "parent": onto, "child": root, "at": Placement.of(at)}
        )
    for link in added.links.values():
        link.__dict__["included_as"] = f"{prefix}{link.included_as}"
    for kind in KINDS.values():
        ours = robot.section(kind.name)
        for name, item in added.section(kind.name).items():
            if name not in ours:
                ours.put(name, item)
            elif kind.name == "posture":
                ours.put(name, type(item)({**item, **ours[name]}))
            elif ours[name] != item:
                robot.notes.append(
                    Note(f"{kind.name} {name!r} of {other.name} is another one; left out")
                )
    robot.places.update({k: v for k, v in added.places.items() if len(k) > 1})
    robot.unused += [part for part in added.unused if part not in robot.unused]
    _merge_vendor(robot, added)
    robot.notes += [note for note in added.notes if note not in robot.notes]
    robot.note_change()


def _merge_vendor(robot: Robot, added: Robot) -> None:
    """What other programs say of the included robot as a whole is said of this one, too."""
    new = [text for text in added.head.vendor if text not in robot.head.vendor]
    if new:
        robot.head.vendor = (*robot.head.vendor, *new)


def _refuse_unfit(robot: Robot, added: Robot, mount: str, onto: str | None) -> None:
    """Refuse an inclusion before anything is changed."""
    if onto is None and robot.links:
        raise ModelError(f"onto: name the link that {added.name} is fixed to")
    if onto is not None and onto not in robot.links:
        raise ModelError(f"no link is called {onto!r}{did_you_mean(onto, list(robot.links))}")
    if onto is not None and (mount in robot.joints or mount in added.joints):
        raise ModelError(f"there is already a joint called {mount!r}; give joint= another name")
    for kind in KINDS.values():
        if not kind.prefixed or not kind.own_names:
            continue
        taken = sorted(set(robot.section(kind.name)) & set(added.section(kind.name)))
        if taken:
            raise ModelError(
                f"there is already a {kind.name} called {taken[0]!r}; include {added.name} with a "
                "prefix"
            )
    for name, material in added.materials.items():
        if name in robot.materials and robot.materials[name] != material:
            raise ModelError(f"{added.name} means another material by {name!r}")


def attach(
    robot: Robot, other: Robot, at: str, mount: str | None, prefix: str, joint: str | None
) -> None:
    """See `Robot.attach`."""
    if at not in robot.frames:
        raise ModelError(f"no frame is called {at!r}{did_you_mean(at, list(robot.frames))}")
    found = mount or _only_mount(other)
    if found not in other.frames:
        hint = did_you_mean(found, list(other.frames))
        raise ModelError(f"no frame of {other.name} is called {found!r}{hint}")
    theirs, ours = other.frames[found], robot.frames[at]
    frames = other.link_frames()
    root = frames[roots(other)[0]]
    carrier = frames[theirs.link]
    on_root = inverse(root) @ carrier @ theirs.at.in_link(carrier)
    faced = ours.outward and theirs.outward
    meeting = ours.at.matrix @ placement(rotation=np.diag([1.0, -1.0, -1.0]) if faced else None)
    place = Placement(meeting @ inverse(on_root), ours.at.relative_to)
    turn = np.degrees(rpy_from_rotation(place.matrix[:3, :3]))
    robot.include(other, prefix=prefix, onto=ours.link, at=place, joint=joint)
    how = "face to face, x on x" if faced else "axes on axes"
    listed = ", ".join(f"{angle + 0.0:.4g}" for angle in turn.round(6))
    of = "the CAD" if ours.at.relative_to == "cad" else ours.link
    robot.notes.append(
        Note(
            f"{other.name} is attached by {found} to {at}, {how}; it is turned by rpy [{listed}] "
            f"deg against {of}"
        )
    )


def _only_mount(robot: Robot) -> str:
    mounts: list[str] = [name for name, frame in robot.frames.items() if frame.role == "mount"]
    if len(mounts) != 1:
        has = "no frame" if not mounts else f"{len(mounts)} frames ({', '.join(mounts)})"
        raise ModelError(f"{robot.name} has {has} of role mount; name one with mount=")
    return mounts[0]


def branch(robot: Robot, link: str, name: str | None) -> Robot:
    """See `Robot.branch`."""
    if link not in robot.links:
        raise ModelError(f"no link is called {link!r}{did_you_mean(link, list(robot.links))}")
    result = on_links(robot)
    result.name = name or link
    result.base = "fixed"
    inside = {link}
    waiting = [link]
    while waiting:
        here = waiting.pop()
        below = [j.child for j in result.joints.values() if j.parent == here]
        inside.update(below)
        waiting += below
    holding = {j.name for j in result.joints.values() if j.parent not in inside}
    outside = [n for n in result.links if n not in inside]
    lost: list[tuple[str, Any]] = [("link", n) for n in outside]
    lost += [("joint", n) for n in holding]
    gone = set(lost)
    # Whatever refers to what is gone goes, and what refers to that, until nothing does.
    waiting_for_more = True
    while waiting_for_more:
        waiting_for_more = False
        for kind in KINDS.values():
            for key, item in result.section(kind.name).items():
                if (kind.name, key) in gone:
                    continue
                needs = [r for r in references(result, kind, key, item) if r.ref.lost == "item"]
                if any((r.kind, r.name) in gone for r in needs):
                    gone.add((kind.name, key))
                    waiting_for_more = True
    for kind_name, key in sorted(gone, key=str):
        kind = KINDS[kind_name]
        within = [
            r for r in references(result, kind, key, result.section(kind_name)[key])
            if (r.kind, r.name) not in gone
        ]  # fmt: skip
        if within and kind_name not in ("joint", "link"):
            result.notes.append(Note(f"{kind.called(key)} reaches out of the branch; left behind"))
    empty_before = {n for n, p in result.postures.items() if not p}
    drop_items(result, gone)
    for posture in [n for n, p in result.postures.items() if not p and n not in empty_before]:
        result.postures.drop(posture)
    result.assemblies = []
    result.unused = []
    result.note_change()
    return result
