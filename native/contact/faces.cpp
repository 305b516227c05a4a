#include "contact/faces.h"

#include <algorithm>
#include <numbers>

namespace mooring::contact {

namespace {

constexpr int kRim = 8;          // corners that stand for a cylinder's end
constexpr double kAskew = 0.02;  // how far behind the farthest corner others may lie, as a share of
                                 // the shape's size
constexpr double kSame = 1e-7;   // corners nearer than this are one [m]

// Whether a corner lies behind another rather than beside it: the far side of a thin plate.
bool is_behind(Vec3 corner, Vec3 other, Vec3 l) {
    const Vec3 way = corner - other;
    const double back = -dot(l, way);
    return back > kSame && 2.0 * back * back > dot(way, way);
}

// All that follows is in the shape's frame, with l the normal there.

Side side_of_points(const Shapes& shapes, const Shape& shape, Vec3 l, double near) {
    double top = -1e300;
    for (Index k = shape.first; k < shape.last; ++k) {
        top = std::max(top, dot(l, shapes.point(k)));
    }
    Side all, side;
    for (Index k = shape.first; k < shape.last && all.count < kMostCorners; ++k) {
        if (dot(l, shapes.point(k)) >= top - near) {
            all.add(shapes.point(k));
        }
    }
    for (int k = 0; k < all.count; ++k) {
        bool hidden = false;
        for (int j = 0; j < all.count && !hidden; ++j) {
            hidden = is_behind(all[k], all[j], l);
        }
        if (!hidden) {
            side.add(all[k]);
        }
    }
    return side;
}

Side side_of_cylinder(const Shape& shape, Vec3 l, double near) {
    const double across = std::sqrt(l.x * l.x + l.y * l.y);
    const double end = l.z >= 0.0 ? shape.half : -shape.half;
    Side side;
    if (2.0 * shape.across * across <= near) {
        // An end, as a polygon that turns with the shape.
        for (int k = 0; k < kRim; ++k) {
            const double angle = (end > 0.0 ? 2.0 : -2.0) * std::numbers::pi * k / kRim;
            const SineCosine<double> of = sine_cosine(angle);
            side.add({shape.across * of.cosine, shape.across * of.sine, end});
        }
        return side;
    }
    const double x = shape.across * l.x / across, y = shape.across * l.y / across;
    side.add({x, y, end});
    if (2.0 * shape.half * std::fabs(l.z) <= near) {
        side.add({x, y, -end});
    }
    return side;
}

// The outline of points seen along a normal, counter-clockwise (Jarvis 1973).
Side go_round(const Side& loose, Vec3 normal) {
    const Across plane = across(normal);
    int first = 0;
    for (int k = 1; k < loose.count; ++k) {
        if (dot(plane.u, loose[k] - loose[first]) < 0.0) {
            first = k;
        }
    }
    Side out;
    int here = first;
    while (out.count < loose.count) {
        out.add(loose[here]);
        int following = -1;
        double fa = 0.0, fb = 0.0;
        for (int k = 0; k < loose.count; ++k) {
            const Vec3 way = loose[k] - loose[here];
            const double a = dot(plane.u, way), b = dot(plane.v, way);
            if (a * a + b * b < kSame * kSame) {
                continue;
            }
            const double turn = fa * b - fb * a;
            if (following < 0 || turn < -1e-14 ||
                (turn < 1e-14 && a * a + b * b > fa * fa + fb * fb)) {
                following = k;
                fa = a;
                fb = b;
            }
        }
        if (following < 0 || following == first) {
            break;
        }
        here = following;
    }
    return out;
}

}  // namespace

Side side_towards(const Shapes& shapes, const Shape& shape, const Pose& pose, Vec3 normal) {
    const Vec3 l = back(pose.turn, normal);
    const double near = kAskew * shape.reach;
    Side side = shape.cylinder ? side_of_cylinder(shape, l, near)
                               : go_round(side_of_points(shapes, shape, l, near), l);
    for (int k = 0; k < side.count; ++k) {
        side[k] = pose * side[k] + shape.radius * normal;
    }
    return side;
}

}  // namespace mooring::contact
