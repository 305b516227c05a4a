"""Distances and overlaps between the collision shapes of links."""

from mooring.kinematics.overlaps.along import NearestPass, clearances_along
from mooring.kinematics.overlaps.clusters import Cluster, clusters
from mooring.kinematics.overlaps.measure import Clearance, MetPairs, Surroundings, clearances
from mooring.kinematics.overlaps.pairs import Pairs, pairs_of
from mooring.kinematics.overlaps.survey import Meeting, Survey, survey

__all__ = [
    "Clearance",
    "Cluster",
    "Meeting",
    "MetPairs",
    "NearestPass",
    "Pairs",
    "Surroundings",
    "Survey",
    "clearances",
    "clearances_along",
    "clusters",
    "pairs_of",
    "survey",
]
