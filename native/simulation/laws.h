// Forces with a law: rotors' thrust, drag, buoyancy.
#pragma once

#include "simulation/rows.h"
#include "simulation/world.h"

namespace mooring::simulation {

// The force of a law on its body as it stands and moves, about the body's point.
Wrench<double> force_of(const Law& law, const Bodies<double>& bodies, const Twist<double>& twist,
                        const double* v, Vec3 gravity);

// What a drag adds to the inertia of its body, so that it may be taken at the end of a step.
ArticulatedInertia<double> resistance_of(const Law& law, const Bodies<double>& bodies,
                                         const Twist<double>& twist, double step);

}  // namespace mooring::simulation
