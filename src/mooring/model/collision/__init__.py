"""Collision shapes fitted around the geometry of a link."""

from mooring.model.collision.fit import RULES, fit

__all__ = ["RULES", "fit"]
