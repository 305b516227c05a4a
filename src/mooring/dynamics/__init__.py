"""Mass matrix, inverse and forward dynamics, energies."""

from mooring.dynamics.forward import forward_dynamics
from mooring.dynamics.inverse import inverse_dynamics
from mooring.dynamics.mass import kinetic_energy, mass_matrix, potential_energy
from mooring.dynamics.springs import spring_efforts
from mooring.standard import STANDARD_GRAVITY

__all__ = [
    "STANDARD_GRAVITY",
    "forward_dynamics",
    "inverse_dynamics",
    "kinetic_energy",
    "mass_matrix",
    "potential_energy",
    "spring_efforts",
]
