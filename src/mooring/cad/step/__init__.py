"""Reading STEP files with Open CASCADE (the extra `step`)."""

from mooring.cad.step.isolated import read_step

__all__ = ["read_step"]
