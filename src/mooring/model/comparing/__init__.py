"""What differs between two robots or scenes, in words and numbers."""

from mooring.model.comparing.compare import differences
from mooring.model.comparing.difference import Difference

__all__ = ["Difference", "differences"]
