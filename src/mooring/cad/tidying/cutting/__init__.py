"""One part for each piece of a body that is cut."""

from mooring.cad.tidying.cutting.cut import cut_part
from mooring.cad.tidying.cutting.cutters import (
    BoxCut,
    CreaseCut,
    Cut,
    CylinderCut,
    NeckCut,
    PlaneCut,
)

__all__ = ["BoxCut", "CreaseCut", "Cut", "CylinderCut", "NeckCut", "PlaneCut", "cut_part"]
