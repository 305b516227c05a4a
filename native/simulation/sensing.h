// What sensors would measure, without their faults.
#pragma once

#include "simulation/island.h"

namespace mooring::simulation {

// Whether any sensor measures at step k.
bool any_due(const std::vector<Sensor>& sensors, Index k);

// A force that acted on a body in a step.
struct ActingForce {
    Index body;
    Wrench<double> wrench;  // about the body's own point
};

// Take the measurements that are due. Accelerations a (m,) are the means over the step, v (m,) the
// velocities at its start; `acting` are all forces on bodies but gravity, and those of joints.
void measure(const World& world, const State& state, const double* v,
             const std::vector<ActingForce>& acting, StepSpace& space, Records& records);

}  // namespace mooring::simulation
