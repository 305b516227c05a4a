// All probes; a new one is declared here and listed in `probes.cpp`.
#pragma once

#include "simulation/sensors/probe.h"

namespace mooring::simulation {

extern const Probe kMotionProbe, kPositionProbe, kTorqueProbe, kForceProbe, kContactProbe,
    kStateProbe;

}  // namespace mooring::simulation
