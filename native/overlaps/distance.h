// How far two convex shapes are apart, or how deep they overlap.
//
// Apart: Gilbert, Johnson and Keerthi's algorithm (1988) on the difference of the cores.
// Overlapping: the difference's surface is built out towards the origin until the nearest piece of
// it is found (van den Bergen, "Proximity Queries and Penetration Depth Computation on 3D Game
// Objects", 2001). Balls and capsules: by formula (Ericson 2005, section 5.1.9).
#pragma once

#include "overlaps/shapes.h"
#include "tree/tree.h"

namespace mooring::overlaps {

// The nearest points on both, and the unit normal from A to B.
struct Nearest {
    double distance;  // less than zero: how deep they overlap
    Vec3 on_a, on_b, normal;
};

// `guess` is a normal to begin with; zero for none.
Nearest signed_distance(const Shapes& shapes, const Shape& a, const Pose& pose_a, const Shape& b,
                        const Pose& pose_b, Vec3 guess);

// Signed distances (b, p) of pairs of bodies (p, 4: from and to of the shapes of each), no more
// than `beyond`, at positions (b, n). `contacts` (b, p, 9) gets the nearest points and the normal
// where the distance is less than that.
void batch_pair_distances(const tree::Tree& tree, const Shapes& shapes, Grid<const Index> pairs,
                          Grid<const double> q, double beyond, Grid<double> distances,
                          double* contacts);

}  // namespace mooring::overlaps
