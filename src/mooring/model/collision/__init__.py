"""Collision shapes fitted around the geometry of a link."""

from mooring.model.collision.definition import (
    Collision,
    CollisionRule,
    CollisionWords,
    read_collision,
)
from mooring.model.collision.rules import Fit, chosen_parts, fit

__all__ = [
    "Collision",
    "CollisionRule",
    "CollisionWords",
    "Fit",
    "chosen_parts",
    "fit",
    "read_collision",
]
