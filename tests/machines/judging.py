"""What is wrong with a proposal, held against the truth about a machine."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from mooring.cad import Assembly
from mooring.cad.proposing import Proposal, ProposedJoint
from tests.machines.kit import Machine, TrueJoint

KINDS = {"turn": ("revolute", "continuous"), "slide": ("prismatic",), "ball": ("spherical",)}


def faults(machine: Machine, how: str, assembly: Assembly, proposal: Proposal) -> Iterator[str]:
    """Links that are welded or torn, joints that are missing or not there, in words."""
    items = machine.in_file(how)
    true = {p.name: item.link for p, item in zip(assembly.parts, items, strict=True)}
    home = {name: link.name for link in proposal.links for name in link.parts}
    claims: dict[str, set[str]] = {}
    for name, link in true.items():
        if "|" not in link:
            claims.setdefault(home.get(name, "nothing"), set()).add(link)
    links: dict[str, set[str]] = {}
    for own, labels in claims.items():
        if len(labels) > 1:
            yield f"{sorted(labels)} are welded in {own}"
        for label in labels:
            links.setdefault(label, set()).add(own)
    yield from (f"{k} is torn: {sorted(v)}" for k, v in links.items() if len(v) > 1)
    for name, link in true.items():
        allowed = set().union(*(links.get(label, set()) for label in link.split("|")))
        if home.get(name) not in allowed:
            yield f"{name} of {link} is in {home.get(name)}"
    left = list(proposal.joints)
    for joint in machine.joints:
        pairs = {
            frozenset((a, b))
            for a in links.get(joint.links[0], ())
            for b in links.get(joint.links[1], ())
        }
        found = next((j for j in left if is_it(j, joint, pairs)), None)
        if found is None:
            yield f"no {joint.kind} of {joint.links} at {joint.point}"
        else:
            left.remove(found)
    yield from (f"{j.name}, {j.kind}: {j.reason}" for j in left)


def is_it(joint: ProposedJoint, true: TrueJoint, pairs: set[frozenset[str]]) -> bool:
    off = joint.origin - np.array(true.point) / 1000
    axis = np.array(true.axis) / np.linalg.norm(true.axis)
    if joint.kind not in KINDS[true.kind] or frozenset((joint.parent, joint.child)) not in pairs:
        return False
    if true.kind == "ball":
        return bool(np.linalg.norm(off) < 1e-4)
    aside = float(np.linalg.norm(off - axis * (off @ axis)))
    along = abs(float(joint.axis @ axis)) > 0.99999
    # A slide is a direction; where it is drawn does not matter.
    return along and (true.kind == "slide" or aside < 1.5e-4)
