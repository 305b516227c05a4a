#include "overlaps/simplex.h"

#include <algorithm>

namespace mooring::overlaps {

namespace {

// Square of the sine of an angle that is none.
constexpr double kFlat = 1e-20;

Shares nearest_on_edge(Vec3 p, Vec3 q) {
    const Vec3 way = q - p;
    const double squared = dot(way, way);
    const double t = squared > 0.0 ? -dot(p, way) / squared : 0.0;
    const double share = std::min(1.0, std::max(0.0, t));
    return {1.0 - share, share, 0.0, 0.0};
}

}  // namespace

Shares nearest_on_triangle(Vec3 p, Vec3 q, Vec3 r) {
    const Vec3 u = q - p, v = r - p;
    const double d1 = -dot(u, p), d2 = -dot(v, p);
    if (d1 <= 0.0 && d2 <= 0.0) {
        return {1.0, 0.0, 0.0, 0.0};
    }
    const double d3 = -dot(u, q), d4 = -dot(v, q);
    if (d3 >= 0.0 && d4 <= d3) {
        return {0.0, 1.0, 0.0, 0.0};
    }
    const double d5 = -dot(u, r), d6 = -dot(v, r);
    if (d6 >= 0.0 && d5 <= d6) {
        return {0.0, 0.0, 1.0, 0.0};
    }
    const double c = d1 * d4 - d3 * d2;
    if (c <= 0.0 && d1 >= 0.0 && d3 <= 0.0) {
        const double t = d1 > d3 ? d1 / (d1 - d3) : 0.0;
        return {1.0 - t, t, 0.0, 0.0};
    }
    const double b = d5 * d2 - d1 * d6;
    if (b <= 0.0 && d2 >= 0.0 && d6 <= 0.0) {
        const double t = d2 > d6 ? d2 / (d2 - d6) : 0.0;
        return {1.0 - t, 0.0, t, 0.0};
    }
    const double a = d3 * d6 - d5 * d4;
    if (a <= 0.0 && d4 - d3 >= 0.0 && d5 - d6 >= 0.0) {
        const double whole = (d4 - d3) + (d5 - d6);
        const double t = whole > 0.0 ? (d4 - d3) / whole : 0.0;
        return {0.0, 1.0 - t, t, 0.0};
    }
    const double total = a + b + c;
    return {a / total, b / total, c / total, 0.0};
}

Shares nearest_on_simplex(const std::array<Corner, 4>& corners, int size, bool& inside) {
    inside = false;
    if (size == 1) {
        return {1.0, 0.0, 0.0, 0.0};
    }
    if (size == 2) {
        return nearest_on_edge(corners[0].at, corners[1].at);
    }
    if (size == 3) {
        return nearest_on_triangle(corners[0].at, corners[1].at, corners[2].at);
    }
    constexpr std::size_t kFaces[4][4] = {{0, 1, 2, 3}, {0, 1, 3, 2}, {0, 2, 3, 1}, {1, 2, 3, 0}};
    inside = true;
    double best = 1e300;
    Shares shares{};
    for (const auto& face : kFaces) {
        const Vec3 p = corners[face[0]].at, q = corners[face[1]].at, r = corners[face[2]].at;
        const Vec3 n = cross(q - p, r - p), o = corners[face[3]].at - p;
        const double here = -dot(n, p), there = dot(n, o);
        if (here * there > 0.0 && there * there > kFlat * dot(n, n) * dot(o, o)) {
            continue;
        }
        // The origin is beyond this face, or the four corners are flat and no side can be told.
        inside = false;
        const Shares own = nearest_on_triangle(p, q, r);
        const Vec3 point = own[0] * p + own[1] * q + own[2] * r;
        if (const double squared = dot(point, point); squared < best) {
            best = squared;
            shares = {};
            for (std::size_t k = 0; k < 3; ++k) {
                shares[face[k]] = own[k];
            }
        }
    }
    return shares;
}

}  // namespace mooring::overlaps
