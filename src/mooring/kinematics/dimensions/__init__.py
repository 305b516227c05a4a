"""Tables of dimensions against the axes that the CAD really has."""

from mooring.kinematics.dimensions.compare import compare_dimensions
from mooring.kinematics.dimensions.measure import measure
from mooring.kinematics.dimensions.report import DimensionReport

__all__ = ["DimensionReport", "compare_dimensions", "measure"]
