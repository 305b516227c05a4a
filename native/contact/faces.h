// The side of a convex shape that looks in a direction: a corner, an edge or a face.
//
// Corners that are nearly as far out as the farthest one count as well, so that a box which stands
// a little askew is held at all four corners.
#pragma once

#include <array>

#include "overlaps/shapes.h"

namespace mooring::contact {

using overlaps::Shape;
using overlaps::Shapes;

constexpr int kMostCorners = 32;

struct Side {
    std::array<Vec3, kMostCorners> points;  // of the surface, in the world
    int count = 0;

    Vec3& operator[](int k) { return points[static_cast<std::size_t>(k)]; }
    const Vec3& operator[](int k) const { return points[static_cast<std::size_t>(k)]; }
    const Vec3& next(int k) const { return (*this)[k + 1 < count ? k + 1 : 0]; }
    void add(Vec3 point) {
        if (count < kMostCorners) {
            (*this)[count++] = point;
        }
    }
};

// Three corners and more go round the normal counter-clockwise.
Side side_towards(const Shapes& shapes, const Shape& shape, const Pose& pose, Vec3 normal);

}  // namespace mooring::contact
