"""Which of the ways that clusters have the whole mechanism can use: its loops decide."""

from __future__ import annotations

from collections import deque
from dataclasses import replace

import numpy as np

from mooring.cad.proposing.ways import Way
from mooring.cad.touching.lines import same_axis
from mooring.geometry import Array

Edge = tuple[str, str, Way]

_ZERO = 1e-3
"""Of a unit motion of the mechanism, what a joint's share must be to count as moving."""
_LOOSE = 2e-3
"""Singular values below which loops are taken to leave a motion: pins are never quite parallel."""


def usable(edges: list[Edge], size: float) -> list[tuple[bool, ...] | None]:
    """For each edge, which of its twists can move; None where it is in no loop.

    All twists of all edges, each in its column, must add up to nothing around every loop. What is
    left free is the null space.

    Args:
        edges: pairs of clusters with the ways they can move.
        size: of the whole [m], by which speeds are measured.
    """
    loops = _loops(edges)
    if not loops:
        return [None] * len(edges)
    used = {edge for loop in loops for edge, _ in loop}
    here = _moving(edges, loops, used, size)
    # Machines are drawn at dead points, too, where what can slide stands still for a moment.
    aside = _moving(_aside(edges, size), loops, used, size)
    return [
        tuple(x or y for x, y in zip(here[e], aside[e], strict=True)) if e in used else None
        for e in range(len(edges))
    ]


def _aside(edges: list[Edge], size: float) -> list[Edge]:
    """The same with every axis moved a little, those on one line together."""
    random = np.random.default_rng(1)
    shifts: list[tuple[Way, Array]] = []
    moved: list[Edge] = []
    for a, b, way in edges:
        known = [shift for other, shift in shifts if same_axis(other, way)]
        shift = known[0] if known else 0.02 * size * random.uniform(-1, 1, 3)
        shifts.append((way, shift))
        moved.append((a, b, replace(way, origin=way.origin + shift)))
    return moved


def _moving(
    edges: list[Edge], loops: list[list[tuple[int, float]]], used: set[int], size: float
) -> list[tuple[bool, ...]]:
    """For each edge, which of its twists the loops leave free."""
    starts = np.cumsum([0, *(len(way.twists()) for _, _, way in edges)])
    rows = np.zeros((6 * len(loops), int(starts[-1])))
    scale = np.array([1, 1, 1, 1 / size, 1 / size, 1 / size])
    for number, loop in enumerate(loops):
        for edge, sign in loop:
            columns = np.array(edges[edge][2].twists()).T * scale[:, None]
            columns /= np.linalg.norm(columns, axis=0)
            rows[6 * number : 6 * number + 6, starts[edge] : starts[edge + 1]] += sign * columns
    chosen = np.concatenate([np.arange(starts[e], starts[e + 1]) for e in sorted(used)])
    _, values, directions = np.linalg.svd(rows[:, chosen], full_matrices=True)
    sizes = np.zeros(len(chosen))
    sizes[: len(values)] = values
    null = directions[sizes < _LOOSE]
    most = np.zeros(int(starts[-1]))
    most[chosen] = np.abs(null).max(axis=0, initial=0.0)
    return [
        tuple(bool(m > _ZERO) for m in most[starts[e] : starts[e + 1]]) for e in range(len(edges))
    ]


def _loops(edges: list[Edge]) -> list[list[tuple[int, float]]]:
    """For each edge outside a spanning forest the loop that it closes."""
    near: dict[str, list[tuple[int, str, float]]] = {}
    for number, (a, b, _) in enumerate(edges):
        near.setdefault(a, []).append((number, b, 1.0))
        near.setdefault(b, []).append((number, a, -1.0))
    came: dict[str, tuple[str, int, float] | None] = {}
    tree: set[int] = set()
    for root in near:
        if root in came:
            continue
        came[root] = None
        waiting = deque([root])
        while waiting:
            here = waiting.popleft()
            for number, there, sign in near[here]:
                if there not in came:
                    came[there] = (here, number, sign)
                    tree.add(number)
                    waiting.append(there)

    def way_up(node: str) -> list[tuple[int, float]]:
        found = []
        step = came[node]
        while step is not None:
            found.append((step[1], step[2]))
            step = came[step[0]]
        return found

    loops = []
    for number, (a, b, _) in enumerate(edges):
        if number in tree:
            continue
        total: dict[int, float] = {number: 1.0}
        for edge, sign in way_up(a):
            total[edge] = total.get(edge, 0.0) + sign
        for edge, sign in way_up(b):
            total[edge] = total.get(edge, 0.0) - sign
        loops.append([(edge, sign) for edge, sign in total.items() if sign])
    return loops
