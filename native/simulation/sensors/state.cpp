// All positions, for sensors that Python evaluates afterwards: scanners, cameras and users' own.
#include <algorithm>

#include "simulation/sensors/all.h"

namespace mooring::simulation {

namespace {

std::size_t width(const tree::Tree& tree) { return static_cast<std::size_t>(tree.coordinates); }

void measure(const Moment& moment, const Sensor&, std::span<double> out) {
    std::ranges::copy(moment.q, out.begin());
}

}  // namespace

const Probe kStateProbe{"state", false, false, width, measure};

}  // namespace mooring::simulation
