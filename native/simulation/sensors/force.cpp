// The moment and force of a joint on its child, about and in the child's frame.
#include "simulation/sensors/all.h"

namespace mooring::simulation {

namespace {

std::size_t width(const tree::Tree&) { return 6; }

void measure(const Moment& moment, const Sensor& sensor, std::span<double> out) {
    const dynamics::BodyState<double>& body = moment.end[sensor.body];
    const Wrench<double> load = dynamics::moved(body.force, body.about, body.pose.place);
    out = put(out, back(body.pose.turn, load.moment));
    (void)put(out, back(body.pose.turn, load.force));
}

}  // namespace

const Probe kForceProbe{"force", true, false, width, measure};

}  // namespace mooring::simulation
