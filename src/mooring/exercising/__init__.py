"""Every joint through its range: what it hits, what holds it, how long it takes."""

from mooring.exercising.changes import Change
from mooring.exercising.efforts import HoldingEffort
from mooring.exercising.perform import Exercise, exercise
from mooring.exercising.sweeps import Sweep

__all__ = ["Change", "Exercise", "HoldingEffort", "Sweep", "exercise"]
