// Distances between triangles, and where they lie flat against each other.
// Ericson, Real-Time Collision Detection, 2005, chapter 5.
#include <cmath>

#include "cad/boxes.h"

namespace mooring::cad {

namespace {

// A lower bound of the distance between what is in two boxes.
double gap_between(const Box& one, const Box& two) {
    double total = 0.0;
    for (int k = 0; k < 3; ++k) {
        const double gap = std::max({one.low[k] - two.high[k], two.low[k] - one.high[k], 0.0});
        total += gap * gap;
    }
    return std::sqrt(total);
}

// Whether a segment passes through a triangle.
bool pierces(Vec3 p, Vec3 q, const Triangle& t) {
    const Vec3 u = t.b - t.a, v = t.c - t.a, d = q - p, h = cross(d, v);
    const double det = dot(u, h);
    if (det == 0.0) {
        return false;
    }
    const Vec3 s = p - t.a, w = cross(s, u);
    const double a = dot(s, h) / det, b = dot(d, w) / det, way = dot(v, w) / det;
    return a >= 0.0 && a <= 1.0 && b >= 0.0 && a + b <= 1.0 && way >= 0.0 && way <= 1.0;
}

// By the region of the plane that the point is over; edges are left to the segments.
double point_to_triangle(Vec3 p, const Triangle& t) {
    const Vec3 u = t.b - t.a, v = t.c - t.a, normal = cross(u, v), s = p - t.a;
    const double squared = dot(normal, normal);
    if (squared == 0.0) {
        return kInfinity;
    }
    const double b = dot(cross(s, v), normal) / squared, c = dot(cross(u, s), normal) / squared;
    if (b >= 0.0 && c >= 0.0 && b + c <= 1.0) {
        return std::abs(dot(s, normal)) / std::sqrt(squared);
    }
    return kInfinity;
}

double segment_distance(Vec3 p, Vec3 q, Vec3 r, Vec3 s) {
    const Vec3 d1 = q - p, d2 = s - r, w = p - r;
    const double a = dot(d1, d1), e = dot(d2, d2), f = dot(d2, w);
    const auto share = [](double value) { return std::min(1.0, std::max(0.0, value)); };
    double x = 0.0, y = 0.0;
    if (a <= 0.0 && e <= 0.0) {
        return norm(w);
    }
    if (a <= 0.0) {
        y = share(f / e);
    } else {
        const double c = dot(d1, w);
        if (e <= 0.0) {
            x = share(-c / a);
        } else {
            const double b = dot(d1, d2), denominator = a * e - b * b;
            if (denominator > 0.0) {
                x = share((b * f - c * e) / denominator);
            }
            y = (b * x + f) / e;
            if (y < 0.0) {
                x = share(-c / a);
                y = 0.0;
            } else if (y > 1.0) {
                x = share((b - c) / a);
                y = 1.0;
            }
        }
    }
    return norm(w + x * d1 - y * d2);
}

double triangle_distance(const Triangle& one, const Triangle& two) {
    double best = kInfinity;
    for (int i = 0; i < 3; ++i) {
        const Vec3 p = one.corner(i), q = one.corner((i + 1) % 3);
        const Vec3 r = two.corner(i), s = two.corner((i + 1) % 3);
        if (pierces(p, q, two) || pierces(r, s, one)) {
            return 0.0;
        }
        best = std::min({best, point_to_triangle(p, two), point_to_triangle(r, one)});
        for (int j = 0; j < 3; ++j) {
            best = std::min(best, segment_distance(p, q, two.corner(j), two.corner((j + 1) % 3)));
        }
    }
    return best;
}

// Whether no line along an edge of the first parts the two, seen along a normal; an edge that is
// shared does not count as overlap.
bool not_apart(const Triangle& one, const Triangle& two, Vec3 normal) {
    for (int k = 0; k < 3; ++k) {
        // A direction in the plane, across the edge.
        const Vec3 across = cross(normal, one.corner((k + 1) % 3) - one.corner(k));
        const double length = norm(across);
        if (length == 0.0) {
            return false;
        }
        double low[2] = {kInfinity, kInfinity}, high[2] = {-kInfinity, -kInfinity};
        for (int c = 0; c < 3; ++c) {
            const double places[2] = {dot(across, one.corner(c)) / length,
                                      dot(across, two.corner(c)) / length};
            for (int side = 0; side < 2; ++side) {
                low[side] = std::min(low[side], places[side]);
                high[side] = std::max(high[side], places[side]);
            }
        }
        const double margin = 1e-3 * std::min(high[0] - low[0], high[1] - low[1]);
        if (high[0] - margin <= low[1] || high[1] - margin <= low[0]) {
            return false;
        }
    }
    return true;
}

// The unit normal; none for a triangle without area.
Vec3 normal_of(const Triangle& t) {
    const Vec3 normal = cross(t.b - t.a, t.c - t.a);
    const double size = norm(normal);
    return size > 0.0 ? normal / size : Vec3{};
}

bool faces(const Triangle& one, Vec3 normal, const Triangle& two, double tolerance, double cosine) {
    const Vec3 other = normal_of(two);
    if (dot(other, other) == 0.0 || dot(normal, other) > -cosine) {
        return false;
    }
    double nearest = kInfinity;
    for (int k = 0; k < 3; ++k) {
        nearest = std::min(nearest, std::abs(dot(normal, two.corner(k) - one.a)));
    }
    return nearest <= tolerance && not_apart(one, two, normal) && not_apart(two, one, normal);
}

bool near(const Box& one, const Box& two, double tolerance) {
    for (int k = 0; k < 3; ++k) {
        if (one.low[k] > two.high[k] + tolerance || one.high[k] < two.low[k] - tolerance) {
            return false;
        }
    }
    return true;
}

}  // namespace

double Boxes::closest(const double* some, Index count, double enough) const {
    double best = kInfinity;
    for (Index i = 0; i < count && best > enough; ++i) {
        const Triangle one = triangle_at(some, i);
        const Box around = box_around(one);
        descend([&](const Box& box) { return gap_between(around, box) < best; },
                [&](Index k) {
                    if (gap_between(around, box_around(at(k))) < best) {
                        best = std::min(best, triangle_distance(one, at(k)));
                    }
                    return best > enough;
                });
    }
    return best;
}

void Boxes::facing(const double* some, Index count, double tolerance, double cosine,
                   bool* marked) const {
    for (Index i = 0; i < count; ++i) {
        const Triangle one = triangle_at(some, i);
        const Vec3 normal = normal_of(one);
        if (dot(normal, normal) == 0.0 || marked[i]) {
            continue;
        }
        const Box around = box_around(one);
        descend([&](const Box& box) { return near(around, box, tolerance); },
                [&](Index k) {
                    marked[i] = faces(one, normal, at(k), tolerance, cosine);
                    return !marked[i];
                });
    }
}

}  // namespace mooring::cad
