"""CAD files as assemblies of parts, with the features that joints are placed on."""

from mooring.cad.assembly import Assembly, joined
from mooring.cad.mesh import Mesh
from mooring.cad.part import Geometry, Part
from mooring.cad.places.axis import Axis
from mooring.cad.places.frame import Frame
from mooring.cad.read import read_cad

__all__ = ["Assembly", "Axis", "Frame", "Geometry", "Mesh", "Part", "joined", "read_cad"]
