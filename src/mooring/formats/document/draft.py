"""A proposal as a document to edit: every guess with its reason beside it."""

from __future__ import annotations

import glob
import json
import os
import re
from pathlib import Path

import numpy as np

from mooring.cad import Assembly
from mooring.cad.proposing import Proposal, ProposedJoint
from mooring.errors import ModelError
from mooring.geometry import Array
from mooring.model.material import common_material
from mooring.units import show

_PLAIN = re.compile(r"[A-Za-z_][\w.-]*")
_WORDS = {"true", "false", "yes", "no", "on", "off", "null", "none"}
_WIDTH = 100
_GUESS = "steel"


def _files(assembly: Assembly) -> str:
    names = [source.name for source, _ in assembly.sources]
    return ", ".join(names[:3]) + (f" and {len(names) - 3} more" if len(names) > 3 else "")


def draft_text(proposal: Proposal, assembly: Assembly, file: Path) -> str:
    """A proposal as the text of a document that will be written to a file."""
    lines = [
        f"# Drafted from {_files(assembly)}. Everything here is a guess, with its",
        "# reason; edit it, then: mooring check, mooring picture, mooring run.",
        "mooring: 1",
        f"name: {_word(re.sub(r'[^A-Za-z0-9_]+', '_', assembly.name) or 'robot')}",
        "",
        "cad:",
    ]
    for source, unit in assembly.sources:
        path = os.path.relpath(source.resolve(), file.resolve().parent)
        lines.append(f"  - file: {json.dumps(path, ensure_ascii=False)}")
        if unit is not None:
            lines.append(f"    unit: {_word(unit)}")
    lines.append("")
    for note in proposal.notes:
        lines += _comment(f"Not understood: {note}.", "")
    for words in proposal.undecided:
        lines += _comment(f"Not decided: {words}.", "")
    for name, count, why in proposal.hardware:
        lines += _comment(f"Hardware, {count} of {name}: {why}.", "")
    lines += ["links:", f"  # {proposal.base} is the base: {proposal.base_reason}."]
    for name, reason in proposal.other_bases:
        lines += _comment(f"It might be {name}: {reason}.", "  ")
    for link in proposal.links:
        lines += _comment(link.reason, "  ")
        lines += [f"  {_word(link.name)}:", *_parts(link.parts)]
        lines += _materials(assembly, link.parts)
        round_link = any(j.child == link.name and j.kind == "continuous" for j in proposal.joints)
        rule = "{fit: auto, about: joint}" if round_link else "auto"
        lines.append(f"    collision: {rule}")
    joints = [joint for joint in proposal.joints if not joint.closes]
    closures = [joint for joint in proposal.joints if joint.closes]
    if joints:
        lines += ["", "joints:"]
        for joint in joints:
            lines += _joint(joint, assembly, proposal)
    if proposal.pairs:
        lines += ["", "# Joints that carry equal parts. If they move together, uncomment:"]
        lines.append("# couplings:")
        for one, other in proposal.pairs:
            lines.append(f"#   {_word(other)}: {{follows: {_word(one)}, ratio: -1}}")
    if closures:
        lines += ["", "# These close loops that a tree cannot hold.", "closures:"]
        for joint in closures:
            lines += _closure(joint, assembly, proposal)
    return "\n".join(lines) + "\n"


def _joint(joint: ProposedJoint, assembly: Assembly, proposal: Proposal) -> list[str]:
    lines = _comment(f"{joint.confidence} confidence: {joint.reason}", "  ")
    if joint.alternatives:
        lines += _comment(f"or {'; or '.join(joint.alternatives)}", "  ")
    lines += [
        f"  {_word(joint.name)}:",
        f"    type: {joint.kind}",
        f"    parent: {_word(joint.parent)}",
        f"    child: {_word(joint.child)}",
    ]
    if joint.kind == "fixed":
        return lines
    if joint.kind == "spherical":
        return [*lines, _at(joint.origin)]
    lines += _place(joint, assembly, proposal)
    if joint.kind == "continuous":
        return lines
    if joint.kind == "cylindrical":
        half = show(float(f"{joint.travel:.3g}"), "length", 3)
        return [*lines, f"    slide: {{limits: {{lower: -{half}, upper: {half}}}}}    # a guess"]
    dimension = "angle" if joint.kind == "revolute" else "length"
    travel = show(float(f"{joint.travel:.3g}"), dimension, 3)
    lines.append(f"    limits: {{lower: -{travel}, upper: {travel}}}    # a guess")
    return lines


