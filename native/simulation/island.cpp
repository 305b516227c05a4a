#include "simulation/island.h"

#include <algorithm>
#include <cmath>

#include "simulation/laws.h"

namespace mooring::simulation {

namespace {

constexpr int kMostRounds = 12;
constexpr double kResolved = 0.25;  // square of the angle by which a resonance turns in a step, up
                                    // to which the step resolves it
constexpr double kTrace = 1e-6;     // [steps]
constexpr double kStiff = 1.0;      // the same, from which springs are taken at its end
constexpr double kRinging = 0.3;    // damping ratio above which a spring is not said to ring
constexpr int kMiddleRounds = 3;    // of middle velocities, each of which divides their error by
                                    // what turns in a step
constexpr double kMiddleFound = 1e-6;  // [m/s or rad/s]
constexpr double kPoor = 1e-3;     // impulses that still change velocities by this much were not
                                   // found [m/s or rad/s]
constexpr double kExploded = 1e8;  // nothing that a robot does is faster [m/s or rad/s]
constexpr double kGive = 1e-2;     // of contacts, as a share of how they answer to their impulse
constexpr double kSettle = 0.05;   // share of a small overlap that a step takes back by a velocity,
                                   // so that give and overlap come to a balance
constexpr double kRelax = 0.98;  // share of a loose body's friction that the next step begins with
// Large islands find their impulses over several steps, each of which begins with the last ones:
// so many rows are swept over in a step, but each at least so often.
constexpr Index kRowsToSweep = 20000, kFewestSweeps = 40;

std::size_t z(Index k) { return static_cast<std::size_t>(k); }

}  // namespace

StepSpace::StepSpace(const World& world, const Mechanisms& mechanisms)
    : bodies(world.tree), made(world.tree), before(world.tree) {
    const std::size_t m = world.tree.freedoms.size(), n = world.tree.bodies.size();
    std::size_t sizes = 0;
    for (const Mechanism& own : mechanisms.all) {
        sizes += z(own.size());
    }
    for (auto* row : {&positions, &target, &target_speed, &weight, &middle, &late, &easing, &ahead,
                      &gear_loss, &tau, &struck, &more, &half, &rate, &free, &v, &moving}) {
        row->assign(m, 0.0);
    }
    sums.assign(sizes, 0.0);
    for (auto* row : {&start, &without, &end}) {
        row->assign(n, {});
    }
    demands.resize(world.motors.size());
    pulls.resize(mechanisms.all.size());
    for (auto* row : {&rotor_free, &rotor_mass, &rotor_end}) {
        row->assign(world.motors.size(), 0.0);
    }
    std::size_t pulling = 0;
    for (const Mechanism& own : mechanisms.all) {
        first_pull.push_back(pulling);
        pulling += own.cables.size() + 2 * own.rotors.size() + own.closures.size();
    }
    given.resize(world.motors.size());
    spring_late.assign(world.tree.springs.size(), 0.0);
    spring_easing.assign(world.tree.springs.size(), 0.0);
    equations.resize(mechanisms.all.size());
    std::size_t next = 0;
    for (const Mechanism& own : mechanisms.all) {
        offset.push_back(next);
        next += z(own.size());
    }
}

Outcome IslandSolver::step(const World& world, const Mechanisms& mechanisms, const Island& island,
                           State& state, StepSpace& space) {
    world_ = &world;
    mechanisms_ = &mechanisms;
    island_ = &island;
    state_ = &state;
    space_ = &space;
    h_ = world.settings.step;
    kept_.clear();
    systems_.resize(std::max(systems_.size(), island.mechanisms.size()));
    for (const Index own : island.mechanisms) {
        prepare(own);
        for (const Index c : mechanisms[own].freedoms) {
            space.struck[z(c)] = 0.0;
        }
    }
    Outcome outcome;
    bool struck = false;
    for (int round = 0; round < kMostRounds; ++round) {
        arena_.give_back();
        rows_.clear();
        forces_.clear();
        bounded_.clear();
        contacts_.clear();
        for (std::size_t k = 0; k < island.mechanisms.size(); ++k) {
            const Index own = island.mechanisms[k];
            load(own);
            move_freely(own);
            build_equations(own, k);
            if (round == 0 && !mechanisms[own].loose) {
                find_middle(own, k);
            }
        }
        for (const Index own : island.mechanisms) {
            build_bounded(own);
            build_pulls(own);
        }
        build_contacts();
        if (!struck) {
            struck = true;
            if (collide(outcome)) {
                for (const Index own : island.mechanisms) {
                    prepare(own);
                }
                --round;
                continue;
            }
        }
        const Swept swept = solve();
        outcome.sweeps += swept.sweeps;
        outcome.poor = outcome.poor || swept.left > kPoor;
        bool again = false;
        for (const Index own : island.mechanisms) {
            again = resaturate(own) || again;
        }
        if (!again) {
            break;
        }
    }
    for (const Index own : island.mechanisms) {
        for (const Index c : mechanisms[own].freedoms) {
            outcome.sound = outcome.sound && std::fabs(space.v[z(c)]) < kExploded;
        }
    }
    if (outcome.sound) {
        note(outcome);
        take_drift_back();
    }
    return outcome;
}

// What does not change with the rounds: demands and equations.
void IslandSolver::prepare(Index own) {
    const Mechanism& mechanism = (*mechanisms_)[own];
    StepSpace& s = *space_;
    find_lateness(own);
    for (const Index c : mechanism.freedoms) {
        s.gear_loss[z(c)] = 0.0;
    }
    for (const Index k : mechanism.motors) {
        const Motor& motor = world_->motors[z(k)];
        if (motor.efficiency < 1.0) {
            // What a gear passes on rubs in it, by what it passed on last: of what the motor gives
            // a share is lost, and of what comes back through it as much more.
            const double passed = state_->effort[z(k)];
            const bool driving = passed * state_->v[z(motor.freedom)] >= 0.0;
            s.gear_loss[z(motor.freedom)] +=
                std::fabs(passed) *
                (driving ? 1.0 - motor.efficiency : 1.0 / motor.efficiency - 1.0);
        }
    }
    std::vector<Equation>& equations = s.equations[z(own)];
    equations.clear();
    add_holding(*world_, mechanism, state_->bonds, s.bodies, s.positions.data(), equations);
    for (Equation& row : equations) {
        if (row.kind == Ties::closure || row.kind == Ties::bond) {
            // Holding where things go next, and not only as they stand: by then a row has turned.
            row.wanted = -0.5 * h_ * rate_along(row.force, s.bodies);
        }
        if (row.kind == Ties::closure) {
            give_way(row);
        }
    }
    std::vector<Pull>& pulls = s.pulls[z(own)];
    pulls.clear();
    add_pulls(*world_, mechanism, s.bodies, s.positions.data(), state_->rotor, pulls);
    for (const Index k : mechanism.springs) {
        const tree::Spring& spring = world_->tree.springs[z(k)];
        const double stiff = h_ * spring.stiffness, eased = s.spring_easing[z(k)] * spring.damping;
        // A trace later than at once, where there is nothing else to divide by.
        const double gain = eased + std::max(s.spring_late[z(k)], kTrace) * stiff;
        if (gain > 0.0) {
            Equation row = spring_row(spring, k, s.bodies);
            const double speed = speed_along(row.force, s.start.data(), state_->v.data());
            row.wanted = (-spring.stiffness * row.gap - (spring.damping - eased) * speed) / gain;
            row.soft = 1.0 / (h_ * gain);
            equations.push_back(row);
        }
    }
    for (const Index k : mechanism.motors) {
        const Motor& motor = world_->motors[z(k)];
        const Target target =
            target_of(state_->commands, z(k), motor, s.target.data(), s.target_speed.data());
        if (motor.mode == Mode::motion) {
            Equation row{Ties::motion, k, effort_at(motor.freedom, 1.0)};
            const double ahead = state_->commands.held[z(k)]
                                     ? target.position + h_ * target.velocity
                                     : s.ahead[z(motor.freedom)];
            row.wanted = (ahead - s.positions[z(motor.freedom)]) / h_;
            equations.push_back(row);
        } else {
            const double told = state_->commands.effort[z(k)] +
                                (motor.weightless ? s.weight[z(motor.freedom)] : 0.0);
            const std::size_t c = z(motor.freedom);
            if (motor.samples()) {
                s.demands[z(k)] = look(k, target, told);
            } else if (motor.geared() && motor.by_rotor) {
                const double squared = motor.p * h_ * h_ / motor.rotor;
                const double late =
                    std::min(1.0, std::max(0.0, (squared - kResolved) / (kStiff - kResolved)));
                s.demands[z(k)] =
                    demand_of(motor, target, told, state_->rotor[z(k)], state_->integral[z(k)],
                              {late * h_, 1.0, state_->rotor_speed[z(k)]});
            } else if (motor.geared()) {
                // It acts on one end of its gear, and goes by the other.
                const Demand wanted =
                    demand_of(motor, target, told, s.positions[c], state_->integral[z(k)], {});
                s.demands[z(k)] = {wanted.base - wanted.fall * state_->v[c], 0.0};
            } else {
                s.demands[z(k)] =
                    demand_of(motor, target, told, s.positions[c], state_->integral[z(k)],
                              {s.late[c] * h_, s.easing[c], state_->v[c]});
            }
        }
    }
}

// A closure's row that gives, as a spring, or that has play, which is a row of its own.
void IslandSolver::give_way(Equation& row) {
    const Give& give = world_->gives[z(row.item)];
    const tree::Closure& closure = world_->tree.closures[z(row.item)];
    if (give.play > 0.0 && !row.force.turns) {
        const Vec3 way = row.force.wrench[1].force;
        const Mat3 turn = (space_->bodies[closure.first].pose * closure.on_first).turn;
        for (int axis = 0; axis < 3; ++axis) {
            if (across_play(closure, axis) && std::fabs(dot(way, column(turn, axis))) > 0.5) {
                row.kind = Ties::give;
                row.gap = row.wanted = 0.0;
                row.soft = kImmovable;
                return;
            }
        }
    }
    const double stiffness = row.force.turns ? give.turning_stiffness : give.stiffness;
    if (stiffness < kNever) {
        const double damping = row.force.turns ? give.turning_damping : give.damping;
        const double gain = damping + h_ * stiffness;
        row.kind = Ties::give;
        row.wanted = -stiffness * row.gap / gain;
        row.soft = 1.0 / (h_ * gain);
    }
}

// What a drive makes of what it saw and was told some time ago, if it looks now.
Demand IslandSolver::look(Index k, Target target, double told) {
    const Motor& motor = world_->motors[z(k)];
    const auto motors = static_cast<Index>(world_->motors.size());
    const Index places = world_->looks(), now = state_->steps % places;
    const auto at = [&](Index what, Index place) -> double& {
        return state_->seen[z((what * motors + k) * places + place)];
    };
    const std::size_t c = z(motor.freedom);
    const double finest = motor.resolution;
    const bool own = motor.geared() && motor.by_rotor;
    const double position =
        own ? state_->rotor[z(k)] : state_->q[z(world_->tree.freedom(motor.freedom).position)];
    at(0, now) = target.position;
    at(1, now) = target.velocity;
    at(2, now) = finest > 0.0 ? finest * std::round(position / finest) : position;
    at(3, now) = own ? state_->rotor_speed[z(k)] : state_->v[c];
    if (finest > 0.0) {
        // A speed is the difference of what is seen.
        const Index last = (now + places - motor.period) % places;
        const double span = h_ * static_cast<double>(motor.period);
        at(3, now) = std::isfinite(at(2, last)) ? (at(2, now) - at(2, last)) / span : at(3, now);
    }
    if (state_->steps % motor.period == 0 || !std::isfinite(state_->acting[z(k)])) {
        Index then = (now + places - motor.delay) % places;
        then = std::isfinite(at(0, then)) ? then : now;
        const Demand wanted = demand_of(motor, {at(0, then), at(1, then)}, told, at(2, then),
                                        state_->integral[z(k)], {});
        state_->acting[z(k)] = wanted.base - wanted.fall * at(3, then);
    }
    return {state_->acting[z(k)], 0.0};
}

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
    const auto find = [&](const RowForce& force, double& late, double& easing, double& noted) {
        if (!ready) {
            factorise_bodies(tree, mechanism.bodies, s.bodies, s.made);
            ready = true;
        }
        const double answer = answer_to(own, force);
        const double squared = springs * late * h_ * h_ * answer;
        // What is damped that well does not ring, and nobody minds a little more.
        const bool rings = easing * easing * answer < 4.0 * kRinging * kRinging * late;
        if (rings) {
            noted = std::max(noted, squared);
        }
        late = std::min(1.0, std::max(0.0, (squared - kResolved) / (kStiff - kResolved)));
        easing = 0.5 + 0.5 * std::min(1.0, std::max(0.0, h_ * easing * answer - 1.0));
    };
    for (const Index c : mechanism.freedoms) {
        if (s.late[z(c)] > 0.0 || s.easing[z(c)] > 0.0) {
            find(effort_at(c, 1.0), s.late[z(c)], s.easing[z(c)], watch.resonance[z(c)]);
        }
    }
    for (const Index k : mechanism.springs) {
        const tree::Spring& spring = tree.springs[z(k)];
        s.spring_late[z(k)] = spring.stiffness;
        s.spring_easing[z(k)] = spring.damping;
        find(spring_row(spring, k, s.bodies).force, s.spring_late[z(k)], s.spring_easing[z(k)],
             watch.resonance[tree.freedoms.size() + z(k)]);
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
    for (const Law& law : world_->laws) {
        if (law.kind == Pushes::drag && mechanisms_->of(law.body) == own) {
            ArticulatedInertia<double>& inertia = s.made.inertia[z(law.body)];
            inertia = inertia + resistance_of(law, s.bodies, s.start[z(law.body)], h_);
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
        if (motor.mode == Mode::motion || motor.geared() || state_->watch.tripped[z(k)] < kNever) {
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

// What a motor does, at the limit it is thought to be at.
Demand IslandSolver::given_by(Index k) {
    const Index limit = state_->saturated[z(k)];
    Demand& given = space_->given[z(k)];
    given = space_->demands[z(k)];
    if (limit != 0) {
        given = Envelope(world_->motors[z(k)], given, kSpeedBand).given(limit);
    }
    return given;
}

// Rotors behind gears with play or give: what their motors make of them by themselves.
void IslandSolver::load_rotors(Index own) {
    StepSpace& s = *space_;
    for (const Index k : (*mechanisms_)[own].rotors) {
        const Motor& motor = world_->motors[z(k)];
        const bool on = state_->watch.tripped[z(k)] == kNever;
        const Demand given = on ? given_by(k) : Demand{0.0, 0.0};
        const double speed = state_->rotor_speed[z(k)];
        s.rotor_mass[z(k)] = motor.rotor + h_ * given.fall;
        s.rotor_free[z(k)] = speed + h_ * (given.base - given.fall * speed) / s.rotor_mass[z(k)];
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
    for (const Law& law : world_->laws) {
        if (mechanisms_->of(law.body) == own) {
            s.made.force[z(law.body)] =
                s.made.force[z(law.body)] + force_of(law, s.bodies, s.start[z(law.body)],
                                                     state_->v.data(), world_->settings.gravity);
        }
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

void IslandSolver::build_equations(Index own, std::size_t place) {
    const std::vector<Equation>& equations = space_->equations[z(own)];
    if (!equations.empty()) {
        systems_[place].build(world_->tree, *mechanisms_, own, equations, space_->bodies,
                              space_->made, kRepeated);
    }
}

std::size_t IslandSolver::place_of(Index mechanism) const {
    return z(std::lower_bound(island_->mechanisms.begin(), island_->mechanisms.end(), mechanism) -
             island_->mechanisms.begin());
}

Row& IslandSolver::add_row(const RowForce& force, const Index* mechanisms, int sides) {
    StepSpace& s = *space_;
    Row row;
    row.sides = sides;
    for (int k = 0; k < sides; ++k) {
        const Index own = mechanisms[k], size = (*mechanisms_)[own].size();
        double* const half = arena_.take(size);
        half_response(world_->tree, *mechanisms_, own, force, s.bodies, s.made, half);
        double* answer = half;
        if (!s.equations[z(own)].empty()) {
            answer = arena_.take(size);
            systems_[place_of(own)].project(half, answer, scratch_);
        }
        row.side[k] = {half, answer, s.sums.data() + s.offset[z(own)], size};
    }
    row.find_diagonal(kRepeated);
    rows_.push_back(row);
    forces_.push_back(force);
    return rows_.back();
}

// Rows that belong to one freedom: dry friction, and stops that may be reached in the step.
void IslandSolver::build_bounded(Index own) {
    const StepSpace& s = *space_;
    for (const Index c : (*mechanisms_)[own].freedoms) {
        const tree::Freedom& f = world_->tree.freedom(c);
        const double free = s.free[z(c)], position = s.positions[z(c)];
        const double friction = f.friction + s.gear_loss[z(c)];
        if (friction > 0.0) {
            Row& row = add_row(effort_at(c, 1.0), &own, 1);
            row.upper = h_ * friction;
            row.lower = -row.upper;
            row.b = free;
            row.x = std::min(row.upper, std::max(row.lower, state_->friction[z(c)]));
            bounded_.push_back({c, 0, 0.0, own});
        }
        // A little farther than it would go by itself: impulses elsewhere add up.
        const double reach = h_ * (2.0 * std::fabs(free) + 1.0);
        for (const int side : {-1, 1}) {
            const double left = side < 0 ? position - f.lower : f.upper - position;
            if (left < reach) {
                Row& row = add_row(effort_at(c, side < 0 ? 1.0 : -1.0), &own, 1);
                row.upper = kNever;
                // As slow towards the stop as to reach it in this step.
                row.b = (side < 0 ? free : -free) - std::min(0.0, -left) / h_;
                row.x = state_->stops[2 * z(c) + (side < 0 ? 0 : 1)];
                bounded_.push_back({c, side, left, own});
            }
        }
    }
}

double IslandSolver::speed_of(const Pull& pull, const Twist<double>* twists, const double* v,
                              const double* rotors) const {
    double speed = pull.rotor >= 0 ? pull.effort * rotors[pull.rotor] : 0.0;
    for (const RowForce& part : pull.parts) {
        speed += speed_along(part, twists, v);
    }
    return speed;
}

// Rows of what only pulls.
void IslandSolver::build_pulls(Index own) {
    StepSpace& s = *space_;
    const Mechanism& mechanism = (*mechanisms_)[own];
    const std::vector<Pull>& pulls = s.pulls[z(own)];
    const Index size = mechanism.size();
    for (std::size_t p = 0; p < pulls.size(); ++p) {
        const Pull& pull = pulls[p];
        // Speeds along it lessen what it is over by.
        const double free = speed_of(pull, s.without.data(), s.free.data(), s.rotor_free.data());
        if (!pull.both_ways && pull.over < -h_ * (2.0 * std::fabs(free) + 1.0)) {
            continue;
        }
        Row row;
        row.sides = 1;
        double* const half = arena_.take(size);
        std::fill(half, half + size, 0.0);
        double* const part_half = arena_.take(size);
        for (const RowForce& part : pull.parts) {
            half_response(world_->tree, *mechanisms_, own, part, s.bodies, s.made, part_half);
            add_times(half, 1.0, part_half, size);
        }
        for (std::size_t j = 0; j < mechanism.rotors.size(); ++j) {
            if (mechanism.rotors[j] == pull.rotor) {
                half[mechanism.freedoms.size() + j] =
                    pull.effort / std::sqrt(s.rotor_mass[z(pull.rotor)]);
            }
        }
        double* answer = half;
        if (!s.equations[z(own)].empty()) {
            answer = arena_.take(size);
            systems_[place_of(own)].project(half, answer, scratch_);
        }
        row.side[0] = {half, answer, s.sums.data() + s.offset[z(own)], size};
        row.find_diagonal(kRepeated);
        row.upper = kNever;
        row.lower = pull.both_ways ? -kNever : 0.0;
        row.b = free - pull.over / h_;
        if (pull.stiffness < kNever) {
            const double squared = pull.stiffness * h_ * h_ * row.diagonal;
            const double late =
                std::min(1.0, std::max(kTrace, (squared - kResolved) / (kStiff - kResolved)));
            const double gain = pull.damping + late * h_ * pull.stiffness;
            row.soft += 1.0 / (h_ * gain);
            row.diagonal += 1.0 / (h_ * gain);
            if (pull.over > 0.0 || pull.both_ways) {
                row.b = free - pull.stiffness * pull.over / gain;
            }
        }
        row.x = std::max(row.lower, state_->pulls[s.first_pull[z(own)] + p]);
        rows_.push_back(row);
        forces_.emplace_back();
        bounded_.push_back({-1, 2, pull.over, own, p});
    }
}

void IslandSolver::build_contacts() {
    const StepSpace& s = *space_;
    const bool first_round = kept_.empty();
    std::size_t k = 0;
    for (const Index n : island_->contacts) {
        const contact::Contact& c = state_->contact.contacts[z(n)];
        Index mechanisms[2];
        int sides = 0;
        bool loose = false;
        for (const Index body : c.body) {
            const Index own = mechanisms_->of(body);
            if (own >= 0 && (sides == 0 || mechanisms[0] != own)) {
                mechanisms[sides++] = own;
                loose = loose || (*mechanisms_)[own].loose;
            }
        }
        const Across plane = across(c.normal);
        const Vec3 ways[3] = {c.normal, plane.u, plane.v};
        ContactRows rows{rows_.size(),       3,         c.surface.friction, c.surface.rolling,
                         c.surface.spinning, {0.0, 0.0}};
        const Index from = mechanisms_->of(c.body[0]) < 0 ? -1 : c.body[0];
        const Index to = mechanisms_->of(c.body[1]) < 0 ? -1 : c.body[1];
        const Vec3 belt = belt_of(c);
        int way_of = 0;
        const auto add = [&](const RowForce& force, double x) {
            Row& row = add_row(force, mechanisms, sides);
            row.b = speed_along(force, s.without.data(), s.free.data());
            if (way_of < 3) {
                row.b -= dot(ways[way_of++], belt);
            }
            row.x = first_round ? x : kept_[k];
            ++k;
        };
        for (int way = 0; way < 3; ++way) {
            const double before = dot(ways[way], c.impulse);
            // What lies still need not go on pulling at itself.
            add(force_between(s.bodies, from, to, c.point, ways[way]), way == 0
                                                                           ? std::max(0.0, before)
                                                                       : loose ? kRelax * before
                                                                               : before);
        }
        if (c.surface.spinning > 0.0) {
            add(moment_between(from, to, c.normal), dot(c.moment, c.normal));
        }
        if (c.surface.rolling > 0.0) {
            add(moment_between(from, to, plane.u), dot(c.moment, plane.u));
            add(moment_between(from, to, plane.v), dot(c.moment, plane.v));
        }
        rows.count = static_cast<int>(rows_.size() - rows.first);
        Row* const own = rows_.data() + rows.first;
        const double most = std::max({own[0].diagonal, own[1].diagonal, own[2].diagonal});
        for (int j = 1; j < rows.count; ++j) {
            // Where neither side can go that way there is nothing to hold.
            const double floor = j < 3 ? kRepeated * most : 0.0;
            own[j].soft += floor;
            own[j].diagonal += floor;
        }
        if (own[0].diagonal <= kRepeated * most) {
            // What cannot part or come nearer is not pressed on.
            own[0].diagonal = kImmovable;
            own[0].x = 0.0;
        }
        rows.between[0] = own[1].times(own[2]);
        if (c.surface.rolling > 0.0) {
            rows.between[1] = own[rows.count - 2].times(own[rows.count - 1]);
        }
        // How fast it must part at least: less than zero where there is a gap left to close.
        const double coming = speed_along(forces_[rows.first], s.start.data(), state_->v.data());
        if (c.surface.stiffness < kNever) {
            give_contact(c, own[0]);
            contacts_.push_back(rows);
            continue;
        }
        if (coming > -kBouncing) {
            // A traceof give where it rests, so that forces that could be shared out in many ways
            // are shared evenly, whatever the order of the rows.
            own[0].soft += kGive * own[0].diagonal;
            own[0].diagonal += kGive * own[0].diagonal;
        }
        own[0].b += std::max(0.0, c.gap) / h_;
        if (coming > -kBouncing && c.gap < 0.0) {
            own[0].b += kSettle * std::max(c.gap, -kSlop) / h_;
        }
        contacts_.push_back(rows);
    }
}

// How fast the surface of the second runs against that of the first, in the world.
Vec3 IslandSolver::belt_of(const contact::Contact& c) const {
    Vec3 belt;
    for (int side = 0; side < 2; ++side) {
        if (c.body[side] >= 0) {
            const Vec3 own = vec(state_->commands.belt.data() + 3 * c.body[side]);
            belt += (side == 0 ? 1.0 : -1.0) * (space_->bodies[c.body[side]].pose.turn * own);
        }
    }
    return belt;
}

// A surface that gives: a spring and a damper for each spot, its share of the pair's.
void IslandSolver::give_contact(const contact::Contact& c, Row& row) {
    const double stiffness = c.surface.stiffness * c.share, damping = c.surface.damping * c.share;
    const double squared = c.surface.stiffness * h_ * h_ * row.diagonal;
    const double late =
        std::min(1.0, std::max(kTrace, (squared - kResolved) / (kStiff - kResolved)));
    const double gain = damping + late * h_ * stiffness;
    row.soft += 1.0 / (h_ * gain);
    row.diagonal += 1.0 / (h_ * gain);
    row.b += c.gap > 0.0 ? c.gap / h_ : stiffness * c.gap / gain;
}

// The sums before anything but equations acts: eq_ holds what must come to zero along these.
void IslandSolver::begin_sums() {
    StepSpace& s = *space_;
    std::size_t at = 0;
    for (std::size_t k = 0; k < island_->mechanisms.size(); ++k) {
        const Index own = island_->mechanisms[k];
        double* const sums = s.sums.data() + s.offset[z(own)];
        std::fill(sums, sums + (*mechanisms_)[own].size(), 0.0);
        if (const std::size_t count = s.equations[z(own)].size(); count > 0) {
            systems_[k].solve(eq_.data() + at);
            systems_[k].take(eq_.data() + at, sums);
            at += count;
        }
    }
}

// Finds the impulses of all rows, and the velocities that follow.
Swept IslandSolver::solve() {
    StepSpace& s = *space_;
    eq_.clear();
    for (const Index own : island_->mechanisms) {
        for (const Equation& row : s.equations[z(own)]) {
            eq_.push_back(speed_along(row.force, s.without.data(), s.free.data()) - row.wanted);
        }
    }
    begin_sums();
    for (Row& row : rows_) {
        const double x = row.x;
        row.x = 0.0;
        if (x != 0.0) {
            row.add(x);
        }
    }
    Swept swept{0, 0.0};
    if (!rows_.empty()) {
        const Index most =
            std::min(world_->settings.most_sweeps,
                     std::max(kFewestSweeps, kRowsToSweep / static_cast<Index>(rows_.size())));
        swept = sweep(rows_, bounded_.size(), contacts_, true, {most, world_->settings.accuracy});
    }
    kept_.clear();
    for (std::size_t r = bounded_.size(); r < rows_.size(); ++r) {
        kept_.push_back(rows_[r].x);
    }
    std::size_t at = 0;
    for (std::size_t k = 0; k < island_->mechanisms.size(); ++k) {
        const Index own = island_->mechanisms[k];
        const Mechanism& mechanism = (*mechanisms_)[own];
        const double* const sums = s.sums.data() + s.offset[z(own)];
        std::vector<Equation>& equations = s.equations[z(own)];
        if (!equations.empty()) {
            // Equations answer to the rows, besides what they do by themselves.
            change_.assign(z(mechanism.size()), 0.0);
            for (const Row& row : rows_) {
                for (int side = 0; side < row.sides; ++side) {
                    if (row.side[side].sum == sums) {
                        add_times(change_.data(), row.x, row.side[side].half, mechanism.size());
                    }
                }
            }
            scratch_.resize(equations.size());
            systems_[k].along(change_.data(), scratch_.data());
            for (std::size_t e = 0; e < equations.size(); ++e) {
                equations[e].impulse = -(eq_[at + e] + scratch_[e]);
            }
            at += equations.size();
        }
        for (std::size_t j = 0; j < mechanism.freedoms.size(); ++j) {
            s.half[z(mechanism.freedoms[j])] = sums[j];
        }
        to_velocities(own, s.v.data());
        for (const Index c : mechanism.freedoms) {
            s.v[z(c)] += s.free[z(c)];
        }
        for (std::size_t j = 0; j < mechanism.rotors.size(); ++j) {
            const std::size_t m = z(mechanism.rotors[j]);
            s.rotor_end[m] =
                s.rotor_free[m] + sums[mechanism.freedoms.size() + j] / std::sqrt(s.rotor_mass[m]);
        }
    }
    return swept;
}

// Find out which motors are at their limits at the speeds reached; whether any that was thought to
// be is not, or the other way round.
bool IslandSolver::resaturate(Index own) {
    bool changed = false;
    for (const Index k : (*mechanisms_)[own].motors) {
        const Motor& motor = world_->motors[z(k)];
        if (motor.mode == Mode::motion) {
            continue;
        }
        const Demand& demand = space_->demands[z(k)];
        const Index now =
            limit_of(motor, demand, Envelope(motor, demand, kSpeedBand),
                     motor.geared() ? space_->rotor_end[z(k)] : space_->v[z(motor.freedom)],
                     state_->saturated[z(k)]);
        changed = changed || now != state_->saturated[z(k)];
        state_->saturated[z(k)] = now;
    }
    return changed;
}

}  // namespace mooring::simulation
