"""Triangles into a depth buffer."""

from __future__ import annotations

from math import ceil, floor

from mooring.compiling import entry


@entry
def rasterise(screen, faces, top, depth, owner):
    """Draw triangles into a band of a picture, empty before, that begins at row `top`.

    Args:
        screen: (n, 3) vertices: x right, y down [pixels], and nearness, which is larger for points
            nearer to the eye and linear on the screen (one over the distance in perspective);
            zero or less for points that cannot be drawn.
        faces: (m, 3).
        depth: (h, w) float32 out, the nearness drawn; 0 where nothing is.
        owner: (h, w) int32 out, the triangle drawn there; -1 where nothing is.
    """
    height, width = depth.shape
    depth[:, :] = 0.0
    owner[:, :] = -1
    for f in range(faces.shape[0]):
        a, b, c = faces[f, 0], faces[f, 1], faces[f, 2]
        az, bz, cz = screen[a, 2], screen[b, 2], screen[c, 2]
        if az <= 0.0 or bz <= 0.0 or cz <= 0.0:
            continue
        ax, ay = screen[a, 0], screen[a, 1]
        bx, by = screen[b, 0], screen[b, 1]
        cx, cy = screen[c, 0], screen[c, 1]
        low_y, high_y = min(ay, by, cy), max(ay, by, cy)
        if high_y < top or low_y >= top + height:
            continue
        area = (bx - ax) * (cy - ay) - (by - ay) * (cx - ax)
        if area == 0.0:
            continue
        over = 1.0 / area
        first = max(top, int(ceil(low_y - 0.5)))
        last = min(top + height - 1, int(floor(high_y - 0.5)))
        left = max(0, int(ceil(min(ax, bx, cx) - 0.5)))
        right = min(width - 1, int(floor(max(ax, bx, cx) - 0.5)))
        # Barycentric weights of b and c change by the same amount from pixel to pixel.
        step_b = (cy - ay) * over
        step_c = -(by - ay) * over
        for y in range(first, last + 1):
            py = y + 0.5 - ay
            px = left + 0.5 - ax
            u = (px * (cy - ay) - py * (cx - ax)) * over
            v = (py * (bx - ax) - px * (by - ay)) * over
            for x in range(left, right + 1):
                if u >= 0.0 and v >= 0.0 and u + v <= 1.0:
                    near = az + u * (bz - az) + v * (cz - az)
                    if near > depth[y - top, x]:
                        depth[y - top, x] = near
                        owner[y - top, x] = f
                u += step_b
                v += step_c
