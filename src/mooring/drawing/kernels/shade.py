"""From a depth buffer to colors: light, shadow, ground and edges.

Pictures are made in bands of rows; `top` is the row of the picture that a band begins with.
"""

from __future__ import annotations

from math import exp, floor, sqrt

import numpy as np

from mooring.compiling import entry, inlined, kernel

# Which neighbours make a line: another piece, a crease of the same piece, a step in depth.
_OUTLINE, _CREASE = 0.85, 0.5


@entry
def shade(screen, faces, normals, face_color, depth, owner, eye, shadow, top, color, normal_out):
    """Light the drawn triangles of a band.

    Args:
        screen, faces: as rasterised.
        normals: (m, 3, 3) at the corners, world axes.
        face_color: (m, 3), 0 to 1.
        depth, owner: as rasterised; owner is -1 where nothing was drawn.
        eye: `camera.Eye`.
        shadow: `render.Shadow`.
        color: (h, w, 3) out, where something was drawn.
        normal_out: (h, w, 3) out, for the edges.
    """
    for y in range(depth.shape[0]):
        for x in range(depth.shape[1]):
            f = owner[y, x]
            if f < 0:
                continue
            a, b, c = faces[f, 0], faces[f, 1], faces[f, 2]
            ax, ay = screen[a, 0], screen[a, 1]
            bx, by = screen[b, 0] - ax, screen[b, 1] - ay
            cx, cy = screen[c, 0] - ax, screen[c, 1] - ay
            px, py = x + 0.5 - ax, top + y + 0.5 - ay
            over = 1.0 / (bx * cy - by * cx)
            u, v = (px * cy - py * cx) * over, (py * bx - px * by) * over
            t = 1.0 - u - v
            nx = t * normals[f, 0, 0] + u * normals[f, 1, 0] + v * normals[f, 2, 0]
            ny = t * normals[f, 0, 1] + u * normals[f, 1, 1] + v * normals[f, 2, 1]
            nz = t * normals[f, 0, 2] + u * normals[f, 1, 2] + v * normals[f, 2, 2]
            length = sqrt(nx * nx + ny * ny + nz * nz)
            if length > 0.0:
                nx, ny, nz = nx / length, ny / length, nz / length
            wx, wy, wz, vx, vy, vz = world_point(eye, x + 0.5, top + y + 0.5, depth[y, x])
            facing = nx * vx + ny * vy + nz * vz
            if facing < 0.0:
                # The inside of an open surface is lit like its outside.
                nx, ny, nz, facing = -nx, -ny, -nz, -facing
            normal_out[y, x, 0], normal_out[y, x, 1], normal_out[y, x, 2] = nx, ny, nz
            light = nx * shadow.light[0] + ny * shadow.light[1] + nz * shadow.light[2]
            lit = 0.0
            if light > 0.0:
                # Looked up a little off the surface, or its own cells would shade it in stripes.
                off = 2.5 * shadow.cell
                lit = lit_share(shadow, wx + off * nx, wy + off * ny, wz + off * nz)
            sky = 0.5 + 0.5 * nz
            diffuse = 0.34 + 0.18 * sky + 0.20 * facing + 0.46 * max(0.0, light) * lit
            # A broad highlight halfway between the light and the eye.
            hx, hy, hz = shadow.light[0] + vx, shadow.light[1] + vy, shadow.light[2] + vz
            h = sqrt(hx * hx + hy * hy + hz * hz)
            gloss = max(0.0, (nx * hx + ny * hy + nz * hz) / h) if h > 0.0 else 0.0
            gloss = 0.10 * gloss**24 * lit
            for k in range(3):
                color[y, x, k] = min(1.0, face_color[f, k] * diffuse + gloss)


