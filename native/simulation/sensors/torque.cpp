// The effort that a joint transmits along its axis.
#include "simulation/sensors/all.h"

namespace mooring::simulation {

namespace {

std::size_t width(const tree::Tree&) { return 1; }

void measure(const Moment& moment, const Sensor& sensor, std::span<double> out) {
    out[0] = moment.tau[static_cast<std::size_t>(sensor.freedom)];
}

}  // namespace

const Probe kTorqueProbe{"torque", false, true, width, measure};

}  // namespace mooring::simulation
