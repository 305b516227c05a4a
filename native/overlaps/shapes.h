// Convex shapes: points or a cylinder, made rounder by a radius.
//
// A sphere is one point with a radius, a capsule two; a box its eight corners and a hull its
// vertices, with none. Distances are measured between these cores, and the radii taken off
// afterwards.
#pragma once

#include <vector>

#include "geometry/codes.h"
#include "geometry/matrix.h"
#include "geometry/views.h"

namespace mooring::overlaps {

enum class CoreKind { points, cylinder };

}  // namespace mooring::overlaps

template <>
struct mooring::Names<mooring::overlaps::CoreKind> {
    static constexpr std::array<std::string_view, 2> names{"points", "cylinder"};
};

namespace mooring::overlaps {

struct Shape {
    Index body;
    bool cylinder;
    Index first, last;    // its points, from and to
    double across, half;  // radius and half the length of a cylinder
    double radius;        // how much rounder than its core it is
    Pose on_body;
    Vec3 middle;   // of a ball around it, in the shape's frame
    double reach;  // its radius

    Index points() const { return last - first; }
    // A ball or a capsule.
    bool is_round() const { return !cylinder && points() <= 2; }
};

struct Shapes {
    std::vector<Shape> shapes;
    std::vector<Vec3> points;  // of all shapes, each in its shape's frame

    Index count() const { return static_cast<Index>(shapes.size()); }
    const Shape& operator[](Index s) const { return shapes[static_cast<std::size_t>(s)]; }
    const Vec3& point(Index k) const { return points[static_cast<std::size_t>(k)]; }
};

// Where a shape is in the world.
struct PlacedShape {
    Pose pose;
    Vec3 middle;
};

inline PlacedShape placed(const Shape& shape, const Pose& body) {
    const Pose pose = body * shape.on_body;
    return {pose, pose * shape.middle};
}

// The point of a shape's core farthest in a direction; both in the shape's frame.
inline Vec3 farthest(const Shapes& shapes, const Shape& shape, Vec3 way) {
    if (shape.cylinder) {
        const double across = std::sqrt(way.x * way.x + way.y * way.y);
        const double half = way.z >= 0.0 ? shape.half : -shape.half;
        if (!(across > 1e-300)) {
            return {shape.across, 0.0, half};
        }
        const double share = shape.across / across;
        return {share * way.x, share * way.y, half};
    }
    Index best = shape.first;
    double top = -1e300;
    for (Index k = shape.first; k < shape.last; ++k) {
        if (const double value = dot(way, shapes.point(k)); value > top) {
            top = value;
            best = k;
        }
    }
    return shapes.point(best);
}

}  // namespace mooring::overlaps
