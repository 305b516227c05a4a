// Measurements during a step.
#pragma once

#include "simulation/sensors/probe.h"

namespace mooring::simulation {

// Whether any sensor measures at step k.
[[nodiscard]] bool any_due(const std::vector<Sensor>& sensors, Index k);

// The row of a measurement has room for the widest sensor.
[[nodiscard]] std::size_t widest_of(const std::vector<Sensor>& sensors);

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
