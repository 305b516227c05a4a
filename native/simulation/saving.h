// A state as bytes, for the same build of the core.
#pragma once

#include <string>

#include "simulation/world.h"

namespace mooring::simulation {

std::string packed(const State& state);
// Throws std::invalid_argument if the bytes are no state.
State unpacked(const std::string& bytes);

}  // namespace mooring::simulation