def _closure(joint: ProposedJoint, assembly: Assembly, proposal: Proposal) -> list[str]:
    kind = {"prismatic": "slide", "spherical": "ball"}.get(joint.kind, "hinge")
    place = [_at(joint.origin)] if kind == "ball" else _place(joint, assembly, proposal)
    return [
        *_comment(f"{joint.confidence} confidence: {joint.reason}", "  "),
        f"  {_word(joint.name)}:",
        f"    kind: {kind}",
        f"    between: [{_word(joint.parent)}, {_word(joint.child)}]",
        *place,
    ]


def _place(joint: ProposedJoint, assembly: Assembly, proposal: Proposal) -> list[str]:
    """By two parts that share the bore, so that the joint follows the CAD; else by numbers."""
    bore = _bore_between(joint, assembly, proposal)
    if bore is not None:
        first, second = (_pattern(name) for name in bore)
        return [f"    at: {{bore: [{first}, {second}]}}"]
    return [_at(joint.origin), f"    axis: {_axis(joint.axis)}"]


def _at(point: Array) -> str:
    x, y, z = (f"{1000 * value + 0.0:.6g} mm" for value in point)
    return f"    at: {{xyz: [{x}, {y}, {z}], relative_to: cad}}"


def _bore_between(
    joint: ProposedJoint, assembly: Assembly, proposal: Proposal
) -> tuple[str, str] | None:
    """Two parts of the two links whose only shared axis is the joint's."""
    parts = {link.name: link.parts for link in proposal.links}
    by_name = {part.name: part for part in assembly.parts}
    if joint.parts[0] and _is_axis(joint, assembly, *joint.parts):
        return joint.parts
    for a in sorted(parts[joint.parent], key=lambda name: -by_name[name].volume):
        if not by_name[a].bores:
            continue
        for b in sorted(parts[joint.child], key=lambda name: -by_name[name].volume):
            if not by_name[b].cylinders:
                continue
            if _is_axis(joint, assembly, a, b):
                return a, b
    return None


def _is_axis(joint: ProposedJoint, assembly: Assembly, first: str, second: str) -> bool:
    """Whether two parts share no axis but the joint's."""
    by_name = {part.name: part for part in assembly.parts}
    try:
        axis = assembly.bore([by_name[first]], [by_name[second]])
    except ModelError:
        return False
    off = axis.origin - joint.origin
    aside = np.linalg.norm(off - joint.axis * (off @ joint.axis))
    return bool(aside < 1e-4 and abs(axis.direction @ joint.axis) > 0.99999)


def _axis(axis: Array) -> str:
    for name, unit in zip("xyz", np.eye(3), strict=True):
        if axis @ unit > 1 - 1e-9:
            return name
    return "[" + ", ".join(f"{value + 0.0:.9g}" for value in axis) + "]"


def _materials(assembly: Assembly, names: tuple[str, ...]) -> list[str]:
    """What the CAD leaves open of what parts are made of; what it states stays as it is."""
    chosen = set(names)
    parts = [part for part in assembly.parts if part.name in chosen]
    unknown = [p for p in parts if p.material is None or p.material.density is None]
    named = {
        part.name: part.material.name
        for part in unknown
        if part.material is not None and common_material(part.material.name) is not None
    }
    if not unknown:
        return []
    if len(unknown) == len(parts) and not named:
        guess = "a guess: the CAD file does not say"
        return [f"    material: {_GUESS}    # {guess}", "    assumed: true"]
    guessed = [part.name for part in unknown if part.name not in named]
    lines = ["    part_materials:    # the CAD file states no density of these"]
    for part in unknown:
        word = _pattern(part.name)
        guess = "    # a guess" if part.name in guessed else "    # named so in the CAD file"
        lines.append(f"      {word}: {_word(named.get(part.name, _GUESS))}{guess}")
    return lines


def _parts(names: tuple[str, ...]) -> list[str]:
    """The names, as many on a line as fit."""
    lines, line = [], "    parts: ["
    for number, name in enumerate(names):
        word = _pattern(name) + ("" if number == len(names) - 1 else ",")
        if len(line) + len(word) + 1 > _WIDTH:
            lines.append(line.rstrip())
            line = "      "
        line += word + " "
    return [*lines, line.rstrip() + "]"]


def _comment(text: str, indent: str) -> list[str]:
    lines, line = [], f"{indent}#"
    for word in text.replace("\n", " ").split():
        if len(line) + len(word) + 1 > _WIDTH:
            lines.append(line)
            line = f"{indent}#"
        line += f" {word}"
    return [*lines, line]


def _pattern(name: str) -> str:
    """The pattern that a part's own name is; one that begins with = would be an expression."""
    escaped = glob.escape(name)
    return _word(f"[=]{escaped[1:]}" if escaped.startswith("=") else escaped)


def _word(text: str) -> str:
    """Text as YAML takes it for text."""
    if _PLAIN.fullmatch(text) and text.lower() not in _WORDS:
        return text
    return json.dumps(text, ensure_ascii=False)
