// Equations of loops that repeat each other, as those of flat mechanisms do, and of made machines
// nearly.
#pragma once

#include "simulation/equations.h"

namespace mooring::simulation {

// Find out which equations of each mechanism repeat others, where it stands and where it can go
// from there, and have them left out. Positions q (n,) close the loops, as nearly as they close.
void leave_repeating(const World& world, const std::vector<Bond>& bonds,
                     const std::vector<double>& q, Mechanisms& mechanisms);

}  // namespace mooring::simulation
