"""The compiled kinematic tree."""

from mooring.tree.compile import compile_tree
from mooring.tree.tree import Tree

__all__ = ["Tree", "compile_tree"]
