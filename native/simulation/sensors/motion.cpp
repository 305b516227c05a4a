// An inertial unit: specific force and angular rate in the sensor's axes, then its orientation.
#include <algorithm>
#include <array>

#include "simulation/sensors/all.h"

namespace mooring::simulation {

namespace {

std::size_t width(const tree::Tree&) { return 10; }

void measure(const Moment& moment, const Sensor& sensor, std::span<double> out) {
    const dynamics::BodyState<double>& body = moment.start[sensor.body];
    const Pose pose = body.pose * sensor.on_body;
    const Vec3 arm = pose.place - body.about, w = body.velocity.angular;
    const Vec3 speed = at(body.velocity, arm);
    const Vec3 felt = at(body.acceleration, arm) + cross(w, speed);
    out = put(out, back(pose.turn, felt));
    out = put(out, back(pose.turn, w));
    const Quaternion turn = quaternion_of(pose.turn);
    std::ranges::copy(std::array{turn.x, turn.y, turn.z, turn.w}, out.begin());
}

}  // namespace

const Probe kMotionProbe{"motion", true, false, width, measure};

}  // namespace mooring::simulation
