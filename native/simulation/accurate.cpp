#include "simulation/accurate.h"

#include <algorithm>
#include <cmath>

#include "dynamics/springs.h"
#include "simulation/recording.h"

namespace mooring::simulation {

namespace {

constexpr int kMostProjections = 6;
constexpr double kClosed = 1e-12;  // [m or rad]
constexpr double kExploded = 1e8;

std::size_t z(Index k) { return static_cast<std::size_t>(k); }

// How hard a spring pulls, and how fast it lengthens.
struct SpringPull {
    Equation row;
    double tension, speed;
};
SpringPull pull_of(const tree::Spring& spring, const Bodies<double>& bodies) {
    const Equation row = spring_row(spring, 0, bodies);
    const double speed = dot(bodies[spring.first].velocity, row.force.wrench[0]) +
                         dot(bodies[spring.second].velocity, row.force.wrench[1]);
    return {row, spring.stiffness * row.gap + spring.damping * speed, speed};
}

}  // namespace

AccurateStepper::AccurateStepper(const World& world, const Mechanisms& mechanisms, StepSpace& space)
    : world_(world), mechanisms_(mechanisms), space_(space) {
    const std::size_t m = world_.tree.freedoms.size();
    efforts_.assign(world_.motors.size(), 0.0);
    step_.assign(m, 0.0);
    for (Slope& slope : slopes_) {
        slope.q.assign(z(world_.tree.coordinates), 0.0);
        slope.v.assign(m, 0.0);
    }
}

void AccurateStepper::place(const double* q, const double* v) {
    Bodies<double>& bodies = space_.bodies;
    dynamics::place_bodies(world_.tree, q, bodies);
    dynamics::move_bodies(world_.tree, v, static_cast<const double*>(nullptr),
                          world_.settings.gravity, bodies);
    dynamics::weigh_bodies(world_.tree, bodies);
    tree::joint_positions(world_.tree, q, space_.positions.data());
}

bool AccurateStepper::step(State& state, Records& records) {
    constexpr double kParts[4] = {0.0, 0.5, 0.5, 1.0};
    constexpr double kWeights[4] = {1.0 / 6.0, 1.0 / 3.0, 1.0 / 3.0, 1.0 / 6.0};
    const double h = world_.settings.step, time = static_cast<double>(state.steps) * h;
    const double gap = project(state);
    space_.q = state.q;
    space_.v_before = state.v;
    if (gap > state.watch.gap[0]) {
        state.watch.gap[0] = gap;
        state.watch.gap[1] = time;
    }
    for (std::size_t stage = 0; stage < 4; ++stage) {
        at_q_ = state.q;
        at_v_ = state.v;
        const double dt = kParts[stage] * h;
        if (stage > 0) {
            const Slope& last = slopes_[stage - 1];
            for (std::size_t i = 0; i < at_q_.size(); ++i) {
                at_q_[i] += dt * last.q[i];
            }
            for (std::size_t c = 0; c < at_v_.size(); ++c) {
                at_v_[c] += dt * last.v[c];
            }
            tree::unit_quaternions(world_.tree, at_q_.data());
        }
        evaluate(state, time + dt, at_q_.data(), at_v_.data(), slopes_[stage]);
        if (stage == 0) {
            note(state, at_v_.data());
            state.a = slopes_[0].v;
            const Index every = world_.settings.every;
            if (every > 0 && state.steps % every == 0) {
                record(world_, mechanisms_, state, space_, records);
                records.effort.insert(records.effort.end(), state.effort.begin(),
                                      state.effort.end());
                records.gap.push_back(gap);
            }
            if (any_due(world_.sensors, state.steps)) {
                std::vector<ActingForce> acting;
                for (const auto& equations : space_.equations) {
                    for (const Equation& row : equations) {
                        for (int side = 0; side < 2; ++side) {
                            if (row.force.body[side] >= 0) {
                                acting.push_back(
                                    {row.force.body[side], row.impulse * row.force.wrench[side]});
                            }
                        }
                    }
                }
                for (const tree::Spring& spring : world_.tree.springs) {
                    const SpringPull pull = pull_of(spring, space_.bodies);
                    const RowForce& force = pull.row.force;
                    for (int side = 0; side < 2; ++side) {
                        acting.push_back({force.body[side], -pull.tension * force.wrench[side]});
                    }
                }
                measure(world_, state, state.v.data(), acting, space_, records);
            }
        }
    }
    std::vector<double>&q = at_q_, &v = at_v_;
    q = state.q;
    v = state.v;
    for (std::size_t stage = 0; stage < 4; ++stage) {
        const double share = kWeights[stage] * h;
        for (std::size_t i = 0; i < q.size(); ++i) {
            q[i] += share * slopes_[stage].q[i];
        }
        for (std::size_t c = 0; c < v.size(); ++c) {
            v[c] += share * slopes_[stage].v[c];
        }
    }
    for (std::size_t c = 0; c < v.size(); ++c) {
        const double speed = std::fabs(v[c]);
        if (!(speed <= state.watch.fastest[0])) {
            state.watch.fastest[0] = speed < kExploded ? speed : kNever;
            state.watch.fastest[1] = time;
            state.watch.fastest[2] = static_cast<double>(c);
        }
        if (!(speed < kExploded)) {
            return false;
        }
    }
    for (std::size_t stage = 0; stage < 4; ++stage) {
        const double share = kWeights[stage] * h;
        const Work& power = slopes_[stage].power;
        state.work.motors += share * power.motors;
        state.work.damping += share * power.damping;
        state.work.commands += share * power.commands;
    }
    tree::unit_quaternions(world_.tree, q.data());
    for (std::size_t k = 0; k < world_.motors.size(); ++k) {
        const Motor& motor = world_.motors[k];
        if (motor.i > 0.0) {
            const Target target = target_of(state.commands, k, motor, space_.target.data(),
                                            space_.target_speed.data());
            state.integral[k] += h * (target.position - space_.positions[z(motor.freedom)]);
        }
    }
    state.q = q;
    state.v = v;
    return true;
}

// Velocities of freedoms from a sum of half responses.
void AccurateStepper::to_velocities(Index own, const double* sums, double* out) {
    StepSpace& s = space_;
    const Mechanism& mechanism = mechanisms_[own];
    for (std::size_t j = 0; j < mechanism.freedoms.size(); ++j) {
        s.half[z(mechanism.freedoms[j])] = sums[j];
    }
    velocities_from(world_.tree, mechanism.bodies, s.bodies, s.made, s.half.data(), out);
}

// Bring positions and velocities onto the loops; returns the gap that was there.
double AccurateStepper::project(State& state) {
    StepSpace& s = space_;
    double found = 0.0;
    for (Index own = 0; own < static_cast<Index>(mechanisms_.all.size()); ++own) {
        const Mechanism& mechanism = mechanisms_[own];
        if (mechanism.couplings.empty() && mechanism.closures.empty() && mechanism.bonds.empty()) {
            continue;
        }
        std::vector<Equation>& equations = s.equations[z(own)];
        for (int round = 0; round < kMostProjections; ++round) {
            place(state.q.data(), state.v.data());
            factorise_bodies(world_.tree, mechanism.bodies, s.bodies, s.made);
            equations.clear();
            add_holding(world_, mechanism, state.bonds, s.bodies, s.positions.data(), equations);
            system_.build(world_.tree, mechanisms_, own, equations, s.bodies, s.made,
                          kRepeatedExactly);
            double worst = 0.0;
            for (const Equation& row : equations) {
                worst = std::max(worst, std::fabs(row.gap));
            }
            found = round == 0 ? std::max(found, worst) : found;
            const bool last = worst < kClosed || round == kMostProjections - 1;
            twists_of(world_.tree, mechanism.bodies, s.bodies, state.v.data(), s.start.data());
            x_.clear();
            for (const Equation& row : equations) {
                x_.push_back(last ? speed_along(row.force, s.start.data(), state.v.data())
                                  : row.gap);
            }
            system_.solve(x_.data());
            sums_.assign(mechanism.freedoms.size(), 0.0);
            system_.take(x_.data(), sums_.data());
            std::fill(step_.begin(), step_.end(), 0.0);
            to_velocities(own, sums_.data(), step_.data());
            if (last) {
                for (const Index c : mechanism.freedoms) {
                    state.v[z(c)] += step_[z(c)];
                }
                break;
            }
            tree::move(world_.tree, state.q.data(), step_.data(), 1.0);
        }
    }
    return found;
}

void AccurateStepper::evaluate(State& state, double time, const double* q, const double* v,
                               Slope& slope) {
    StepSpace& s = space_;
    slope.power = {};
    world_.timeline.at(time, s.target.data(), s.target_speed.data());
    place(q, v);
    tree::rates(world_.tree, q, v, slope.q.data());
    demand(state, v, slope);
    push_bodies(state, slope);
    for (Index own = 0; own < static_cast<Index>(mechanisms_.all.size()); ++own) {
        accelerate(own, state, time, v, slope);
    }
}

// Efforts of motors, dampers and joint springs, and the power of the first two.
void AccurateStepper::demand(const State& state, const double* v, Slope& slope) {
    StepSpace& s = space_;
    const Tree& tree = world_.tree;
    if (std::any_of(world_.motors.begin(), world_.motors.end(),
                    [](const Motor& motor) { return motor.weightless; })) {
        for (dynamics::BodyState<double>& body : s.bodies.body) {
            body.force = body.inertia * Twist<double>{{}, -world_.settings.gravity};
        }
        dynamics::load_joints(tree, s.bodies, s.weight.data());
    }
    for (Index c = 0; c < tree.freedom_count(); ++c) {
        const tree::Freedom& f = tree.freedom(c);
        const double way = s.positions[z(c)] - f.rest;
        s.tau[z(c)] = -f.damping * v[c] - f.stiffness * way;
        slope.power.damping += f.damping * v[c] * v[c];
    }
    for (std::size_t k = 0; k < world_.motors.size(); ++k) {
        const Motor& motor = world_.motors[k];
        efforts_[k] = 0.0;
        if (motor.mode == Mode::motion || !is_on(state, static_cast<Index>(k))) {
            continue;
        }
        const std::size_t c = z(motor.freedom);
        const Target target =
            target_of(state.commands, k, motor, s.target.data(), s.target_speed.data());
        const double told = state.commands.effort[k] + (motor.weightless ? s.weight[c] : 0.0);
        s.demands[k] = demand_of(motor, target, told, s.positions[c], state.integral[k], {});
        const Envelope envelope(motor, s.demands[k], kSmoothSpeedBand);
        efforts_[k] = envelope.limited(s.demands[k].base - s.demands[k].fall * v[c], v[c]);
        s.tau[c] += efforts_[k];
        slope.power.motors += efforts_[k] * v[c];
    }
}

// Forces on bodies besides those of their motion: of springs, and pushes.
void AccurateStepper::push_bodies(const State& state, Slope& slope) {
    StepSpace& s = space_;
    for (Index i = 0; i < world_.tree.body_count(); ++i) {
        const double* push = state.commands.push.data() + 6 * i;
        dynamics::BodyState<double>& body = s.bodies[i];
        body.force = dynamics::moved({vec(push), vec(push + 3)}, {}, body.about);
        slope.power.commands += dot(body.velocity, body.force);
    }
    for (const tree::Spring& spring : world_.tree.springs) {
        const SpringPull pull = pull_of(spring, s.bodies);
        for (int side = 0; side < 2; ++side) {
            dynamics::BodyState<double>& body = s.bodies[pull.row.force.body[side]];
            body.force = body.force - pull.tension * pull.row.force.wrench[side];
        }
        slope.power.damping += spring.damping * pull.speed * pull.speed;
    }
}

void AccurateStepper::accelerate(Index own, const State& state, double time, const double* v,
                                 Slope& slope) {
    StepSpace& s = space_;
    const Mechanism& mechanism = mechanisms_[own];
    factorise_bodies(world_.tree, mechanism.bodies, s.bodies, s.made);
    for (const Index i : mechanism.bodies) {
        s.made.force[z(i)] = s.bodies[i].force - dynamics::force_of_motion(s.bodies[i]);
    }
    for (auto i = mechanism.bodies.rbegin(); i != mechanism.bodies.rend(); ++i) {
        const Body& b = world_.tree.body(*i);
        const Wrench<double> left = dynamics::half_of_body(
            b, *i, s.bodies, s.made, s.made.force[z(*i)], s.tau.data(), s.half.data());
        if (world_.tree.tip(b.parent) >= 0) {
            s.made.force[z(b.parent)] = s.made.force[z(b.parent)] + left;
        }
    }
    sums_.clear();
    for (const Index c : mechanism.freedoms) {
        sums_.push_back(s.half[z(c)]);
    }
    std::vector<Equation>& equations = s.equations[z(own)];
    equations.clear();
    add_holding(world_, mechanism, state.bonds, s.bodies, s.positions.data(), equations);
    for (const Index k : mechanism.motors) {
        if (world_.motors[z(k)].mode == Mode::motion && is_on(state, k)) {
            equations.push_back({Ties::motion, k, effort_at(world_.motors[z(k)].freedom, 1.0)});
        }
    }
    if (!equations.empty()) {
        system_.build(world_.tree, mechanisms_, own, equations, s.bodies, s.made, kRepeatedExactly);
        // How fast target speeds change, by a central difference.
        constexpr double kSpan = 1e-5;
        std::vector<double> ahead(s.target.size()), behind(ahead), places(ahead);
        world_.timeline.at(time + kSpan, places.data(), ahead.data());
        world_.timeline.at(time - kSpan, places.data(), behind.data());
        x_.clear();
        for (std::size_t r = 0; r < equations.size(); ++r) {
            const Equation& row = equations[r];
            double rate = dot(system_.half(static_cast<Index>(r)), sums_.data(), mechanism.size());
            if (row.kind == Ties::closure || row.kind == Ties::bond) {
                rate += rate_along(row.force, s.bodies);
            } else if (row.kind == Ties::motion) {
                const std::size_t c = z(row.force.freedom[0]);
                rate -= (ahead[c] - behind[c]) / (2.0 * kSpan);
            }
            x_.push_back(rate);
        }
        system_.solve(x_.data());
        system_.take(x_.data(), sums_.data());
        for (std::size_t r = 0; r < equations.size(); ++r) {
            equations[r].impulse = -x_[r];
            if (equations[r].kind == Ties::motion) {
                const auto k = z(equations[r].item);
                efforts_[k] = -x_[r];
                slope.power.motors += efforts_[k] * v[world_.motors[k].freedom];
            }
        }
    }
    to_velocities(own, sums_.data(), slope.v.data());
}

void AccurateStepper::note(State& state, const double* v) {
    const double h = world_.settings.step, time = static_cast<double>(state.steps) * h;
    Watch& watch = state.watch;
    for (std::size_t k = 0; k < world_.motors.size(); ++k) {
        const Motor& motor = world_.motors[k];
        state.effort[k] = efforts_[k];
        if (motor.mode == Mode::motion || !is_on(state, static_cast<Index>(k))) {
            continue;
        }
        const Demand& demand = space_.demands[k];
        const double wanted = std::fabs(demand.base - demand.fall * v[motor.freedom]);
        if (wanted >= motor.effort) {
            double* const noted = watch.saturated.data() + 3 * k;
            noted[0] = std::min(noted[0], time);
            noted[1] += h;
            noted[2] = std::max(noted[2], wanted);
            if (motor.trips) {
                watch.tripped[k] = std::min(watch.tripped[k], time);
            }
        }
    }
}

}  // namespace mooring::simulation
