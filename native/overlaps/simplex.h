// The point of a simplex nearest to the origin, by the regions of its corners, edges and faces
// (Ericson, Real-Time Collision Detection, 2005, section 5.1).
#pragma once

#include <array>

#include "geometry/vec.h"

namespace mooring::overlaps {

// A point of the difference A - B, and the points of A and B that it comes from; all measured from
// the place of A.
struct Corner {
    Vec3 at, on_a, on_b;
};

using Shares = std::array<double, 4>;

// Shares of the corners in the nearest point.
Shares nearest_on_triangle(Vec3 p, Vec3 q, Vec3 r);

// The same of up to four corners; `inside` tells whether the origin is inside all four.
Shares nearest_on_simplex(const std::array<Corner, 4>& corners, int size, bool& inside);

}  // namespace mooring::overlaps
