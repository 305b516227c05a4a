"""Names for what is proposed, from the CAD."""

from __future__ import annotations

from mooring.cad.proposing.clusters import Clusters
from mooring.cad.proposing.grouping import Grouped
from mooring.cad.proposing.survey import Survey
from mooring.cad.proposing.ways import Way

_FEWEST_MOUNTS = 3
"""Bolts into nothing, by which a group is thought to be bolted to the ground or a hull."""
_HUB = 3
"""Neighbours from which on a group is thought to be the body that limbs or wheels are joined to."""


def link_names(clusters: Clusters) -> dict[str, str]:
    """A name for each cluster: its largest part's sub-assembly's, or that part's."""
    seen = clusters.seen
    largest = {
        root: max((seen.parts[n] for n in names), key=lambda p: abs(p.volume))
        for root, names in clusters.members.items()
    }
    names: dict[str, str] = {}
    taken: set[str] = set()
    for root in sorted(clusters.members, key=lambda r: -clusters.volume(r)):
        folder = largest[root].path.split("/")[-2:-1]
        wanted = folder[0].removesuffix("_assembly") if folder and seen.told_apart else ""
        if not wanted or wanted in taken or wanted == seen.assembly.name:
            wanted = largest[root].name
        names[root] = unique(wanted, taken)
    return names


def unique(wanted: str, taken: set[str]) -> str:
    """A name that is not taken yet, and no expression; it is taken then."""
    wanted = wanted.lstrip("= ") or "part"
    name, number = wanted, 1
    while name in taken:
        number += 1
        name = f"{wanted}_{number}"
    taken.add(name)
    return name


def bases_of(
    seen: Survey, grouped: Grouped, edges: list[tuple[str, str, Way]]
) -> list[tuple[str, str]]:
    """The clusters that may be the base, the likeliest first, each with the reason."""
    clusters = grouped.clusters
    found: dict[str, str] = {}
    bolted = max(grouped.mounts, key=lambda r: grouped.mounts[r], default=None)
    if bolted is not None and grouped.mounts[bolted] >= _FEWEST_MOUNTS:
        found[bolted] = (
            f"{grouped.mounts[bolted]} of its bolts lead into something that is not here"
        )
    degree = {root: sum(root in (a, b) for a, b, _ in edges) for root in clusters.members}
    hub = max(clusters.members, key=lambda r: (degree[r], clusters.volume(r)))
    if degree[hub] >= _HUB and list(degree.values()).count(degree[hub]) == 1:
        found.setdefault(hub, f"{degree[hub]} others are joined to it, more than to any")
    lows = {
        root: min(float(seen.parts[n].vertices[:, 2].min()) for n in names)
        for root, names in clusters.members.items()
    }
    floor, highest = (float(v) for v in seen.assembly.bounds[:, 2])
    near = [r for r, low in lows.items() if low <= floor + 0.02 * (highest - floor)]
    lowest = max(near, key=clusters.volume)
    among = ", and of what stands on the ground it is the largest" if len(near) > 1 else ""
    found.setdefault(lowest, f"nothing reaches lower{among}")
    return list(found.items())
