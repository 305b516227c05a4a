"""The axis that a cluster is round about, or balanced about as a wheel is."""

from __future__ import annotations

import numpy as np

from mooring.cad.proposing.clusters import Clusters
from mooring.cad.solid import sum_of_solids
from mooring.cad.touching.lines import Axial, distance_from, same_axis
from mooring.geometry import frame_along

_CENTRED = 2e-4
_EVEN = 0.01
"""Of the moment about an axis, by how much the moments across it may differ."""


def round_axis(clusters: Clusters, root: str) -> Axial | None:
    """The axis that all parts of a cluster are round about; screws and balls do not count."""
    seen = clusters.seen
    found: Axial | None = None
    for name in clusters.members[root]:
        if name in seen.screws or name in seen.rolling:
            continue
        own = seen.rounds[name]
        if own is None or not seen.is_round(name):
            return None
        if found is not None and not same_axis(found, own):
            return None
        found = found or own
    return found


def wheel_axis(clusters: Clusters, root: str, but: str = "") -> Axial | None:
    """The axis of a gear or a spoked wheel: all its fits are about it, and it is balanced.

    Args:
        clusters: all.
        root: of the cluster.
        but: a neighbour whose fits with it do not count.
    """
    fits = [
        fit for near, between in clusters.near(root).items() if near != but for fit in between.fits
    ]
    if not fits or not all(same_axis(fits[0], fit) for fit in fits):
        return None
    return fits[0] if balanced(clusters, root, fits[0]) else None


def piece_axis(clusters: Clusters, root: str) -> Axial | None:
    """The axis of a round cluster, or of one that is as good as round."""
    return round_axis(clusters, root) or wheel_axis(clusters, root)


def balanced(clusters: Clusters, root: str, axis: Axial) -> bool:
    """Whether a cluster turns about an axis without shaking, as a wheel does."""
    whole = sum_of_solids([clusters.seen.parts[name].solid for name in clusters.members[root]])
    frame = frame_along(axis.direction)
    moments = frame.T @ whole.inertia @ frame
    uneven = abs(moments[0, 0] - moments[1, 1]) + abs(moments[0, 1])
    tilted = np.abs(moments[:2, 2]).max()
    return bool(
        distance_from(axis, whole.centroid) < _CENTRED
        and max(uneven, tilted) < _EVEN * moments[2, 2]
    )
