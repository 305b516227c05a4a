// Distances from points to triangles.
#include <cmath>

#include "cad/boxes.h"

namespace mooring::cad {

namespace {

// Squared distance to a box; 0 inside.
double to_box(Vec3 p, const Box& box) {
    const double at[3] = {p.x, p.y, p.z};
    double total = 0.0;
    for (int k = 0; k < 3; ++k) {
        const double gap = std::max(std::max(box.low[k] - at[k], at[k] - box.high[k]), 0.0);
        total += gap * gap;
    }
    return total;
}

// Squared distance to a triangle (Ericson, Real-Time Collision Detection, 2005, 5.1.5).
double to_triangle(Vec3 at, const Triangle& t) {
    const Vec3 u = t.b - t.a, v = t.c - t.a, p = at - t.a;
    const double d1 = dot(u, p), d2 = dot(v, p);
    double s = 0.0, r = 0.0;
    if (d1 > 0.0 || d2 > 0.0) {
        const double uu = dot(u, u), uv = dot(u, v), vv = dot(v, v);
        const double d3 = d1 - uu, d4 = d2 - uv, d5 = d1 - uv, d6 = d2 - vv;
        const double va = d3 * d6 - d5 * d4, vb = d5 * d2 - d1 * d6, vc = d1 * d4 - d3 * d2;
        if (d3 >= 0.0 && d4 <= d3) {
            s = 1.0;
        } else if (vc <= 0.0 && d1 >= 0.0 && d3 <= 0.0) {
            s = uu > 0.0 ? d1 / uu : 0.0;
        } else if (d6 >= 0.0 && d5 <= d6) {
            r = 1.0;
        } else if (vb <= 0.0 && d2 >= 0.0 && d6 <= 0.0) {
            r = vv > 0.0 ? d2 / vv : 0.0;
        } else if (va <= 0.0 && d4 - d3 >= 0.0 && d5 - d6 >= 0.0) {
            const double length = (d4 - d3) + (d5 - d6);
            r = length > 0.0 ? (d4 - d3) / length : 0.0;
            s = 1.0 - r;
        } else if (const double total = va + vb + vc; total != 0.0) {
            s = vb / total;
            r = vc / total;
        }
    }
    const Vec3 gap = p - s * u - r * v;
    return dot(gap, gap);
}

}  // namespace

void Boxes::nearest(Triples<const double> points, double* distance, Index* which) const {
    std::array<Index, 128> stack;
    for (Index p = 0; p < points.count; ++p) {
        const Vec3 at_point = vec(points[p]);
        double best = kInfinity;
        Index found = 0;
        std::size_t waiting = 0;
        stack[waiting++] = 0;
        while (waiting > 0) {
            const Node& node = nodes_[static_cast<std::size_t>(stack[--waiting])];
            if (to_box(at_point, node.box) >= best) {
                continue;
            }
            if (node.child < 0) {
                for (Index k = node.first; k < node.first + node.count; ++k) {
                    const double here = to_triangle(at_point, at(k));
                    if (here < best) {
                        best = here;
                        found = k;
                    }
                }
                continue;
            }
            // The nearer child is looked at first: it stands last on the stack.
            const auto child = static_cast<std::size_t>(node.child);
            const bool swap =
                to_box(at_point, nodes_[child + 1].box) < to_box(at_point, nodes_[child].box);
            stack[waiting++] = node.child + (swap ? 0 : 1);
            stack[waiting++] = node.child + (swap ? 1 : 0);
        }
        distance[p] = std::sqrt(best);
        which[p] = order_[static_cast<std::size_t>(found)];
    }
}

}  // namespace mooring::cad
