"""Contact with uneven ground: heights over a grid, two triangles a cell.

What has corners meets the ground below each of them; what is round meets each triangle at the
points of the side that looks at it, where they lie over the triangle. Peaks of the ground, which
may poke into a side between its corners, are met as well. What is deeper below the ground than its
own size came from beyond the edge, and is left alone.
"""

from __future__ import annotations

from math import cos, floor, pi, sin, sqrt

from mooring.compiling import kernel
from mooring.kinematics.overlaps.kernels.distance import signed_distance
from mooring.kinematics.overlaps.kernels.support import CYLINDER
from mooring.simulation.contact.kernels.faces import side_towards
from mooring.simulation.contact.kernels.manifold import keep_spread
from mooring.tree.kernels.vectors import forward

_MOST_POINTS = 6
_RIM = 12
"""Corners on each end of a cylinder."""


@kernel
def height_at(heights, grid, x, y):
    """The height below a point, and the unit normal there; -inf beyond the edge."""
    u, v = (x - grid[0]) / grid[2], (y - grid[1]) / grid[3]
    i, j = int(floor(u)), int(floor(v))
    if i < 0 or j < 0 or i + 1 >= heights.shape[0] or j + 1 >= heights.shape[1]:
        if not (i + 1 == heights.shape[0] and u == i) and not (
            j + 1 == heights.shape[1] and v == j
        ):
            return -1e300, 0.0, 0.0, 1.0
        i, j = min(i, heights.shape[0] - 2), min(j, heights.shape[1] - 2)
    return _on_cell(heights, grid, i, j, u - i, v - j)


@kernel
def _on_cell(heights, grid, i, j, u, v):
    low, high = heights[i, j], heights[i + 1, j + 1]
    if u >= v:
        along, across = heights[i + 1, j] - low, high - heights[i + 1, j]
    else:
        along, across = high - heights[i, j + 1], heights[i, j + 1] - low
    dx, dy = along / grid[2], across / grid[3]
    length = sqrt(1.0 + dx * dx + dy * dy)
    return low + along * u + across * v, -dx / length, -dy / length, 1.0 / length


@kernel
def uneven_contacts(
    contact, s, turn, place, middle, margin, distance_work, work, found, spot, out
):  # fmt: skip
    """Points (n, 7) of a shape on uneven ground: where, gap, normal; returns how many."""
    shapes, heights, grid = contact.shapes, contact.heights, contact.grid
    reach = shapes.ball[s, 3] + margin
    first_i = max(0, int(floor((middle[0] - reach - grid[0]) / grid[2])))
    last_i = min(heights.shape[0] - 2, int(floor((middle[0] + reach - grid[0]) / grid[2])))
    first_j = max(0, int(floor((middle[1] - reach - grid[1]) / grid[3])))
    last_j = min(heights.shape[1] - 2, int(floor((middle[1] + reach - grid[1]) / grid[3])))
    count = 0
    if shapes.kind[s] == CYLINDER or shapes.last[s] - shapes.first[s] > 2:
        count = _corners(shapes, s, turn, place, heights, grid, margin, out, count)
    if shapes.kind[s] == CYLINDER or shapes.last[s] - shapes.first[s] <= 2:
        count = _facets(
            shapes, s, turn, place, middle[2] - reach, heights, grid, margin, first_i, last_i,
            first_j, last_j, work[0], work[1], out, count,
        )  # fmt: skip
    count = _peaks(
        contact, s, turn, place, middle, reach, margin, first_i, last_i, first_j, last_j,
        distance_work, found, spot, out, count,
    )  # fmt: skip
    return keep_spread(out, count, _MOST_POINTS)


