"""Changes one makes to a draft: joints turned round or welded, links merged and split, features."""

from __future__ import annotations

import re
from collections.abc import Sequence
from typing import Any

import numpy as np

from mooring.cad import Part
from mooring.cad.places.axis import words_of
from mooring.errors import ModelError
from mooring.formats.document.cad import read_entry
from mooring.formats.document.drafting.mentions import forms_of, listed, mentions_in_places
from mooring.formats.document.drafting.text import pattern_of
from mooring.formats.document.editor import DocumentEditor, take_away
from mooring.formats.document.nodes import flow, new_mapping
from mooring.model import Robot
from mooring.model.naming import free_name

_OF_MOTION = (
    "axis", "limits", "damping", "friction", "stiffness", "rest", "rotor_inertia", "calibration",
)  # fmt: skip


def turn_round(editor: DocumentEditor, robot: Robot, joint: str) -> None:
    """Let a joint count the other way; its limits are exchanged, so that it goes where it went.

    Raises:
        ModelError: it is not written in the document, or neither turns nor slides.
    """
    entry = _entry(editor, "joints", joint)
    known = robot.joints[joint]
    if not known.has_axis:
        raise ModelError(f"joint {joint!r} neither turns nor slides")
    entry["axis"] = flow(words_of(-np.array(known.axis)))
    limits: Any = entry.get("limits")
    if isinstance(limits, dict):
        old = {key: limits.pop(key) for key in ("lower", "upper") if key in limits}
        rest = {key: limits.pop(key) for key in list(limits)}
        turned = {"lower": old.get("upper"), "upper": old.get("lower")}
        limits.update({k: _negative(v) for k, v in turned.items() if v is not None} | rest)


def weld(editor: DocumentEditor, joint: str) -> None:
    """Let a joint be fixed.

    Raises:
        ModelError: it is not written in the document.
    """
    entry = _entry(editor, "joints", joint)
    entry["type"] = "fixed"
    for key in _OF_MOTION:
        if key in entry:
            take_away(entry, key)


def set_type(editor: DocumentEditor, joint: str, kind: str) -> None:
    """Let a joint be of another type; what it says of the other motion goes.

    Raises:
        ModelError: it is not written in the document.
    """
    entry = _entry(editor, "joints", joint)
    turning = {"revolute", "continuous"}
    if (entry.get("type") in turning) != (kind in turning) or kind == "continuous":
        for key in ("limits", "damping", "friction", "stiffness", "rest"):
            if key in entry:
                take_away(entry, key)
    entry["type"] = kind


def merge(editor: DocumentEditor, into: str, gone: str) -> None:
    """Make one link of two; what refers to the one then refers to the other.

    Args:
        editor: of the document.
        into: the link that stays.
        gone: the link whose parts it takes.

    Raises:
        ModelError: one is not written in the document, or other links are between them.
    """
    if into == gone:
        raise ModelError(f"{into!r} cannot be merged with itself")
    taking, given = _entry(editor, "links", into), _entry(editor, "links", gone)
    joints = editor.get("joints") if "joints" in editor.get(()) else {}
    by_child = {entry["child"]: name for name, entry in joints.items() if entry}
    between = by_child.get(gone)
    if _hangs_on(joints, by_child, into, gone):
        # The one that stays hangs on the other: it takes its place.
        between = by_child[into]
        if joints[between]["parent"] != gone:
            raise ModelError(f"{into!r} hangs on {gone!r} by other links; merge those first")
    _put_list(taking, "parts", [*listed(taking.get("parts")), *listed(given.get("parts"))])
    if "part_materials" in given:
        taking.setdefault("part_materials", new_mapping()).update(given["part_materials"])
    if between is not None:
        take_away(joints, between)
    editor.refer("link", gone, into)
    editor.remove(("links", gone))
    closures = editor.get("closures") if "closures" in editor.get(()) else {}
    for name in [n for n, entry in closures.items() if len(set(entry["between"])) == 1]:
        take_away(closures, name)
    if not closures and "closures" in editor.get(()):
        editor.remove("closures")


