"""Settings of a window, kept per robot from one day to the next."""

from __future__ import annotations

import hashlib
import json
from pathlib import Path
from typing import Any

from mooring.caching import keep, kept
from mooring.files import true_path

_LARGEST = 64 * 1024


def remembered(file: Path) -> dict[str, Any]:
    """What was kept for a robot, by its file; nothing where nothing was, or it cannot be read."""
    content = kept("windows", _name(file))
    try:
        found = {} if content is None else json.loads(content)
    except ValueError:
        return {}
    return found if isinstance(found, dict) else {}


def remember(file: Path, settings: dict[str, Any]) -> None:
    """Keep settings of a robot; where nothing can be written they last as long as the window."""
    text = json.dumps(settings)
    if len(text) <= _LARGEST:
        keep("windows", _name(file), text.encode())


def _name(file: Path) -> str:
    return f"{hashlib.sha256(str(true_path(file)).encode()).hexdigest()[:24]}.json"