@inlined
def world_point(eye, x, y, near):
    """The world point seen at a pixel with a nearness, and the unit direction to the eye."""
    sx = (x - 0.5 * eye.width) * eye.pixel
    sy = (0.5 * eye.height - y) * eye.pixel
    if eye.perspective:
        distance = 1.0 / near
        sx *= distance
        sy *= distance
    else:
        distance = eye.far - near
    r, u, d = eye.right, eye.up, eye.back
    wx = eye.position[0] + sx * r[0] + sy * u[0] - distance * d[0]
    wy = eye.position[1] + sx * r[1] + sy * u[1] - distance * d[1]
    wz = eye.position[2] + sx * r[2] + sy * u[2] - distance * d[2]
    if not eye.perspective:
        return wx, wy, wz, d[0], d[1], d[2]
    vx, vy, vz = eye.position[0] - wx, eye.position[1] - wy, eye.position[2] - wz
    length = sqrt(vx * vx + vy * vy + vz * vz)
    return wx, wy, wz, vx / length, vy / length, vz / length


@inlined
def lit_share(shadow, x, y, z):
    """How much of the light reaches a point, 0 to 1, softened over a few cells of the map."""
    size = shadow.depth.shape[0]
    r, u, d = shadow.right, shadow.up, shadow.light
    rx, ry, rz = x - shadow.centre[0], y - shadow.centre[1], z - shadow.centre[2]
    sx = (rx * r[0] + ry * r[1] + rz * r[2]) / shadow.cell + 0.5 * size
    sy = 0.5 * size - (rx * u[0] + ry * u[1] + rz * u[2]) / shadow.cell
    box = shadow.drawn
    if sx < box[0] or sx > box[1] or sy < box[2] or sy > box[3]:
        return 1.0
    near = shadow.far + rx * d[0] + ry * d[1] + rz * d[2]
    total = 0.0
    for j in range(-1, 2):
        for i in range(-1, 2):
            cx, cy = int(floor(sx + 1.2 * i)), int(floor(sy + 1.2 * j))
            if (
                cx < 0
                or cy < 0
                or cx >= size
                or cy >= size
                or shadow.depth[cy, cx] <= near + 1.5 * shadow.cell
            ):
                total += 1.0
    return total / 9.0


@entry
def backdrop(eye, shadow, ground, depth, owner, block, top, color):
    """The background, and the ground with its grid and shadow, where nothing else is nearer.

    Both are smooth: one look for a block of block x block pixels is enough. Pixels of the ground
    get the owner -2, so that edges leave them alone.
    """
    mix = np.empty(3)
    for y in range(0, depth.shape[0], block):
        middle = top + y + 0.5 * block
        low = middle / eye.height
        for x in range(0, depth.shape[1], block):
            near = ground_color(eye, shadow, ground, x + 0.5 * block, middle, block, mix)
            for sy in range(y, min(y + block, depth.shape[0])):
                for sx in range(x, min(x + block, depth.shape[1])):
                    if near > depth[sy, sx]:
                        owner[sy, sx] = -2
                        for k in range(3):
                            color[sy, sx, k] = mix[k]
                    elif owner[sy, sx] < 0:
                        for k in range(3):
                            color[sy, sx, k] = (1.0 - low) * ground.sky[k] + low * ground.haze[k]


@inlined
def ground_color(eye, shadow, ground, x, y, block, mix):
    """The ground's color at a pixel, and its nearness; 0 where the ground is not seen."""
    if not ground.shown:
        return 0.0
    r, u, d = eye.right, eye.up, eye.back
    sx, sy = (x - 0.5 * eye.width) * eye.pixel, (0.5 * eye.height - y) * eye.pixel
    ox, oy, oz = eye.position[0], eye.position[1], eye.position[2]
    if eye.perspective:
        dx = sx * r[0] + sy * u[0] - d[0]
        dy = sx * r[1] + sy * u[1] - d[1]
        dz = sx * r[2] + sy * u[2] - d[2]
    else:
        ox += sx * r[0] + sy * u[0]
        oy += sx * r[1] + sy * u[1]
        oz += sx * r[2] + sy * u[2]
        dx, dy, dz = -d[0], -d[1], -d[2]
    if dz > -1e-6:
        return 0.0
    way = (ground.height - oz) / dz
    if way <= 0.0:
        return 0.0
    gx, gy = ox + way * dx, oy + way * dy
    ax, ay = (gx - ground.centre[0]) / ground.radius, (gy - ground.centre[1]) / ground.radius
    away = ax * ax + ay * ay
    if away > 2.5:
        return 0.0
    fade = exp(-away * away)
    # Thickness of a finished pixel on the ground, for lines of even width.
    pixel = block * eye.pixel * (way if eye.perspective else 1.0)
    slant = pixel / max(0.05, -dz / sqrt(dx * dx + dy * dy + dz * dz))
    line = max(
        0.55 * _grid(gx, gy, ground.spacing, slant),
        0.22 * _grid(gx, gy, ground.spacing / 5.0, slant),
    )
    lit = lit_share(shadow, gx, gy, ground.height)
    dark = (1.0 - 0.34 * (1.0 - lit)) * (1.0 - 0.45 * line * fade)
    low = y / eye.height
    for k in range(3):
        sky = (1.0 - low) * ground.sky[k] + low * ground.haze[k]
        mix[k] = (fade * ground.color[k] + (1.0 - fade) * sky) * dark
    return 1.0 / way if eye.perspective else eye.far - way


