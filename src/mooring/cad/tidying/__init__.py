"""Making an assembly fit for a robot: what to leave out, split, join, mend and simplify."""

from mooring.cad.tidying.hardware import Hardware, find_hardware
from mooring.cad.tidying.hidden import hidden_parts
from mooring.cad.tidying.join import joined_part
from mooring.cad.tidying.repair import repaired
from mooring.cad.tidying.simplify import Ladder, Simplified, tolerance_for
from mooring.cad.tidying.split import split_part

__all__ = [
    "Hardware",
    "Ladder",
    "Simplified",
    "find_hardware",
    "hidden_parts",
    "joined_part",
    "repaired",
    "split_part",
    "tolerance_for",
]
