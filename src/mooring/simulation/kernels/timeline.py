"""Target positions along a motion: quintic ways between points, waits in between."""

from __future__ import annotations

from mooring.compiling import kernel


@kernel
def targets_at(time, starts, ends, points, position, velocity):
    """Targets (m,) at a time.

    Way k goes from points[k] to points[k + 1] between starts[k] and ends[k] with speed and
    acceleration zero at both ends; between ways, before the first and after the last the targets
    rest. `starts` and `ends` are (k,), `points` is (k + 1, m).
    """
    ways = starts.shape[0]
    k = 0
    while k < ways and time >= ends[k]:
        k += 1
    if k == ways or time <= starts[k]:
        position[:] = points[k]
        velocity[:] = 0.0
        return
    span = ends[k] - starts[k]
    s = (time - starts[k]) / span
    # 10 s^3 - 15 s^4 + 6 s^5, the polynomial of least degree that starts and stops gently.
    way = s * s * s * (10.0 + s * (6.0 * s - 15.0))
    speed = 30.0 * s * s * (1.0 - s) * (1.0 - s) / span
    for j in range(position.shape[0]):
        difference = points[k + 1, j] - points[k, j]
        position[j] = points[k, j] + way * difference
        velocity[j] = speed * difference
