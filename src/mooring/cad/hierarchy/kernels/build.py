"""Building a tree of boxes over triangles."""

from __future__ import annotations

import numpy as np

from mooring.compiling import entry

_LEAF = 4


@entry
def build(triangles, low, high, below, first, count, order):
    """Split triangles (m, 3, 3) at the median of the longest side until few are left.

    Args:
        triangles: to sort into boxes.
        low, high: (2 m, 3) out, the boxes.
        below: (2 m,) out, the first of two child boxes that stand side by side; -1 for a leaf.
        first, count: (2 m,) out, of a leaf, its stretch of `order`.
        order: (m,) out, the triangles leaf by leaf.

    Returns:
        The number of boxes.
    """
    total = triangles.shape[0]
    middles = np.empty((total, 3))
    for t in range(total):
        order[t] = t
        for k in range(3):
            middles[t, k] = (triangles[t, 0, k] + triangles[t, 1, k] + triangles[t, 2, k]) / 3.0
    boxes = 1
    first[0], count[0] = 0, total
    stack = np.empty(128, dtype=np.int64)
    stack[0], waiting = 0, 1
    while waiting > 0:
        waiting -= 1
        box = stack[waiting]
        start, number = first[box], count[box]
        for k in range(3):
            low[box, k], high[box, k] = np.inf, -np.inf
        spread_low, spread_high = np.full(3, np.inf), np.full(3, -np.inf)
        for i in range(start, start + number):
            t = order[i]
            for k in range(3):
                for corner in range(3):
                    low[box, k] = min(low[box, k], triangles[t, corner, k])
                    high[box, k] = max(high[box, k], triangles[t, corner, k])
                spread_low[k] = min(spread_low[k], middles[t, k])
                spread_high[k] = max(spread_high[k], middles[t, k])
        below[box] = -1
        if number <= _LEAF:
            continue
        axis = 0
        for k in range(1, 3):
            if spread_high[k] - spread_low[k] > spread_high[axis] - spread_low[axis]:
                axis = k
        values = np.empty(number)
        for i in range(number):
            values[i] = middles[order[start + i], axis]
        sorted_order = order[start : start + number][np.argsort(values)]
        order[start : start + number] = sorted_order
        half = number // 2
        below[box] = boxes
        first[boxes], count[boxes] = start, half
        first[boxes + 1], count[boxes + 1] = start + half, number - half
        stack[waiting], stack[waiting + 1] = boxes, boxes + 1
        waiting += 2
        boxes += 2
    return boxes
