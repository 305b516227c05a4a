"""What units were worth, remembered from run to run: reading unit definitions takes a while.

The file is named by a hash of the definitions, so a change of these starts a new one; whatever is
wrong with it, the units are read again.
"""

from __future__ import annotations

import hashlib
import json
from functools import cache
from importlib import resources
from pathlib import Path

from mooring.files import cache_folder, write_text


@cache
def _file() -> Path | None:
    folder = cache_folder("units")
    if folder is None:
        return None
    definitions = (resources.files("mooring.units") / "definitions.txt").read_bytes()
    return folder / f"factors-{hashlib.sha256(definitions).hexdigest()[:16]}.json"


@cache
def _factors() -> dict[str, float]:
    """By dimension and unit; the same object for all, which grows."""
    file = _file()
    try:
        said = {} if file is None else json.loads(file.read_text(encoding="utf-8"))
        return {str(key): float(value) for key, value in said.items()}
    except (OSError, ValueError, AttributeError, TypeError):
        return {}


def recall(unit: str, dimension: str) -> float | None:
    """What one of a unit is in SI, if it was found out before."""
    return _factors().get(f"{dimension}: {unit}")


def remember(unit: str, dimension: str, factor: float) -> None:
    """Keep what one of a unit is in SI."""
    factors, file = _factors(), _file()
    factors[f"{dimension}: {unit}"] = factor
    if file is not None:
        try:
            write_text(file, json.dumps(factors, indent=1, sort_keys=True))
        except OSError:
            return
