"""Making an assembly fit for a robot: finding hardware, splitting and joining parts."""

from mooring.cad.tidying.hardware import Hardware, find_hardware
from mooring.cad.tidying.join import joined_part
from mooring.cad.tidying.split import split_part

__all__ = ["Hardware", "find_hardware", "joined_part", "split_part"]
