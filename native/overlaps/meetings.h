// Which bodies are nearer to each other than a distance, of many, at many positions.
//
// Balls around the shapes are sorted along the longest side of their cloud, and swept along it
// (Baraff, "Dynamic Simulation of Non-Penetrating Rigid Bodies", 1992, section 2.3); only what
// meets there is looked at closely.
#pragma once

#include <cstdint>
#include <vector>

#include "overlaps/shapes.h"
#include "tree/tree.h"

namespace mooring::overlaps {

struct Meetings {
    std::vector<Index> where;       // state, first body, second body; three each
    std::vector<double> distances;  // less than zero: how deep they overlap
};

// `judged` (bodies, bodies): pairs that are looked at, the lower number first. `moving` (b,
// bodies): bodies that move at a state together have 1, those that stay 0; two of one number are
// not looked at, since they stand to each other as they did. 2: all are looked at.
Meetings meetings(const tree::Tree& tree, const Shapes& shapes, Grid<const std::uint8_t> judged,
                  Grid<const double> q, Grid<const std::uint8_t> moving, double below);

}  // namespace mooring::overlaps
