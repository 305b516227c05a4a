// From a depth buffer to colors: light and shadow.
#include <algorithm>
#include <cmath>

#include "drawing/drawing.h"

namespace mooring::drawing {

SeenPoint world_point(const Eye& eye, double x, double y, double near) {
    double sx = (x - 0.5 * eye.width) * eye.pixel, sy = (0.5 * eye.height - y) * eye.pixel;
    double distance = eye.far - near;
    if (eye.perspective) {
        distance = 1.0 / near;
        sx *= distance;
        sy *= distance;
    }
    const Vec3 point = eye.position + sx * eye.right + sy * eye.up - distance * eye.back;
    if (!eye.perspective) {
        return {point, eye.back};
    }
    const Vec3 way = eye.position - point;
    return {point, way / norm(way)};
}

double lit_share(const Shadow& shadow, Vec3 point) {
    const Index size = shadow.depth.rows;
    const double half = 0.5 * static_cast<double>(size);
    const Vec3 from = point - shadow.centre;
    const double sx = dot(from, shadow.right) / shadow.cell + half;
    const double sy = half - dot(from, shadow.up) / shadow.cell;
    const double* box = shadow.drawn;
    if (sx < box[0] || sx > box[1] || sy < box[2] || sy > box[3]) {
        return 1.0;
    }
    const double near = shadow.far + dot(from, shadow.light) + 1.5 * shadow.cell;
    const Index columns[3] = {floor_index(sx - 1.2), floor_index(sx), floor_index(sx + 1.2)};
    int lit = 0;
    for (const double off : {-1.2, 0.0, 1.2}) {
        const Index cy = floor_index(sy + off);
        if (cy < 0 || cy >= size) {
            lit += 3;
            continue;
        }
        for (const Index cx : columns) {
            const bool outside = cx < 0 || cx >= size;
            lit += outside || static_cast<double>(shadow.depth(cy, cx)) <= near ? 1 : 0;
        }
    }
    return lit / 9.0;
}

void shade(Screen screen, Faces faces, const double* normals, Triples<const double> colors,
           const Eye& eye, const Shadow& shadow, const Band& band) {
    for (Index y = 0; y < band.depth.rows; ++y) {
        for (Index x = 0; x < band.depth.columns; ++x) {
            const Index f = band.owner(y, x);
            if (f < 0) {
                continue;
            }
            const double* a = screen[faces[f][0]];
            const double* b = screen[faces[f][1]];
            const double* c = screen[faces[f][2]];
            const double at_x = static_cast<double>(x) + 0.5;
            const double at_y = static_cast<double>(band.top + y) + 0.5;
            const double bx = b[0] - a[0], by = b[1] - a[1], cx = c[0] - a[0], cy = c[1] - a[1];
            const double px = at_x - a[0], py = at_y - a[1];
            const double over = 1.0 / (bx * cy - by * cx);
            const double u = (px * cy - py * cx) * over, v = (py * bx - px * by) * over;
            const double* corners = normals + 9 * f;
            Vec3 normal =
                (1.0 - u - v) * vec(corners) + u * vec(corners + 3) + v * vec(corners + 6);
            if (const double length = norm(normal); length > 0.0) {
                normal = (1.0 / length) * normal;
            }
            const SeenPoint seen =
                world_point(eye, at_x, at_y, static_cast<double>(band.depth(y, x)));
            double facing = dot(normal, seen.to_eye);
            if (facing < 0.0) {
                // The inside of an open surface is lit like its outside.
                normal = -normal;
                facing = -facing;
            }
            float* kept = band.normal(y, x);
            kept[0] = static_cast<float>(normal.x);
            kept[1] = static_cast<float>(normal.y);
            kept[2] = static_cast<float>(normal.z);
            const double light = dot(normal, shadow.light);
            double lit = 0.0;
            if (light > 0.0) {
                // Looked up a little off the surface, or its own cells would shade it in stripes.
                lit = lit_share(shadow, seen.point + 2.5 * shadow.cell * normal);
            }
            const double sky = 0.5 + 0.5 * normal.z;
            const double diffuse =
                0.34 + 0.18 * sky + 0.20 * facing + 0.46 * std::max(0.0, light) * lit;
            // A broad highlight halfway between the light and the eye.
            const Vec3 halfway = shadow.light + seen.to_eye;
            const double length = norm(halfway);
            const double g = length > 0.0 ? std::max(0.0, dot(normal, halfway) / length) : 0.0;
            const double g2 = g * g, g4 = g2 * g2, g8 = g4 * g4;
            const double gloss = 0.10 * g8 * g8 * g8 * lit;
            float* color = band.color(y, x);
            for (int k = 0; k < 3; ++k) {
                color[k] = static_cast<float>(std::min(1.0, colors[f][k] * diffuse + gloss));
            }
        }
    }
}

}  // namespace mooring::drawing
