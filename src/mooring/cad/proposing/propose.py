"""From the parts of an assembly to links, joints and closures."""

from __future__ import annotations

from mooring.cad.assembly import Assembly
from mooring.cad.proposing.clusters import Clusters
from mooring.cad.proposing.grouping import Grouped, group_parts
from mooring.cad.proposing.kinds import joints_of
from mooring.cad.proposing.limits import with_travel
from mooring.cad.proposing.motors import motors_on
from mooring.cad.proposing.naming import bases_of, link_names
from mooring.cad.proposing.proposal import Proposal, ProposedJoint, ProposedLink
from mooring.cad.proposing.spanning import spanning_tree
from mooring.cad.proposing.survey import survey, usual_tolerance
from mooring.errors import ModelError

_MOST_LISTED = 12


def propose(assembly: Assembly, tolerance: float | None = None) -> Proposal:
    """Propose links and joints.

    Every pair of parts that touch has features in contact: pins in bores, flat faces, balls in
    sockets, surfaces of any kind. Each allows some relative motions and keeps from others; what
    they leave together, over pairs and then over clusters of parts that cannot move against each
    other, is the joint. See `touching.freedoms`, `grouping` and `moving`.

    Args:
        assembly: with its parts in place.
        tolerance: how far apart parts may be and still touch [m]; by the size of the whole if not
            given, half a millimetre for most machines.

    Raises:
        ModelError: a tolerance that is not above zero.
    """
    if tolerance is not None and not tolerance > 0:
        raise ModelError(f"the tolerance is above 0 m, got {tolerance:g} m")
    seen = survey(assembly, usual_tolerance(assembly) if tolerance is None else tolerance)
    grouped = group_parts(seen)
    clusters = grouped.clusters
    edges = grouped.edges
    names = link_names(clusters)
    bases = bases_of(seen, grouped, edges)
    base, why = bases[0]
    joints, notes, undecided = spanning_tree(
        clusters, names, base, joints_of(clusters, names, edges)
    )
    parts = {names[r]: [seen.parts[n] for n in own] for r, own in clusters.members.items()}
    meshing = [(names[a], names[b]) for a, b in grouped.gears]
    joints = list(with_travel(joints, parts, meshing, 1.5 * seen.tolerance))
    by_name = {name: root for root, name in names.items()}
    outwards = [base, *(by_name[joint.child] for joint in joints if not joint.closes)]
    undecided += [*grouped.singles, *_ties(clusters), *_loose_contacts(grouped, names)]
    notes += [f"{name} bends, and no joint was looked for on it" for name in grouped.flexible]
    return Proposal(
        names[base],
        why,
        tuple((names[root], reason) for root, reason in bases[1:]),
        tuple(_link(clusters, names[root], root) for root in outwards),
        tuple(joints),
        _equal_pairs(clusters, names, joints),
        tuple((h.name, len(h.parts), "; ".join(h.reasons)) for h in seen.hardware),
        motors_on(joints, assembly.parts),
        tuple(dict.fromkeys(undecided)),
        tuple(dict.fromkeys(notes)),
    )


def _link(clusters: Clusters, name: str, root: str) -> ProposedLink:
    reasons = [why for why in dict.fromkeys(clusters.why.get(root, [])) if why]
    reason = "; ".join(reasons) or "a part by itself"
    inside = set(clusters.members[root])
    parts = tuple(n for n in clusters.seen.parts if n in inside)
    return ProposedLink(name, parts, reason)


def _equal_pairs(
    clusters: Clusters, names: dict[str, str], joints: list[ProposedJoint]
) -> tuple[tuple[str, str], ...]:
    """Pairs of joints of one kind and one parent whose children are made of the same parts."""
    shapes = {
        names[root]: sorted(id(clusters.seen.parts[n].geometry) for n in members)
        for root, members in clusters.members.items()
    }
    found = []
    for number, one in enumerate(joints):
        for other in joints[number + 1 :]:
            like = (one.kind, one.parent) == (other.kind, other.parent)
            moves = one.kind in ("revolute", "continuous", "prismatic")
            equal = shapes[one.child] == shapes[other.child]
            if like and moves and equal and not (one.closes or other.closes):
                found.append((one.name, other.name))
    return tuple(found)


def _ties(clusters: Clusters) -> list[str]:
    listed = [
        f"{name} in {taken} (or {other})" for name, (taken, other) in sorted(clusters.ties.items())
    ]
    if not listed:
        return []
    more = f", and {len(listed) - _MOST_LISTED} more" if len(listed) > _MOST_LISTED else ""
    return [f"what is fixed where, as sizes do not tell: {', '.join(listed[:_MOST_LISTED])}{more}"]


def _loose_contacts(grouped: Grouped, names: dict[str, str]) -> list[str]:
    """What touches, and is neither held nor a joint."""
    found = [
        f"{names[a]} and {names[b]} touch as gears do; if they mesh, couple their joints"
        for a, b in grouped.gears
    ]
    found += [
        f"{names[a]} and {names[b]} touch, and nothing was made of it: held together, joints could "
        "not move"
        for a, b in grouped.loose
    ]
    return found
