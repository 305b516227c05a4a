// What a simulation is made of, from the arrays of Python.
#pragma once

#include "bindings/arrays.h"
#include "bindings/tree.h"
#include "simulation/world.h"

namespace mooring::bindings {

// Objects of Python with arrays as attributes; see `mooring.simulation`.
struct Given {
    nb::handle motors, forces, scenery, sensors, timeline, settings;
};

// Raises index and value errors where the arrays do not fit each other, or the tree.
simulation::World world_of(const tree::Tree& tree, const Given& given);

}  // namespace mooring::bindings
