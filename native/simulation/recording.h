// What is recorded of an instant before its step is taken.
#pragma once

#include "simulation/island.h"

namespace mooring::simulation {

// Positions, velocities, targets and energies; bodies are placed, and targets are those of now.
void record(const World& world, const Mechanisms& mechanisms, const State& state, StepSpace& space,
            Records& records);

// Take back the row of a step that came to nothing.
void drop_last(const World& world, Records& records);

}  // namespace mooring::simulation
