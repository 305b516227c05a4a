"""The rules, by subject. Importing this package registers them."""

from mooring.checks.rules import inertia, limits, names, parts, postures, tree

__all__ = ["inertia", "limits", "names", "parts", "postures", "tree"]
