"""Quantities in, SI out: a number is SI, a string carries its unit."""

from mooring.units.amount import Amount
from mooring.units.dimensions import DIMENSIONS, Dimension
from mooring.units.expression import RESERVED, evaluate
from mooring.units.parse import to_si
from mooring.units.show import show, show_point
from mooring.units.write import written

__all__ = [
    "DIMENSIONS",
    "RESERVED",
    "Amount",
    "Dimension",
    "evaluate",
    "show",
    "show_point",
    "to_si",
    "written",
]
