// The sum of the contact forces on a body in its axes, and the sum of their normal parts.
#include <cmath>

#include "simulation/sensors/all.h"

namespace mooring::simulation {

namespace {

std::size_t width(const tree::Tree&) { return 4; }

void measure(const Moment& moment, const Sensor& sensor, std::span<double> out) {
    const double h = moment.world.settings.step;
    Vec3 sum;
    double pressed = 0.0;
    for (const contact::Contact& c : moment.state.contact.contacts) {
        const double sign = c.body[1] == sensor.body ? 1.0 : c.body[0] == sensor.body ? -1.0 : 0.0;
        sum += (sign / h) * (c.impulse + c.struck);
        pressed += std::fabs(sign) * dot(c.impulse + c.struck, c.normal) / h;
    }
    out = put(out, back(moment.end[sensor.body].pose.turn, sum));
    out[0] = pressed;
}

}  // namespace

const Probe kContactProbe{"contact", true, false, width, measure};

}  // namespace mooring::simulation
