#include "simulation/sensing.h"

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

double* put(double* out, Vec3 v) {
    out[0] = v.x;
    out[1] = v.y;
    out[2] = v.z;
    return out + 3;
}

// Specific force and angular rate in the sensor's axes, then its orientation.
void inertial(const dynamics::BodyState<double>& body, const Pose& on_body, double* out) {
    const Pose pose = body.pose * on_body;
    const Vec3 arm = pose.place - body.about, w = body.velocity.angular;
    const Vec3 speed = at(body.velocity, arm);
    const Vec3 felt = at(body.acceleration, arm) + cross(w, speed);
    out = put(out, back(pose.turn, felt));
    out = put(out, back(pose.turn, w));
    const Quaternion turn = quaternion_of(pose.turn);
    const double orientation[4] = {turn.x, turn.y, turn.z, turn.w};
    std::copy(orientation, orientation + 4, out);
}

// Moment and force of the joint on its child, about and in the child's frame.
void passed_on(const dynamics::BodyState<double>& body, double* out) {
    const Wrench<double> own = dynamics::moved(body.force, body.about, body.pose.place);
    out = put(out, back(body.pose.turn, own.moment));
    put(out, back(body.pose.turn, own.force));
}

// Sum of the contact forces on a body in its axes, and how hard it is pressed in all.
void touched(const World& world, const State& state, const dynamics::BodyState<double>& body,
             Index i, double* out) {
    const double h = world.settings.step;
    Vec3 sum;
    double pressed = 0.0;
    for (const contact::Contact& c : state.contact.contacts) {
        const double sign = c.body[1] == i ? 1.0 : c.body[0] == i ? -1.0 : 0.0;
        sum += (sign / h) * (c.impulse + c.struck);
        pressed += std::fabs(sign) * dot(c.impulse + c.struck, c.normal) / h;
    }
    out = put(out, back(body.pose.turn, sum));
    *out = pressed;
}

}  // namespace

bool any_due(const std::vector<Sensor>& sensors, Index k) {
    return std::any_of(sensors.begin(), sensors.end(),
                       [k](const Sensor& sensor) { return due(sensor.rate, k); });
}

void measure(const World& world, const State& state, const double* v,
             const std::vector<ActingForce>& acting, StepSpace& space, Records& records) {
    Bodies<double>& bodies = space.bodies;
    // Accelerations of all bodies, and what every joint passes on.
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
    // How what moves stood and moved when the step began.
    Bodies<double>& start = space.before;
    dynamics::place_bodies(world.tree, space.q.data(), start);
    dynamics::move_bodies(world.tree, space.v_before.data(), state.a.data(), world.settings.gravity,
                          start);
    Index widest = 1;
    for (const Sensor& sensor : world.sensors) {
        widest = std::max(widest, sensor.width);
    }
    for (std::size_t n = 0; n < world.sensors.size(); ++n) {
        const Sensor& sensor = world.sensors[n];
        if (!due(sensor.rate, state.steps)) {
            continue;
        }
        records.sensor.push_back(static_cast<Index>(n));
        records.measured.push_back(static_cast<double>(state.steps) * world.settings.step);
        records.values.resize(records.values.size() + static_cast<std::size_t>(widest));
        double* const out = records.values.data() + records.values.size() - widest;
        switch (sensor.kind) {
            case Sees::motion:
                inertial(start[sensor.body], sensor.on_body, out);
                break;
            case Sees::position:
                *out =
                    space.q[static_cast<std::size_t>(world.tree.freedom(sensor.freedom).position)];
                break;
            case Sees::torque:
                *out = space.tau[static_cast<std::size_t>(sensor.freedom)];
                break;
            case Sees::force:
                passed_on(bodies[sensor.body], out);
                break;
            case Sees::contact:
                touched(world, state, bodies[sensor.body], sensor.body, out);
                break;
            case Sees::state:
                std::copy(space.q.begin(), space.q.end(), out);
                break;
        }
    }
}

}  // namespace mooring::simulation
