// The position of a joint.
#include "simulation/sensors/all.h"

namespace mooring::simulation {

namespace {

std::size_t width(const tree::Tree&) { return 1; }

void measure(const Moment& moment, const Sensor& sensor, std::span<double> out) {
    out[0] = moment.q[static_cast<std::size_t>(moment.world.tree.freedom(sensor.freedom).position)];
}

}  // namespace

const Probe kPositionProbe{"position", false, true, width, measure};

}  // namespace mooring::simulation
