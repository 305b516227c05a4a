"""Where two convex shapes touch: up to four points with their gaps.

The sides of both shapes that look at each other are projected along the normal and cut with each
other (Sutherland and Hodgman 1974); each corner of what they share is a point of contact.
"""

from __future__ import annotations

from mooring.compiling import kernel
from mooring.simulation.contact.kernels.faces import plane_axes, side_towards

MOST_POINTS = 4


@kernel
def manifold(shapes, a, turn_a, place_a, b, turn_b, place_b, found, distance, margin, work, points):
    """Fill points (n, 4) with places between the surfaces and their gaps; returns how many.

    Args:
        found: nearest points and unit normal from a to b, as `signed_distance` leaves them.
        distance: between the shapes, less than zero where they overlap.
        margin: gaps wider than this are left out.
        work: scratch from `new_manifold`.
    """
    loose, side_a, side_b, cut, spare = work
    nx, ny, nz = found[6], found[7], found[8]
    count_a = side_towards(shapes, a, turn_a, place_a, nx, ny, nz, loose, side_a)
    count_b = side_towards(shapes, b, turn_b, place_b, -nx, -ny, -nz, loose, side_b)
    count = 0
    if count_a > 1 and count_b > 1:
        ux, uy, uz, vx, vy, vz = plane_axes(nx, ny, nz)
        _project(side_a, count_a, ux, uy, uz, vx, vy, vz, nx, ny, nz)
        _project(side_b, count_b, ux, uy, uz, vx, vy, vz, nx, ny, nz)
        shared = _shared(side_a, count_a, side_b, count_b, cut, spare)
        for k in range(shared):
            u, v = cut[k, 0], cut[k, 1]
            low, high = _height(side_a, count_a, u, v), _height(side_b, count_b, u, v)
            gap = high - low
            if gap < margin:
                w = 0.5 * (low + high)
                cut[count, 0] = u * ux + v * vx + w * nx
                cut[count, 1] = u * uy + v * vy + w * ny
                cut[count, 2] = u * uz + v * vz + w * nz
                # Sides that lean apart meet where the shapes do, never nearer.
                cut[count, 3] = max(gap, distance)
                count += 1
    if count == 0:
        for k in range(3):
            points[0, k] = 0.5 * (found[k] + found[3 + k])
        points[0, 3] = distance
        return 1
    count = keep_spread(cut, count, MOST_POINTS)
    for k in range(count):
        for j in range(4):
            points[k, j] = cut[k, j]
    return count


@kernel
def _project(points, count, ux, uy, uz, vx, vy, vz, nx, ny, nz):
    for k in range(count):
        x, y, z = points[k, 0], points[k, 1], points[k, 2]
        points[k, 0] = ux * x + uy * y + uz * z
        points[k, 1] = vx * x + vy * y + vz * z
        points[k, 2] = nx * x + ny * y + nz * z


@kernel
def _shared(side_a, count_a, side_b, count_b, cut, spare):
    """What two sides share in the plane; corners in cut[:, 0:2]."""
    if count_a == 2 and count_b == 2:
        return _shared_by_edges(side_a, side_b, cut)
    if count_a == 2:
        return _cut_edge(side_a, side_b, count_b, -1.0, cut)
    if count_b == 2:
        return _cut_edge(side_b, side_a, count_a, 1.0, cut)
    for k in range(count_b):
        cut[k, 0], cut[k, 1] = side_b[k, 0], side_b[k, 1]
    size = count_b
    for k in range(count_a):
        px, py = side_a[k, 0], side_a[k, 1]
        j = k + 1 if k + 1 < count_a else 0
        dx, dy = side_a[j, 0] - px, side_a[j, 1] - py
        kept = 0
        for m in range(size):
            x, y = cut[m, 0], cut[m, 1]
            following = m + 1 if m + 1 < size else 0
            tx, ty = cut[following, 0], cut[following, 1]
            here = dx * (y - py) - dy * (x - px)
            there = dx * (ty - py) - dy * (tx - px)
            if here >= 0.0 and kept < spare.shape[0]:
                spare[kept, 0], spare[kept, 1] = x, y
                kept += 1
            if (here > 0.0 and there < 0.0) or (here < 0.0 and there > 0.0):
                share = here / (here - there)
                if kept < spare.shape[0]:
                    spare[kept, 0], spare[kept, 1] = x + share * (tx - x), y + share * (ty - y)
                    kept += 1
        size = kept
        for m in range(size):
            cut[m, 0], cut[m, 1] = spare[m, 0], spare[m, 1]
    return size


