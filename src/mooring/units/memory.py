"""What units were worth, remembered from run to run: reading unit definitions takes a while.

The file is named by a hash of the definitions, so a change of these starts a new one; whatever is
wrong with it, the units are read again.
"""

from __future__ import annotations

import hashlib
import json
from functools import cache
from importlib import resources

from mooring.caching import keep, kept


@cache
def _name() -> str:
    definitions = (resources.files("mooring.units") / "definitions.txt").read_bytes()
    return f"factors-{hashlib.sha256(definitions).hexdigest()[:16]}.json"


@cache
def _factors() -> dict[str, float]:
    """By dimension and unit; the same object for all, which grows."""
    found = kept("units", _name())
    try:
        said = {} if found is None else json.loads(found)
        return {str(key): float(value) for key, value in said.items()}
    except (ValueError, AttributeError, TypeError):
        return {}


def recall(unit: str, dimension: str) -> float | None:
    """What one of a unit is in SI, if it was found out before."""
    return _factors().get(f"{dimension}: {unit}")


def remember(unit: str, dimension: str, factor: float) -> None:
    """Keep what one of a unit is in SI."""
    factors = _factors()
    factors[f"{dimension}: {unit}"] = factor
    keep("units", _name(), json.dumps(factors, indent=1, sort_keys=True).encode())
