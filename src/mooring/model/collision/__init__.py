"""Collision shapes fitted around the geometry of a link."""

from mooring.model.collision.rules import RULES, fit, refuse_unfit

__all__ = ["RULES", "fit", "refuse_unfit"]