@kernel
def _cut_edge(edge, side, count, sense, cut):
    """The part of an edge inside a side, whose corners go round in a sense."""
    px, py = edge[0, 0], edge[0, 1]
    dx, dy = edge[1, 0] - px, edge[1, 1] - py
    first, last = 0.0, 1.0
    for k in range(count):
        j = k + 1 if k + 1 < count else 0
        ex, ey = sense * (side[j, 0] - side[k, 0]), sense * (side[j, 1] - side[k, 1])
        at_start = ex * (py - side[k, 1]) - ey * (px - side[k, 0])
        rate = ex * dy - ey * dx
        if rate == 0.0:
            if at_start < 0.0:
                return 0
        elif rate > 0.0:
            first = max(first, -at_start / rate)
        else:
            last = min(last, -at_start / rate)
    if first > last:
        return 0
    cut[0, 0], cut[0, 1] = px + first * dx, py + first * dy
    cut[1, 0], cut[1, 1] = px + last * dx, py + last * dy
    return 2


@kernel
def _shared_by_edges(edge_a, edge_b, cut):
    """The stretch that two nearly parallel edges have in common; none where they cross."""
    px, py = edge_a[0, 0], edge_a[0, 1]
    dx, dy = edge_a[1, 0] - px, edge_a[1, 1] - py
    ex, ey = edge_b[1, 0] - edge_b[0, 0], edge_b[1, 1] - edge_b[0, 1]
    squared = dx * dx + dy * dy
    across = dx * ey - dy * ex
    if across * across > 0.0025 * squared * (ex * ex + ey * ey) or squared == 0.0:
        return 0
    s = (dx * (edge_b[0, 0] - px) + dy * (edge_b[0, 1] - py)) / squared
    t = (dx * (edge_b[1, 0] - px) + dy * (edge_b[1, 1] - py)) / squared
    first, last = max(0.0, min(s, t)), min(1.0, max(s, t))
    if first >= last:
        return 0
    cut[0, 0], cut[0, 1] = px + first * dx, py + first * dy
    cut[1, 0], cut[1, 1] = px + last * dx, py + last * dy
    return 2


@kernel
def _height(side, count, u, v):
    """How high a side is over a point of the plane."""
    if count == 2:
        dx, dy = side[1, 0] - side[0, 0], side[1, 1] - side[0, 1]
        squared = dx * dx + dy * dy
        if squared == 0.0:
            return side[0, 2]
        share = (dx * (u - side[0, 0]) + dy * (v - side[0, 1])) / squared
        return side[0, 2] + min(1.0, max(0.0, share)) * (side[1, 2] - side[0, 2])
    # The side's plane, by the areas of its shadows (Newell).
    a, b, c, x, y, z = 0.0, 0.0, 0.0, 0.0, 0.0, 0.0
    for k in range(count):
        j = k + 1 if k + 1 < count else 0
        a += (side[k, 1] - side[j, 1]) * (side[k, 2] + side[j, 2])
        b += (side[k, 2] - side[j, 2]) * (side[k, 0] + side[j, 0])
        c += (side[k, 0] - side[j, 0]) * (side[k, 1] + side[j, 1])
        x, y, z = x + side[k, 0], y + side[k, 1], z + side[k, 2]
    x, y, z = x / count, y / count, z / count
    if abs(c) < 1e-18:
        return z
    return z - (a * (u - x) + b * (v - y)) / c


@kernel
def keep_spread(points, count, most):
    """Bring the deepest of the points (n, >= 4) to the front, then always the one farthest from
    those in front; returns how many are kept."""
    if count <= most:
        return count
    for kept in range(most):
        best, value = kept, -1e300
        for k in range(kept, count):
            if kept == 0:
                judged = -points[k, 3]
            else:
                judged = 1e300
                for m in range(kept):
                    x = points[k, 0] - points[m, 0]
                    y = points[k, 1] - points[m, 1]
                    z = points[k, 2] - points[m, 2]
                    judged = min(judged, x * x + y * y + z * z)
            # Of equals the first, whatever rounding says.
            if judged > value + 1e-9:
                best, value = k, judged
        for j in range(points.shape[1]):
            points[kept, j], points[best, j] = points[best, j], points[kept, j]
    return most
