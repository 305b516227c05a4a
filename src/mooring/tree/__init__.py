"""The compiled kinematic tree."""

from mooring.tree.tree import Tree

__all__ = ["Tree"]