def split_off(editor: DocumentEditor, robot: Robot, link: str, parts: Sequence[str]) -> str:
    """Make a link of some parts of another, held to it by a fixed joint; its name.

    Raises:
        ModelError: the link is not written in the document, or nothing of it would be left.
    """
    entry = _entry(editor, "links", link)
    own = [part.name for part in robot.links[link].parts]
    if not set(own) - set(parts):
        raise ModelError(f"nothing of {link!r} would be left")
    gone = {form for part in parts for form in forms_of(part)}
    kept = [pattern for pattern in listed(entry.get("parts")) if pattern not in gone]
    still = {part.name for part in _matching(robot, link, kept)} & set(parts)
    excluded = [f"not {pattern_of(name)}" for name in sorted(still)]
    _put_list(entry, "parts", [*kept, *excluded])
    taken = set(robot.links) | set(robot.joints)
    name = free_name(_name(parts[0]), taken)
    made = new_mapping()
    made["parts"] = flow([pattern_of(part) for part in parts])
    for key in ("material", "collision"):
        if isinstance(entry.get(key), str):
            made[key] = entry[key]
    editor.get("links")[name] = made
    joint = new_mapping()
    joint.update({"type": "fixed", "parent": link, "child": name})
    _section(editor, "joints")[free_name(f"{name}_mount", taken)] = joint
    return name


def add_frame(editor: DocumentEditor, name: str, link: str, at: dict[str, Any], role: str) -> None:
    """Put a frame on a feature.

    Raises:
        ModelError: there is one of that name.
    """
    frames = _section(editor, "frames")
    if name in frames:
        raise ModelError(f"there is already a frame called {name!r}")
    frames[name] = flow({"link": link, "role": role, "at": at})


def cut_part(editor: DocumentEditor, part: str, cut: dict[str, Any]) -> list[str]:
    """Cut a part in the document, and list its pieces where it was listed; their names.

    Raises:
        ModelError: the document reads several CAD files, or the cut does not meet the part.
    """
    entries = editor.get("cad")
    if len(entries) != 1:
        raise ModelError(
            "the document reads several CAD files; write the cut under that of the part"
        )
    before = {p.name for p in read_entry(editor.file.parent, entries[0]).parts}
    cuts = entries[0].setdefault("cut", new_mapping())
    _put_list(cuts, part, [*listed(cuts.get(part)), flow(cut)])
    after = [p.name for p in read_entry(editor.file.parent, entries[0]).parts]
    pieces = [name for name in after if name not in before]
    for link in (editor.get("links") or {}).values():
        own = listed((link or {}).get("parts"))
        at = next((k for k, one in enumerate(own) if one in forms_of(part)), None)
        if at is not None:
            _put_list(link, "parts", [*own[:at], *map(pattern_of, pieces), *own[at + 1 :]])
    for owner, key in mentions_in_places(editor):
        if owner[key] in forms_of(part):
            # Whichever of the pieces has the feature.
            owner[key] = f"{pattern_of(part)}_[1-9]"
    return pieces


def _entry(editor: DocumentEditor, section: str, name: str) -> Any:
    try:
        found = editor.get((section, name))
    except ModelError:
        found = None
    if not isinstance(found, dict):
        raise ModelError(
            f"{name!r} is not written under {section} of {editor.file.name}; open the document it "
            "comes from to change it"
        )
    return found


def _section(editor: DocumentEditor, name: str) -> Any:
    if name not in editor.get(()) or editor.get(name) is None:
        editor.set(name, new_mapping())
    return editor.get(name)


def _hangs_on(joints: Any, by_child: dict[str, str], link: str, other: str) -> bool:
    """Whether a link is somewhere beyond another."""
    seen = set()
    while link in by_child and link not in seen:
        seen.add(link)
        link = joints[by_child[link]]["parent"]
        if link == other:
            return True
    return False


def _put_list(owner: Any, key: str, items: Sequence[Any]) -> None:
    """Items in a list, which stays in the style it is written in."""
    if isinstance(owner.get(key), list):
        owner[key].clear()
        owner[key].extend(items)
    else:
        owner[key] = flow(list(items))


def _matching(robot: Robot, link: str, patterns: Sequence[str]) -> list[Part]:
    return [
        part
        for part in robot.links[link].parts
        if any(part.matches(pattern) for pattern in patterns)
    ]


def _negative(value: Any) -> Any:
    """A quantity with the other sign, written as it was."""
    if isinstance(value, str):
        text = value.strip()
        if text.startswith("="):
            return f"= -({text[1:].strip()})"
        return text[1:].lstrip() if text.startswith("-") else f"-{text}"
    return -value


def _name(part: str) -> str:
    return re.sub(r"[^\w.-]+", "_", part).strip("_") or "piece"
