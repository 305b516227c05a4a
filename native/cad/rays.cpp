// Rays against triangles.
#include <cmath>
#include <utility>

#include "cad/boxes.h"

namespace mooring::cad {

namespace {

// Whether a ray meets a box before `far` (slabs).
bool meets(const double* o, const double* d, const Box& box, double far) {
    double enter = 0.0, leave = far;
    for (int k = 0; k < 3; ++k) {
        if (d[k] == 0.0) {
            if (o[k] < box.low[k] || o[k] > box.high[k]) {
                return false;
            }
            continue;
        }
        double near = (box.low[k] - o[k]) / d[k], past = (box.high[k] - o[k]) / d[k];
        if (near > past) {
            std::swap(near, past);
        }
        enter = std::max(enter, near);
        leave = std::min(leave, past);
    }
    return enter <= leave;
}

// The way along a ray to a triangle; negative when it misses.
// Moeller, Trumbore, "Fast, minimum storage ray-triangle intersection", 1997.
double way_to(Vec3 o, Vec3 d, const Triangle& t) {
    const Vec3 u = t.b - t.a, v = t.c - t.a, p = cross(d, v);
    const double det = dot(u, p);
    if (det == 0.0) {
        return -1.0;
    }
    const Vec3 s = o - t.a, q = cross(s, u);
    const double a = dot(s, p) / det, b = dot(d, q) / det;
    return a < 0.0 || b < 0.0 || a + b > 1.0 ? -1.0 : dot(v, q) / det;
}

}  // namespace

void Boxes::first_hits(Triples<const double> origins, Triples<const double> directions, double far,
                       double* way) const {
    for (Index ray = 0; ray < origins.count; ++ray) {
        const Vec3 o = vec(origins[ray]), d = vec(directions[ray]);
        double best = far;
        bool met = false;
        descend([&](const Box& box) { return meets(origins[ray], directions[ray], box, best); },
                [&](Index k) {
                    const double here = way_to(o, d, at(k));
                    if (0.0 <= here && here <= best) {
                        best = here;
                        met = true;
                    }
                    return true;
                });
        way[ray] = met ? best : kInfinity;
    }
}

void crossings(const double* triangles, Index count, Triples<const double> points, Index* out) {
    // Slanted, so that it runs along no edge or face of what people build.
    const Vec3 direction{0.5773, 0.5791, 0.5756};
    for (Index p = 0; p < points.count; ++p) {
        const Vec3 from = vec(points[p]);
        out[p] = 0;
        for (Index k = 0; k < count; ++k) {
            out[p] += way_to(from, direction, triangle_at(triangles, k)) > 0.0 ? 1 : 0;
        }
    }
}

}  // namespace mooring::cad
