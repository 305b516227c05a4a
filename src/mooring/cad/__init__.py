"""CAD files as assemblies of parts, with the features that joints are placed on."""

from mooring.cad.assembly import Assembly, joined
from mooring.cad.mesh import Mesh
from mooring.cad.part import Geometry, Part
from mooring.cad.places.axis import Axis
from mooring.cad.places.frame import Frame
from mooring.cad.read import read_cad
from mooring.cad.tidying.cutting import BoxCut, CreaseCut, CylinderCut, NeckCut, PlaneCut

__all__ = [
    "Assembly",
    "Axis",
    "BoxCut",
    "CreaseCut",
    "CylinderCut",
    "Frame",
    "Geometry",
    "Mesh",
    "NeckCut",
    "Part",
    "PlaneCut",
    "joined",
    "read_cad",
]
