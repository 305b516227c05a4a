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
from mooring.units import show

_PLAIN = re.compile(r"[A-Za-z_][\w.-]*")
_WORDS = {"true", "false", "yes", "no", "on", "off", "null", "none"}
_WIDTH = 100


def draft_text(proposal: Proposal, assembly: Assembly, file: Path) -> str:
    """A proposal as the text of a document that will be written to a file."""
    cad = os.path.relpath(assembly.file.resolve(), file.resolve().parent)
    lines = [
        f"# Drafted from {assembly.file.name}. Everything here is a guess, with its",
        "# reason; edit it, then: mooring check, mooring picture, mooring run.",
        "mooring: 1",
        f"name: {_word(re.sub(r'[^A-Za-z0-9_]+', '_', assembly.name) or 'robot')}",
        "",
        "cad:",
        f"  - file: {json.dumps(cad, ensure_ascii=False)}",
        "",
    ]
    for note in proposal.notes:
        lines.append(f"# Not understood: {note}.")
    lines += ["links:", f"  # {proposal.base} is the base: {proposal.base_reason}."]
    for name, reason in proposal.other_bases:
        lines += _comment(f"It might be {name}: {reason}.", "  ")
    for link in proposal.links:
        lines += _comment(link.reason, "  ")
        lines += [f"  {_word(link.name)}:", *_parts(link.parts)]
        if not _has_densities(assembly, link.parts):
            lines.append("    material: steel    # a guess: the CAD file does not say")
            lines.append("    assumed: true")
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
    lines += _place(joint, assembly, proposal)
    if joint.kind == "continuous":
        return lines
    dimension = "angle" if joint.kind == "revolute" else "length"
    travel = show(float(f"{joint.travel:.3g}"), dimension, 3)
    lines.append(f"    limits: {{lower: -{travel}, upper: {travel}}}    # a guess")
    return lines


def _closure(joint: ProposedJoint, assembly: Assembly, proposal: Proposal) -> list[str]:
    kind = "slide" if joint.kind == "prismatic" else "hinge"
    return [
        *_comment(f"{joint.confidence} confidence: {joint.reason}", "  "),
        f"  {_word(joint.name)}:",
        f"    kind: {kind}",
        f"    between: [{_word(joint.parent)}, {_word(joint.child)}]",
        *_place(joint, assembly, proposal),
    ]


def _place(joint: ProposedJoint, assembly: Assembly, proposal: Proposal) -> list[str]:
    """By two parts that share the bore, so that the joint follows the CAD; else by numbers."""
    bore = _bore_between(joint, assembly, proposal)
    if bore is not None:
        first, second = (_word(glob.escape(name)) for name in bore)
        return [f"    at: {{bore: [{first}, {second}]}}"]
    x, y, z = (f"{1000 * value + 0.0:.6g} mm" for value in joint.origin)
    lines = [f"    at: {{xyz: [{x}, {y}, {z}], relative_to: cad}}"]
    return [*lines, f"    axis: {_axis(joint.axis)}"]


def _bore_between(
    joint: ProposedJoint, assembly: Assembly, proposal: Proposal
) -> tuple[str, str] | None:
    """Two parts of the two links whose only shared axis is the joint's."""
    parts = {link.name: link.parts for link in proposal.links}
    by_name = {part.name: part for part in assembly.parts}
    for a in sorted(parts[joint.parent], key=lambda name: -by_name[name].volume):
        if not by_name[a].bores:
            continue
        for b in sorted(parts[joint.child], key=lambda name: -by_name[name].volume):
            if not by_name[b].cylinders:
                continue
            try:
                axis = assembly.bore([by_name[a]], [by_name[b]])
            except ModelError:
                continue
            off = axis.origin - joint.origin
            aside = np.linalg.norm(off - joint.axis * (off @ joint.axis))
            if aside < 1e-4 and abs(axis.direction @ joint.axis) > 0.99999:
                return a, b
    return None


def _axis(axis: Array) -> str:
    for name, unit in zip("xyz", np.eye(3), strict=True):
        if axis @ unit > 1 - 1e-9:
            return name
    return "[" + ", ".join(f"{value + 0.0:.9g}" for value in axis) + "]"


def _has_densities(assembly: Assembly, names: tuple[str, ...]) -> bool:
    chosen = set(names)
    return all(
        part.material is not None and part.material.density is not None
        for part in assembly.parts
        if part.name in chosen
    )


def _parts(names: tuple[str, ...]) -> list[str]:
    """The names, as many on a line as fit."""
    lines, line = [], "    parts: ["
    for number, name in enumerate(names):
        word = _word(glob.escape(name)) + ("" if number == len(names) - 1 else ",")
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


def _word(text: str) -> str:
    """Text as YAML takes it for text."""
    if _PLAIN.fullmatch(text) and text.lower() not in _WORDS:
        return text
    return json.dumps(text, ensure_ascii=False)
