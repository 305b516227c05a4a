"""A proposal as a document to edit: every guess with its reason beside it."""

from __future__ import annotations

import glob
import json
import os
import re
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np

from mooring.cad import Assembly
from mooring.cad.places.axis import words_of
from mooring.cad.proposing import Proposal, ProposedJoint, ProposedLink
from mooring.errors import ModelError
from mooring.files import true_path
from mooring.formats.document.nodes import parser
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
        path = os.path.relpath(true_path(source), true_path(file).parent)
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
        lines += link_snippet(assembly, proposal, link, link.parts).lines(link.name)
    joints = [joint for joint in proposal.joints if not joint.closes]
    closures = [joint for joint in proposal.joints if joint.closes]
    if joints:
        lines += ["", "joints:"]
        for joint in joints:
            lines += joint_snippet(joint, assembly, proposal).lines(joint.name)
    if proposal.pairs:
        lines += ["", "# Joints that carry equal parts. If they move together, uncomment:"]
        lines.append("# couplings:")
        for one, other in proposal.pairs:
            lines.append(f"#   {_word(other)}: {{follows: {_word(one)}, ratio: -1}}")
    if proposal.motors:
        lines += [
            "",
            "# Parts that seem to drive these joints. Say what they can do, and uncomment:",
        ]
        lines.append("# motors:")
        for joint_name, part in proposal.motors:
            motor = _word(re.sub(r"[^\w.-]+", "_", part))
            lines.append(f"#   {motor}: {{joint: {_word(joint_name)}, torque: 1 N*m, p: 10, d: 1}}")
    if closures:
        lines += ["", "# These close loops that a tree cannot hold.", "closures:"]
        for joint in closures:
            lines += closure_snippet(joint, assembly, proposal).lines(joint.name)
    return "\n".join(lines) + "\n"


@dataclass
class Snippet:
    """An entry of a document.

    Attributes:
        words: its comment, as sentences.
        fields: its lines, without its name.
    """

    words: list[str]
    fields: list[str]

    def lines(self, name: str) -> list[str]:
        """The entry as it stands in its section."""
        return [*self.comment("  "), f"  {_word(name)}:", *self.fields]

    def comment(self, indent: str) -> list[str]:
        """The comment as lines."""
        return [line for words in self.words for line in _comment(words, indent)]

    def entry(self) -> Any:
        """The same as a node for a document that is being edited."""
        return parser().load("\n".join(self.fields) + "\n")


def link_snippet(
    assembly: Assembly, proposal: Proposal, link: ProposedLink, parts: Sequence[str]
) -> Snippet:
    """A link of some of its parts."""
    wheel = any(joint.child == link.name and joint.balanced for joint in proposal.joints)
    rule = "{fit: auto, about: joint}" if wheel else "auto"
    fields = [*_parts(parts), *_materials(assembly, parts), f"    collision: {rule}"]
    return Snippet([link.reason], fields)


def joint_snippet(
    joint: ProposedJoint,
    assembly: Assembly,
    proposal: Proposal,
    ends: tuple[str, str] | None = None,
) -> Snippet:
    """A joint, between links of other names than those proposed if these are given."""
    words = [f"{joint.confidence} confidence: {joint.reason}"]
    if joint.alternatives:
        words.append(f"or {'; or '.join(joint.alternatives)}")
    parent, child = ends or (joint.parent, joint.child)
    fields = [
        f"    type: {joint.kind}",
        f"    parent: {_word(parent)}",
        f"    child: {_word(child)}",
    ]
    if joint.kind == "spherical":
        fields.append(_at(joint.origin))
    elif joint.kind != "fixed":
        fields += [*_place(joint, assembly, proposal), *_limits(joint)]
    return Snippet(words, fields)


def _limits(joint: ProposedJoint) -> list[str]:
    if joint.kind == "continuous":
        return []
    if joint.kind == "cylindrical":
        return [f"    slide: {{limits: {_travel(joint)}}}    # a guess"]
    if joint.travel_reason:
        return [*_comment(joint.travel_reason, "    "), f"    limits: {_travel(joint)}"]
    return [f"    limits: {_travel(joint)}    # a guess"]


def closure_snippet(
    joint: ProposedJoint,
    assembly: Assembly,
    proposal: Proposal,
    ends: tuple[str, str] | None = None,
) -> Snippet:
    """What closes a loop, as for joints."""
    kind = {"prismatic": "slide", "spherical": "ball"}.get(joint.kind, "hinge")
    place = [_at(joint.origin)] if kind == "ball" else _place(joint, assembly, proposal)
    first, second = ends or (joint.parent, joint.child)
    fields = [f"    kind: {kind}", f"    between: [{_word(first)}, {_word(second)}]", *place]
    return Snippet([f"{joint.confidence} confidence: {joint.reason}"], fields)


def _travel(joint: ProposedJoint) -> str:
    lower, upper = travel_words(joint.kind, joint.travel)
    return f"{{lower: {lower}, upper: {upper}}}"


def travel_words(kind: str, travel: Sequence[float]) -> list[str]:
    """The ends of a joint's travel as they are written."""
    dimension = "angle" if kind == "revolute" else "length"
    return [show(float(f"{end:.3g}"), dimension, 3) for end in travel]


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
    words = words_of(axis)
    return words if isinstance(words, str) else "[" + ", ".join(f"{v:.9g}" for v in words) + "]"


def _materials(assembly: Assembly, names: Sequence[str]) -> list[str]:
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


def _parts(names: Sequence[str]) -> list[str]:
    """The names in one line, or a line each."""
    words = [_pattern(name) for name in names]
    line = f"    parts: [{', '.join(words)}]"
    return [line] if len(line) <= _WIDTH else ["    parts:", *(f"      - {word}" for word in words)]


def _comment(text: str, indent: str) -> list[str]:
    lines, line = [], f"{indent}#"
    for word in text.replace("\n", " ").split():
        if len(line) + len(word) + 1 > _WIDTH:
            lines.append(line)
            line = f"{indent}#"
        line += f" {word}"
    return [*lines, line]


def pattern_of(name: str) -> str:
    """The pattern that a part's own name is; one that begins with = would be an expression."""
    escaped = glob.escape(name)
    return f"[=]{escaped[1:]}" if escaped.startswith("=") else escaped


def _pattern(name: str) -> str:
    return _word(pattern_of(name))


def _word(text: str) -> str:
    """Text as YAML takes it for text."""
    if _PLAIN.fullmatch(text) and text.lower() not in _WORDS:
        return text
    return json.dumps(text, ensure_ascii=False)
