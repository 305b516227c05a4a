"""Assemblies: what a CAD file holds, and what can be asked and made of it."""

from mooring.cad.assembly.assembly import Assembly, joined

__all__ = ["Assembly", "joined"]
