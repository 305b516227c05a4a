"""One part for each piece of a body that is cut."""

from mooring.cad.tidying.cutting.cutters import (
    BoxCut,
    CreaseCut,
    Cut,
    CylinderCut,
    NeckCut,
    PlaneCut,
)

__all__ = ["BoxCut", "CreaseCut", "Cut", "CylinderCut", "NeckCut", "PlaneCut"]
