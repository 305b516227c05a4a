#include "contact/manifold.h"

#include <algorithm>

namespace mooring::contact {

namespace {

constexpr int kKept = 4;
constexpr double kCrossing = 0.0025;  // square of the sine up to which two edges count as parallel

struct Plane {
    double x, y;
};

// What two sides share in the plane.
struct Shared {
    static constexpr int kMost = 2 * kMostCorners;
    std::array<Plane, kMost> corners;
    int count = 0;

    void add(Plane p) {
        if (count < kMost) {
            corners[static_cast<std::size_t>(count++)] = p;
        }
    }
    Plane operator[](int k) const { return corners[static_cast<std::size_t>(k)]; }
};

// The part of an edge inside a side, whose corners go round in a sense.
Shared cut_edge(const Side& edge, const Side& side, double sense) {
    const double px = edge[0].x, py = edge[0].y, dx = edge[1].x - px, dy = edge[1].y - py;
    double first = 0.0, last = 1.0;
    for (int k = 0; k < side.count; ++k) {
        const Vec3 &corner = side[k], &next = side.next(k);
        const double ex = sense * (next.x - corner.x), ey = sense * (next.y - corner.y);
        const double at_start = ex * (py - corner.y) - ey * (px - corner.x);
        const double rate = ex * dy - ey * dx;
        if (rate == 0.0) {
            if (at_start < 0.0) {
                return {};
            }
        } else if (rate > 0.0) {
            first = std::max(first, -at_start / rate);
        } else {
            last = std::min(last, -at_start / rate);
        }
    }
    Shared out;
    if (first <= last) {
        out.add({px + first * dx, py + first * dy});
        out.add({px + last * dx, py + last * dy});
    }
    return out;
}

// The stretch that two nearly parallel edges have in common; none where they cross.
Shared shared_by_edges(const Side& a, const Side& b) {
    const double px = a[0].x, py = a[0].y, dx = a[1].x - px, dy = a[1].y - py;
    const double ex = b[1].x - b[0].x, ey = b[1].y - b[0].y;
    const double squared = dx * dx + dy * dy, over = dx * ey - dy * ex;
    Shared out;
    if (over * over > kCrossing * squared * (ex * ex + ey * ey) || squared == 0.0) {
        return out;
    }
    const double s = (dx * (b[0].x - px) + dy * (b[0].y - py)) / squared;
    const double t = (dx * (b[1].x - px) + dy * (b[1].y - py)) / squared;
    const double first = std::max(0.0, std::min(s, t)), last = std::min(1.0, std::max(s, t));
    if (first < last) {
        out.add({px + first * dx, py + first * dy});
        out.add({px + last * dx, py + last * dy});
    }
    return out;
}

Shared shared(const Side& a, const Side& b) {
    if (a.count == 2 && b.count == 2) {
        return shared_by_edges(a, b);
    }
    if (a.count == 2) {
        return cut_edge(a, b, -1.0);
    }
    if (b.count == 2) {
        return cut_edge(b, a, 1.0);
    }
    Shared cut;
    for (int k = 0; k < b.count; ++k) {
        cut.add({b[k].x, b[k].y});
    }
    for (int k = 0; k < a.count; ++k) {
        const double px = a[k].x, py = a[k].y, dx = a.next(k).x - px, dy = a.next(k).y - py;
        Shared left;
        for (int m = 0; m < cut.count; ++m) {
            const Plane p = cut[m], q = cut[m + 1 < cut.count ? m + 1 : 0];
            const double here = dx * (p.y - py) - dy * (p.x - px);
            const double there = dx * (q.y - py) - dy * (q.x - px);
            if (here >= 0.0) {
                left.add(p);
            }
            if ((here > 0.0 && there < 0.0) || (here < 0.0 && there > 0.0)) {
                const double share = here / (here - there);
                left.add({p.x + share * (q.x - p.x), p.y + share * (q.y - p.y)});
            }
        }
        cut = left;
    }
    return cut;
}

// How high a side is over a point of the plane.
double height(const Side& side, double u, double v) {
    if (side.count == 2) {
        const double dx = side[1].x - side[0].x, dy = side[1].y - side[0].y;
        const double squared = dx * dx + dy * dy;
        if (squared == 0.0) {
            return side[0].z;
        }
        const double share = (dx * (u - side[0].x) + dy * (v - side[0].y)) / squared;
        return side[0].z + std::min(1.0, std::max(0.0, share)) * (side[1].z - side[0].z);
    }
    // The side's plane, by the areas of its shadows (Newell).
    Vec3 area, middle;
    for (int k = 0; k < side.count; ++k) {
        const Vec3 &p = side[k], &q = side.next(k);
        area +=
            Vec3{(p.y - q.y) * (p.z + q.z), (p.z - q.z) * (p.x + q.x), (p.x - q.x) * (p.y + q.y)};
        middle += p;
    }
    middle = middle / static_cast<double>(side.count);
    if (std::fabs(area.z) < 1e-18) {
        return middle.z;
    }
    return middle.z - (area.x * (u - middle.x) + area.y * (v - middle.y)) / area.z;
}

Side projected(const Side& side, const Across& plane, Vec3 n) {
    Side out;
    for (int k = 0; k < side.count; ++k) {
        out.add({dot(plane.u, side[k]), dot(plane.v, side[k]), dot(n, side[k])});
    }
    return out;
}

}  // namespace

void manifold(const Shapes& shapes, const Shape& a, const Pose& pose_a, const Shape& b,
              const Pose& pose_b, const overlaps::Nearest& found, double margin, Spots& out) {
    const Vec3 n = found.normal;
    out.count = 0;
    const Side side_a = side_towards(shapes, a, pose_a, n);
    if (side_a.count > 1) {
        const Side side_b = side_towards(shapes, b, pose_b, -n);
        if (side_b.count > 1) {
            const Across plane = across(n);
            const Side flat_a = projected(side_a, plane, n), flat_b = projected(side_b, plane, n);
            const Shared cut = shared(flat_a, flat_b);
            for (int k = 0; k < cut.count; ++k) {
                const double u = cut[k].x, v = cut[k].y;
                const double low = height(flat_a, u, v), high = height(flat_b, u, v);
                if (high - low < margin) {
                    // Sides that lean apart meet where the shapes do, never nearer.
                    out.add({u * plane.u + v * plane.v + 0.5 * (low + high) * n, n,
                             std::max(high - low, found.distance)});
                }
            }
        }
    }
    if (out.count == 0) {
        out.add({0.5 * (found.on_a + found.on_b), n, found.distance});
    }
    keep_spread(out, kKept);
    halve_line(out);
}

void halve_line(Spots& spots) {
    if (spots.count == 2) {
        spots.add({0.5 * (spots[0].point + spots[1].point), spots[0].normal,
                   0.5 * (spots[0].gap + spots[1].gap)});
    }
}

void keep_spread(Spots& spots, int most) {
    if (spots.count <= most) {
        return;
    }
    for (int kept = 0; kept < most; ++kept) {
        int best = kept;
        double value = -1e300;
        for (int k = kept; k < spots.count; ++k) {
            double judged = 1e300;
            if (kept == 0) {
                judged = -spots[k].gap;
            }
            for (int m = 0; m < kept; ++m) {
                const Vec3 way = spots[k].point - spots[m].point;
                judged = std::min(judged, dot(way, way));
            }
            // Of equals the first, whatever rounding says.
            if (judged > value + 1e-9) {
                best = k;
                value = judged;
            }
        }
        std::swap(spots[kept], spots[best]);
    }
    spots.count = most;
}

}  // namespace mooring::contact
