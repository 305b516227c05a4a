"""Settings of a window, kept per robot from one day to the next."""

from __future__ import annotations

import hashlib
import json
from pathlib import Path
from typing import Any

from mooring.files import cache_folder, write_text

_LARGEST = 64 * 1024


def remembered(file: Path) -> dict[str, Any]:
    """What was kept for a robot, by its file; nothing where nothing was, or it cannot be read."""
    place = _place(file)
    try:
        kept = json.loads(place.read_text("utf-8")) if place else {}
    except (OSError, ValueError):
        return {}
    return kept if isinstance(kept, dict) else {}


def remember(file: Path, settings: dict[str, Any]) -> None:
    """Keep settings of a robot; where nothing can be written they last as long as the window."""
    place = _place(file)
    text = json.dumps(settings)
    if place is None or len(text) > _LARGEST:
        return
    try:
        write_text(place, text)
    except OSError:
        return


def _place(file: Path) -> Path | None:
    folder = cache_folder("windows")
    name = hashlib.sha256(str(file.resolve()).encode()).hexdigest()[:24]
    return None if folder is None else folder / f"{name}.json"
