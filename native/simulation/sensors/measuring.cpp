#include "simulation/sensors/measuring.h"

#include <algorithm>
#include <cmath>

namespace mooring::simulation {

namespace {

constexpr double kRounding = 1e-7;

bool due(double rate, Index k) {
    const auto ticks = [rate](Index at) {
        return std::floor(static_cast<double>(at) * rate + kRounding);
    };
    return k == 0 || ticks(k) > ticks(k - 1);
}

}  // namespace

bool any_due(const std::vector<Sensor>& sensors, Index k) {
    return std::any_of(sensors.begin(), sensors.end(),
                       [k](const Sensor& sensor) { return due(sensor.rate, k); });
}

std::size_t widest_of(const std::vector<Sensor>& sensors) {
    std::size_t widest = 1;
    for (const Sensor& sensor : sensors) {
        widest = std::max(widest, sensor.width);
    }
    return widest;
}

void measure(const World& world, const State& state, const double* v,
             const std::vector<ActingForce>& acting, StepSpace& space, Records& records) {
    Bodies<double>& bodies = space.bodies;
    // Accelerations of all bodies, and the wrenches that joints transmit.
    dynamics::move_bodies(world.tree, v, state.a.data(), world.settings.gravity, bodies);
    for (Index i = 0; i < world.tree.body_count(); ++i) {
        const double* push = state.commands.push.data() + 6 * i;
        bodies[i].force = dynamics::force_of_motion(bodies[i]) -
                          dynamics::moved({vec(push), vec(push + 3)}, {}, bodies[i].about);
    }
    for (const ActingForce& one : acting) {
        bodies[one.body].force = bodies[one.body].force - one.wrench;
    }
    dynamics::load_joints(world.tree, bodies, space.tau.data());
    // Poses and velocities at the start of the step.
    Bodies<double>& start = space.before;
    dynamics::place_bodies(world.tree, space.q.data(), start);
    dynamics::move_bodies(world.tree, space.v_before.data(), state.a.data(), world.settings.gravity,
                          start);
    const Moment moment{world, state, start, bodies, space.q, space.tau};
    const std::size_t widest = widest_of(world.sensors);
    for (std::size_t n = 0; n < world.sensors.size(); ++n) {
        const Sensor& sensor = world.sensors[n];
        if (!due(sensor.rate, state.steps)) {
            continue;
        }
        records.sensor.push_back(static_cast<Index>(n));
        records.measured.push_back(static_cast<double>(state.steps) * world.settings.step);
        records.values.resize(records.values.size() + widest);
        const std::span row = std::span(records.values).last(widest);
        sensor.probe->measure(moment, sensor, row.first(sensor.width));
    }
}

}  // namespace mooring::simulation