@kernel
def _corners(shapes, s, turn, place, heights, grid, margin, out, count):
    """Add corners of a shape that are below the ground, or nearly; a cylinder's are on its rims."""
    bar = shapes.kind[s] == CYLINDER
    first = 0 if bar else shapes.first[s]
    last = 2 * _RIM if bar else shapes.last[s]
    for k in range(first, last):
        if bar:
            angle = pi * k / _RIM
            # Every other one on either end.
            a, b = shapes.size[s, 0] * cos(angle), shapes.size[s, 0] * sin(angle)
            c = shapes.size[s, 1] if k % 2 == 0 else -shapes.size[s, 1]
        else:
            a, b, c = shapes.points[k, 0], shapes.points[k, 1], shapes.points[k, 2]
        x, y, z = forward(turn, a, b, c)
        x, y, z = x + place[0], y + place[1], z + place[2]
        height, nx, ny, nz = height_at(heights, grid, x, y)
        gap = (z - height) * nz - shapes.radius[s]
        if -shapes.ball[s, 3] < gap < margin and height > -1e299 and count < out.shape[0]:
            away = shapes.radius[s] + 0.5 * gap
            out[count, 0], out[count, 1] = x - away * nx, y - away * ny
            out[count, 2] = z - away * nz
            out[count, 3] = gap
            out[count, 4], out[count, 5], out[count, 6] = nx, ny, nz
            count += 1
    return count


@kernel
def _facets(
    shapes, s, turn, place, low, heights, grid, margin, first_i, last_i, first_j, last_j, loose,
    side, out, count,
):  # fmt: skip
    """Add points of a round shape on the triangles below it; it reaches down to `low`."""
    most = out.shape[0]
    for i in range(first_i, last_i + 1):
        for j in range(first_j, last_j + 1):
            top = max(
                max(heights[i, j], heights[i + 1, j]), max(heights[i, j + 1], heights[i + 1, j + 1])
            )
            if low > top:
                continue
            for half in range(2):
                # A point well inside either triangle tells which one is meant.
                u, v = (0.75, 0.25) if half == 0 else (0.25, 0.75)
                _, nx, ny, nz = _on_cell(heights, grid, i, j, u, v)
                corners = side_towards(shapes, s, turn, place, -nx, -ny, -nz, loose, side)
                for k in range(corners):
                    x, y, z = side[k, 0], side[k, 1], side[k, 2]
                    u, v = (x - grid[0]) / grid[2] - i, (y - grid[1]) / grid[3] - j
                    if u < 0.0 or v < 0.0 or u >= 1.0 or v >= 1.0 or (u >= v) != (half == 0):
                        continue
                    height, _, _, _ = _on_cell(heights, grid, i, j, u, v)
                    gap = (z - height) * nz
                    if -shapes.ball[s, 3] < gap < margin and count < most:
                        out[count, 0] = x - 0.5 * gap * nx
                        out[count, 1] = y - 0.5 * gap * ny
                        out[count, 2] = z - 0.5 * gap * nz
                        out[count, 3] = gap
                        out[count, 4], out[count, 5], out[count, 6] = nx, ny, nz
                        count += 1
    return count


@kernel
def _peaks(
    contact, s, turn, place, middle, reach, margin, first_i, last_i, first_j, last_j, work, found,
    spot, out, count,
):  # fmt: skip
    """Add contacts with peaks of the ground: grid points higher than those around them."""
    shapes, heights, grid = contact.shapes, contact.heights, contact.grid
    # The last of the shapes is a mere point.
    probe = shapes.body.shape[0] - 1
    for i in range(first_i, last_i + 2):
        for j in range(first_j, last_j + 2):
            x, y, z = grid[0] + i * grid[2], grid[1] + j * grid[3], heights[i, j]
            dx, dy, dz = x - middle[0], y - middle[1], z - middle[2]
            if dx * dx + dy * dy + dz * dz > reach * reach or count == out.shape[0]:
                continue
            if not _is_peak(heights, i, j):
                continue
            spot[0], spot[1], spot[2] = x, y, z
            way = work[7]
            way[3], way[4], way[5] = 0.0, 0.0, 1.0
            distance = signed_distance(shapes, probe, turn, spot, s, turn, place, work, found)
            if distance < margin and found[8] > 0.3:
                for k in range(3):
                    out[count, k] = 0.5 * (found[k] + found[3 + k])
                    out[count, 4 + k] = found[6 + k]
                out[count, 3] = distance
                count += 1
    return count


@kernel
def _is_peak(heights, i, j):
    """Whether the ground bulges here, along either direction of the grid."""
    z = heights[i, j]
    last_i, last_j = heights.shape[0] - 1, heights.shape[1] - 1
    along = 0 < i < last_i and z > 0.5 * (heights[i - 1, j] + heights[i + 1, j]) + 1e-9
    across = 0 < j < last_j and z > 0.5 * (heights[i, j - 1] + heights[i, j + 1]) + 1e-9
    return along or across
