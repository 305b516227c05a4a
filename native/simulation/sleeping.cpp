// What rests falls asleep, and what is pushed or touched wakes up.
#include <algorithm>

#include "simulation/simulation.h"

namespace mooring::simulation {

namespace {

constexpr double kStill = 1e-3;      // slower counts as resting [m/s]
constexpr double kUntilSleep = 0.5;  // resting that long falls asleep [s]

std::size_t z(Index k) { return static_cast<std::size_t>(k); }

}  // namespace

bool Simulation::is_awake(Index mechanism) const {
    return state_.awake[z((*mechanisms_)[mechanism].bodies[0])] != 0;
}

void Simulation::set_awake(Index mechanism, bool awake) {
    for (const Index i : (*mechanisms_)[mechanism].bodies) {
        state_.awake[z(i)] = awake;
        state_.still[z(i)] = 0.0;
    }
}

// What is pushed wakes up, and what a conveyor takes along.
void Simulation::wake() {
    const std::vector<double>& belt = state_.commands.belt;
    const auto runs = [&](Index body) {
        const double* const own = belt.data() + 3 * body;
        return body >= 0 && (own[0] != 0.0 || own[1] != 0.0 || own[2] != 0.0);
    };
    if (std::any_of(belt.begin(), belt.end(), [](double speed) { return speed != 0.0; })) {
        // What lies on a surface that runs.
        for (const contact::Contact& c : state_.contact.contacts) {
            if (runs(c.body[0]) || runs(c.body[1])) {
                wake_with(mechanisms_->of(c.body[0]));
                wake_with(mechanisms_->of(c.body[1]));
            }
        }
    }
    for (Index k = 0; k < static_cast<Index>(mechanisms_->all.size()); ++k) {
        if (is_awake(k)) {
            continue;
        }
        for (const Index i : (*mechanisms_)[k].bodies) {
            const double* push = state_.commands.push.data() + 6 * i;
            if (std::any_of(push, push + 6, [](double value) { return value != 0.0; })) {
                wake_with(k);
                break;
            }
        }
    }
}

// Wake a mechanism, and all that sleeps with it.
void Simulation::wake_with(Index mechanism) {
    std::vector<Index> waiting{mechanism};
    while (!waiting.empty()) {
        const Index own = waiting.back();
        waiting.pop_back();
        if (own < 0 || is_awake(own)) {
            continue;
        }
        set_awake(own, true);
        for (const contact::Contact& c : state_.contact.contacts) {
            const Index one = mechanisms_->of(c.body[0]), other = mechanisms_->of(c.body[1]);
            if (one == own || other == own) {
                waiting.push_back(one == own ? other : one);
            }
        }
    }
}

// Let what has rested for a while fall asleep, with all it touches.
void Simulation::rest() {
    const double h = world_.settings.step;
    for (std::size_t k = 0; k < island_count_; ++k) {
        bool all = !islands_[k].contacts.empty();
        for (const Index own : islands_[k].mechanisms) {
            const Mechanism& mechanism = (*mechanisms_)[own];
            if (!mechanism.loose) {
                all = false;
                continue;
            }
            // The speed that the energy is worth.
            const Index i = mechanism.bodies[0];
            const ArticulatedInertia<double>& inertia = space_->made.inertia[z(i)];
            const Twist<double>& twist = space_->end[z(i)];
            const double squared = dot(twist, inertia * twist) / inertia.c.xx;
            double& still = state_.still[z(i)];
            still = squared < kStill * kStill ? still + h : 0.0;
            all = all && still >= kUntilSleep;
        }
        if (!all) {
            continue;
        }
        for (const Index own : islands_[k].mechanisms) {
            const Index i = (*mechanisms_)[own].bodies[0];
            const Twist<double>& twist = space_->end[z(i)];
            state_.work.contacts += 0.5 * dot(twist, space_->made.inertia[z(i)] * twist);
            set_awake(own, false);
            for (const Index c : (*mechanisms_)[own].freedoms) {
                state_.v[z(c)] = state_.a[z(c)] = 0.0;
            }
            // Placed once more as it lies, since it is not placed again.
            for (const Index j : (*mechanisms_)[own].bodies) {
                dynamics::place_body(world_.tree, j, state_.q.data(), space_->bodies);
                dynamics::move_body(world_.tree, j, state_.v.data(),
                                    static_cast<const double*>(nullptr), world_.settings.gravity,
                                    space_->bodies);
                dynamics::weigh_body(world_.tree.body(j), space_->bodies[j]);
                space_->start[z(j)] = {};
                moving_[z(j)] = {space_->bodies[j].pose, {}, {}};
            }
        }
    }
}

}  // namespace mooring::simulation
