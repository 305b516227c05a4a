"""Forces with a law: a file each. A new one is a file here and a name in `FORCES`."""

from mooring.model.definition.variants import Variants, kind_of
from mooring.model.forces.buoyancy import Buoyancy
from mooring.model.forces.drag import Drag
from mooring.model.forces.force import Action, Force
from mooring.model.forces.rotor import RotorThrust

__all__ = ["FORCES", "Action", "Buoyancy", "Drag", "Force", "RotorThrust"]

FORCES: Variants[type[Force]] = Variants(
    "force", Force, kind_of,
    RotorThrust, Drag, Buoyancy,
)  # fmt: skip
