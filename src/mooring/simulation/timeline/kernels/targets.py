"""Where targets are, and how fast, at any time of a timeline."""

from __future__ import annotations

import numpy as np

from mooring.compiling import kernel
from mooring.simulation.timeline.arrays import CUBIC, TRAPEZOID


@kernel
def targets_at(timeline, time, position, velocity):
    """Targets (m,) of the freedoms at a time; see `Timeline`."""
    ways = timeline.starts.shape[0]
    cycles = 0.0
    if timeline.period > 0.0 and time > timeline.again:
        cycles = np.floor((time - timeline.again) / timeline.period)
        time -= cycles * timeline.period
    # The first way that has not ended.
    low, high = 0, ways
    while low < high:
        middle = (low + high) // 2
        if timeline.ends[middle] <= time:
            low = middle + 1
        else:
            high = middle
    k = low
    if k == ways or time <= timeline.starts[k]:
        for c in range(position.shape[0]):
            position[c] = timeline.points[k, c] + cycles * timeline.advance[c]
            velocity[c] = 0.0
        return
    span = timeline.ends[k] - timeline.starts[k]
    s = (time - timeline.starts[k]) / span
    if timeline.kind[k] == CUBIC:
        # Hermite's cubic, between points that are passed at given speeds.
        for c in range(position.shape[0]):
            p, r = timeline.points[k, c], timeline.points[k + 1, c]
            u, w = span * timeline.speeds[k, 0, c], span * timeline.speeds[k, 1, c]
            quadratic, cubic = 3.0 * (r - p) - 2.0 * u - w, 2.0 * (p - r) + u + w
            position[c] = p + s * (u + s * (quadratic + s * cubic)) + cycles * timeline.advance[c]
            velocity[c] = (u + s * (2.0 * quadratic + 3.0 * s * cubic)) / span
        return
    if timeline.kind[k] == TRAPEZOID:
        way, speed = _trapezoid(s, timeline.ramp[k])
    else:
        # 10 s^3 - 15 s^4 + 6 s^5, the polynomial of least degree that starts and stops gently.
        way = s * s * s * (10.0 + s * (6.0 * s - 15.0))
        speed = 30.0 * s * s * (1.0 - s) * (1.0 - s)
    for c in range(position.shape[0]):
        difference = timeline.points[k + 1, c] - timeline.points[k, c]
        position[c] = timeline.points[k, c] + way * difference + cycles * timeline.advance[c]
        velocity[c] = speed * difference / span


@kernel
def _trapezoid(s, ramp):
    """Speed up evenly for a share of the time, go on, slow down as long."""
    top = 1.0 / (1.0 - ramp)
    if s < ramp:
        return 0.5 * top * s * s / ramp, top * s / ramp
    if s > 1.0 - ramp:
        left = 1.0 - s
        return 1.0 - 0.5 * top * left * left / ramp, top * left / ramp
    return top * (s - 0.5 * ramp), top
