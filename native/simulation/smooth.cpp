// An island's free motion: forces without bounds, and when in the step each is taken.
#include <algorithm>
#include <cmath>

#include "simulation/island.h"
#include "simulation/laws/law_type.h"

namespace mooring::simulation {

namespace {

constexpr double kRinging = 0.3;       // damping ratio above which a spring is not said to ring
constexpr int kMiddleRounds = 3;       // of middle velocities, each of which divides their error by
                                       // what turns in a step
constexpr double kMiddleFound = 1e-6;  // [m/s or rad/s]

std::size_t z(Index k) { return static_cast<std::size_t>(k); }

}  // namespace

// How a mechanism answers along a force to a unit of it.
double IslandSolver::answer_to(Index own, const RowForce& force) {
    const Index size = (*mechanisms_)[own].size();
    scratch_.resize(z(size));
    half_response(world_->tree, *mechanisms_, own, force, space_->bodies, space_->made,
                  scratch_.data());
    return dot(scratch_.data(), scratch_.data(), size);
}

// How much later springs and gains are taken than where things stand. With w the angle by which a
// resonance turns in a step, taken at once it neither grows nor decays up to w = 2, and a step
// later it decays with a damping ratio of w / 2 that is not there. A mechanism's resonances are not
// found, but bounded: no square of w is more than the sum over its springs of each with nothing
// else holding, the trace of M^-1 K. With each of n springs taken as early as n times its own share
// allows, what is taken early cannot explode, whatever hangs on whatever.
//
// Dampers are taken in the middle up to where one would stop in two steps what it damps, then
// later, so that nothing is thrown back.
void IslandSolver::find_lateness(Index own) {
    const Mechanism& mechanism = (*mechanisms_)[own];
    StepSpace& s = *space_;
    Watch& watch = state_->watch;
    const Tree& tree = world_->tree;
    for (const Index c : mechanism.freedoms) {
        s.late[z(c)] = tree.freedom(c).stiffness;
        s.easing[z(c)] = tree.freedom(c).damping;
    }
    for (const Index k : mechanism.motors) {
        const Motor& motor = world_->motors[z(k)];
        if (!motor.samples() && !motor.geared() &&
            (motor.mode == Mode::position || motor.mode == Mode::velocity)) {
            s.late[z(motor.freedom)] += motor.mode == Mode::position ? motor.p : 0.0;
            s.easing[z(motor.freedom)] += motor.d;
        }
    }
    const auto stiff = std::count_if(mechanism.freedoms.begin(), mechanism.freedoms.end(),
                                     [&](Index c) { return s.late[z(c)] > 0.0; });
    const double springs =
        static_cast<double>(stiff) + static_cast<double>(mechanism.springs.size());
    bool ready = false;
    const auto find = [&](const RowForce& force, double& late, double& easing, double* noted) {
        if (!ready) {
            factorise_bodies(tree, mechanism.bodies, s.bodies, s.made);
            ready = true;
        }
        const double answer = answer_to(own, force);
        const double alone = late * h_ * h_ * answer;
        const double squared = springs * late * h_ * h_ * answer;
        // What is damped that well does not ring, and nobody minds a little more.
        const bool rings = easing * easing * answer < 4.0 * kRinging * kRinging * late;
        if (rings) {
            noted[0] = std::max(noted[0], alone);
            noted[1] = std::max(noted[1], squared);
        }
        late = lateness(squared);
        easing = 0.5 + 0.5 * std::min(1.0, std::max(0.0, h_ * easing * answer - 1.0));
    };
    for (const Index c : mechanism.freedoms) {
        if (s.late[z(c)] > 0.0 || s.easing[z(c)] > 0.0) {
            find(effort_at(c, 1.0), s.late[z(c)], s.easing[z(c)], watch.resonance.data() + 2 * c);
        }
    }
    for (const Index k : mechanism.springs) {
        const tree::Spring& spring = tree.springs[z(k)];
        s.spring_late[z(k)] = spring.stiffness;
        s.spring_easing[z(k)] = spring.damping;
        find(spring_row(spring, k, s.bodies).force, s.spring_late[z(k)], s.spring_easing[z(k)],
             watch.resonance.data() + 2 * (tree.freedoms.size() + z(k)));
    }
}

// Forces and inertias that do not hang on velocities, and the factorisation that rows need.
void IslandSolver::load(Index own) {
    const Mechanism& mechanism = (*mechanisms_)[own];
    const Tree& tree = world_->tree;
    StepSpace& s = *space_;
    for (const Index i : mechanism.bodies) {
        s.made.inertia[z(i)] = articulated(s.bodies[i].inertia);
    }
    for (const Index k : mechanism.laws) {
        const Law& law = world_->laws[z(k)];
        if (law.type->dissipates()) {
            ArticulatedInertia<double>& inertia = s.made.inertia[z(law.body)];
            inertia = inertia + law.type->resistance(law, s.bodies, s.start[z(law.body)], h_);
        }
    }
    load_rotors(own);
    for (const Index c : mechanism.freedoms) {
        const tree::Freedom& f = tree.freedom(c);
        const double later = s.late[z(c)] * h_ * f.stiffness;
        s.tau[z(c)] =
            -f.stiffness * (s.positions[z(c)] - f.rest) - (f.damping + later) * state_->v[z(c)];
        s.more[z(c)] = f.rotor + h_ * (s.easing[z(c)] * f.damping + later);
    }
    for (const Index k : mechanism.motors) {
        const Motor& motor = world_->motors[z(k)];
        const std::size_t c = z(motor.freedom);
        if (motor.mode == Mode::motion || motor.geared() || !is_on(*state_, k)) {
            continue;
        }
        const Demand given = given_by(k);
        s.more[c] += h_ * given.fall;
        s.tau[c] += given.base - given.fall * state_->v[c];
    }
    for (auto i = mechanism.bodies.rbegin(); i != mechanism.bodies.rend(); ++i) {
        const Body& b = tree.body(*i);
        dynamics::factorise_body(tree, *i, s.bodies, b.freedoms() == 1 ? s.more[z(b.freedom)] : 0.0,
                                 kMassless, s.made);
    }
}

// Velocities without any row, at the middle velocities known so far.
void IslandSolver::move_freely(Index own) {
    const Mechanism& mechanism = (*mechanisms_)[own];
    const Tree& tree = world_->tree;
    StepSpace& s = *space_;
    const Twist<double> against_gravity{{}, -world_->settings.gravity};
    for (const Index i : mechanism.bodies) {
        const dynamics::BodyState<double>& body = s.bodies[i];
        const double* push = state_->commands.push.data() + 6 * i;
        const Wrench<double> pushed = dynamics::moved({vec(push), vec(push + 3)}, {}, body.about);
        // A loose body's turning is taken care of when it moves.
        s.made.force[z(i)] = pushed - (mechanism.loose ? body.inertia * against_gravity
                                                       : dynamics::force_of_motion(body));
    }
    for (const Index k : mechanism.laws) {
        const Law& law = world_->laws[z(k)];
        s.pushed[z(k)] = law.type->force(
            law, {s.bodies, s.start[z(law.body)], state_->v.data(), world_->settings.gravity});
        s.made.force[z(law.body)] = s.made.force[z(law.body)] + s.pushed[z(k)];
    }
    for (auto i = mechanism.bodies.rbegin(); i != mechanism.bodies.rend(); ++i) {
        const Body& b = tree.body(*i);
        const Wrench<double> left = dynamics::half_of_body(
            b, *i, s.bodies, s.made, s.made.force[z(*i)], s.tau.data(), s.half.data());
        if (tree.tip(b.parent) >= 0) {
            s.made.force[z(b.parent)] = s.made.force[z(b.parent)] + left;
        }
    }
    to_velocities(own, s.rate.data());
    for (const Index c : mechanism.freedoms) {
        s.free[z(c)] = state_->v[z(c)] + h_ * s.rate[z(c)];
    }
    // Velocities of what floats are told in its own axes, which stand still for now; so what their
    // turning does is no acceleration.
    for (const Index i : mechanism.bodies) {
        const Body& b = tree.body(i);
        if (b.kind == Kind::floating && !mechanism.loose) {
            const double* v = s.middle.data() + b.freedom;
            const Vec3 turning = h_ * cross(vec(v), vec(v + 3));
            s.free[z(b.freedom) + 3] += turning.x;
            s.free[z(b.freedom) + 4] += turning.y;
            s.free[z(b.freedom) + 5] += turning.z;
        }
    }
    twists_of(tree, mechanism.bodies, s.bodies, s.free.data(), s.without.data());
}

// The velocities about the middle of the step, with what closed loops do to them, and what they
// make of the free motion: fixed points of each other.
void IslandSolver::find_middle(Index own, std::size_t place) {
    const Mechanism& mechanism = (*mechanisms_)[own];
    StepSpace& s = *space_;
    const std::vector<Equation>& equations = s.equations[z(own)];
    for (int round = 0; round < kMiddleRounds; ++round) {
        double largest = 0.0;
        for (const Index c : mechanism.freedoms) {
            s.v[z(c)] = s.free[z(c)];
        }
        if (!equations.empty()) {
            eq_.clear();
            for (const Equation& row : equations) {
                eq_.push_back(speed_along(row.force, s.without.data(), s.free.data()) - row.wanted);
            }
            systems_[place].solve(eq_.data());
            change_.assign(z(mechanism.size()), 0.0);
            systems_[place].take(eq_.data(), change_.data());
            for (std::size_t j = 0; j < mechanism.freedoms.size(); ++j) {
                s.half[z(mechanism.freedoms[j])] = change_[j];
            }
            to_velocities(own, s.rate.data());
            for (const Index c : mechanism.freedoms) {
                s.v[z(c)] += s.rate[z(c)];
            }
        }
        for (const Index c : mechanism.freedoms) {
            s.v[z(c)] = 0.5 * (state_->v[z(c)] + s.v[z(c)]);
            largest = std::max(largest, std::fabs(s.v[z(c)] - s.middle[z(c)]));
        }
        if (largest < kMiddleFound) {
            return;
        }
        for (const Index c : mechanism.freedoms) {
            s.middle[z(c)] = s.v[z(c)];
        }
        for (const Index i : mechanism.bodies) {
            dynamics::move_body(world_->tree, i, s.middle.data(),
                                static_cast<const double*>(nullptr), world_->settings.gravity,
                                s.bodies);
        }
        move_freely(own);
    }
}

// From half responses in `space.half` to velocities.
void IslandSolver::to_velocities(Index own, double* change) {
    velocities_from(world_->tree, (*mechanisms_)[own].bodies, space_->bodies, space_->made,
                    space_->half.data(), change);
}

}  // namespace mooring::simulation