@kernel
def _grid(x, y, spacing, pixel):
    """How much of a pixel a grid line covers."""
    if spacing < 2.5 * pixel:
        return 0.0
    dx = abs(x - spacing * floor(x / spacing + 0.5))
    dy = abs(y - spacing * floor(y / spacing + 0.5))
    return max(0.0, 1.0 - min(dx, dy) / (0.8 * pixel))


@entry
def draw_edges(face_piece, depth, owner, normal, perspective, ink, color):
    """Darken pixels where pieces meet, surfaces fold, or something stands before another."""
    height, width = depth.shape
    for y in range(1, height - 1):
        for x in range(1, width - 1):
            f = owner[y, x]
            left, right = owner[y, x - 1], owner[y, x + 1]
            above, below = owner[y - 1, x], owner[y + 1, x]
            if f == left and f == right and f == above and f == below:
                continue
            strength = max(
                _edge(face_piece, depth, owner, normal, perspective, y, x, y, x - 1),
                _edge(face_piece, depth, owner, normal, perspective, y, x, y, x + 1),
                _edge(face_piece, depth, owner, normal, perspective, y, x, y - 1, x),
                _edge(face_piece, depth, owner, normal, perspective, y, x, y + 1, x),
            )
            if strength > 0.0:
                for k in range(3):
                    color[y, x, k] += strength * (ink[k] - color[y, x, k])


@inlined
def _edge(face_piece, depth, owner, normal, perspective, y, x, ny, nx):
    f, g = owner[y, x], owner[ny, nx]
    if f < 0 and g < 0:
        return 0.0
    if f < 0 or g < 0:
        return _OUTLINE
    if face_piece[f] != face_piece[g]:
        return _OUTLINE * 0.8
    if f == g:
        return 0.0
    dot = (
        normal[y, x, 0] * normal[ny, nx, 0]
        + normal[y, x, 1] * normal[ny, nx, 1]
        + normal[y, x, 2] * normal[ny, nx, 2]
    )
    if dot < 0.85:
        return _CREASE
    here, there = depth[y, x], depth[ny, nx]
    step = abs(here - there) / max(here, there) if perspective else abs(here - there) * 0.2
    return _CREASE if step > 0.01 else 0.0


@entry
def shrink(color, skip, times, out):
    """Average blocks of times x times pixels, after some rows, into an 8-bit image (h, w, 3)."""
    share = 255.0 / (times * times)
    for y in range(out.shape[0]):
        for x in range(out.shape[1]):
            for k in range(3):
                total = 0.0
                for j in range(times):
                    for i in range(times):
                        total += color[skip + y * times + j, x * times + i, k]
                out[y, x, k] = int(min(255.0, max(0.0, total * share + 0.5)))


@entry
def lay_over(below, nearness, over, over_nearness, owner, opacity, ink):
    """Blend a layer into another, where it is nearer; its dark outlines blend in full."""
    for y in range(owner.shape[0]):
        for x in range(owner.shape[1]):
            if owner[y, x] < 0 or over_nearness[y, x] <= nearness[y, x]:
                continue
            share = opacity
            if over[y, x, 0] + over[y, x, 1] + over[y, x, 2] < ink:
                share = max(opacity, 0.7)
            for k in range(3):
                below[y, x, k] += share * (over[y, x, k] - below[y, x, k])
