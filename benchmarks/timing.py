"""How durations are taken."""

from __future__ import annotations

import time
from collections.abc import Callable


def best_of(call: Callable[[], object], times: int = 5) -> float:
    """The shortest of several durations [s], the first call not counted."""
    call()
    durations = []
    for _ in range(times):
        began = time.perf_counter()
        call()
        durations.append(time.perf_counter() - began)
    return min(durations)
