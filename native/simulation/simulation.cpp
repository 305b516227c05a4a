#include "simulation/simulation.h"

#include <algorithm>
#include <cmath>

#include "simulation/recording.h"
#include "simulation/redundancy.h"

namespace mooring::simulation {

namespace {

constexpr double kDeep = 1e-3;     // overlaps deeper than this are noted [m]
constexpr double kSliding = 1e-3;  // slower is no slipping [m/s]
constexpr double kTaking = 5e-3;   // a bond as young as this does not let go [s]

std::size_t z(Index k) { return static_cast<std::size_t>(k); }

State first_state(const World& world, std::vector<double> q, std::vector<double> v,
                  const contact::Collector& collector) {
    const std::size_t m = v.size(), motors = world.motors.size(), n = world.tree.bodies.size();
    State state;
    state.q = std::move(q);
    state.v = std::move(v);
    state.a.assign(m, 0.0);
    state.saturated.assign(motors, 0);
    state.integral.assign(motors, 0.0);
    state.effort.assign(motors, 0.0);
    const auto nothing = std::numeric_limits<double>::quiet_NaN();
    state.seen.assign(z(kSeen * world.looks()) * motors, nothing);
    state.acting.assign(motors, nothing);
    for (const Motor& motor : world.motors) {
        // Gears begin with their play on both sides.
        const Index at = world.tree.freedom(motor.freedom).position;
        state.rotor.push_back(state.q[z(at)]);
        state.rotor_speed.push_back(state.v[z(motor.freedom)]);
    }
    state.pulls.assign(world.cables.size() + 2 * motors + world.tree.closures.size(), 0.0);
    state.friction.assign(m, 0.0);
    state.stops.assign(2 * m, 0.0);
    state.still.assign(n, 0.0);
    state.awake.assign(n, 1);
    state.commands = {std::vector<char>(motors, 0),     std::vector<double>(motors, 0.0),
                      std::vector<double>(motors, 0.0), std::vector<double>(motors, 0.0),
                      std::vector<double>(6 * n, 0.0),  std::vector<double>(3 * n, 0.0),
                      std::vector<char>(motors, 0)};
    state.contact = collector.begin();
    Watch& watch = state.watch;
    watch.tripped.assign(motors, kNever);
    watch.saturated.assign(3 * motors, 0.0);
    for (std::size_t k = 0; k < motors; ++k) {
        watch.saturated[3 * k] = kNever;
    }
    watch.stop.assign(3 * m, kNever);
    for (std::size_t c = 0; c < m; ++c) {
        watch.stop[3 * c + 2] = 0.0;
    }
    watch.slip.assign(z(world.scenery.shape_count()), 0.0);
    watch.resonance.assign(2 * (m + world.tree.springs.size()), 0.0);
    return state;
}

}  // namespace

Simulation::Simulation(World world, bool accurate, std::vector<double> q, std::vector<double> v)
    : world_(std::move(world)), start_(q), collector_(world_.scenery) {
    state_ = first_state(world_, std::move(q), std::move(v), collector_);
    is_accurate_ = accurate;
    for (const Motor& motor : world_.motors) {
        // Behind a gear that gives, a rotor moves by itself.
        if (motor.geared()) {
            tree::Freedom& f = world_.tree.freedoms[z(motor.freedom)];
            f.rotor = std::max(0.0, f.rotor - motor.rotor);
        }
    }
    renew_mechanisms();
    moving_.resize(world_.tree.bodies.size());
    feeds_forward_ = std::any_of(world_.motors.begin(), world_.motors.end(),
                                 [](const Motor& motor) { return motor.weightless; });
}

bool Simulation::fits(const State& s) const {
    const std::size_t m = world_.tree.freedoms.size(), motors = world_.motors.size(),
                      n = world_.tree.bodies.size();
    const auto shapes = z(world_.scenery.shape_count());
    const auto are = [](std::size_t count, auto&... rows) {
        return ((rows.size() == count) && ...);
    };
    const Index last = world_.tree.body_count();
    const auto in = [last](Index body) { return body >= -1 && body < last; };
    return s.q.size() == z(world_.tree.coordinates) && are(m, s.v, s.a, s.friction) &&
           are(2 * m, s.stops) && are(3 * m, s.watch.stop) &&
           are(2 * (m + world_.tree.springs.size()), s.watch.resonance) &&
           are(z(kSeen * world_.looks()) * motors, s.seen) &&
           are(world_.cables.size() + 2 * motors + world_.tree.closures.size(), s.pulls) &&
           are(3 * n, s.commands.belt) &&
           are(motors, s.saturated, s.integral, s.effort, s.acting, s.rotor, s.rotor_speed,
               s.commands.held, s.commands.relaxed, s.commands.position, s.commands.velocity,
               s.commands.effort, s.watch.tripped) &&
           are(3 * motors, s.watch.saturated) && are(n, s.still, s.awake) &&
           are(6 * n, s.commands.push) && are(shapes, s.contact.path, s.watch.slip) &&
           std::all_of(s.bonds.begin(), s.bonds.end(),
                       [&](const Bond& b) {
                           return b.first >= 0 && b.second >= 0 && in(b.first) && in(b.second);
                       }) &&
           std::all_of(s.contact.contacts.begin(), s.contact.contacts.end(),
                       [&](const contact::Contact& c) {
                           return in(c.body[0]) && in(c.body[1]) && c.second >= 0 &&
                                  z(c.second) < shapes && c.first < static_cast<Index>(shapes);
                       }) &&
           std::all_of(s.contact.pairs.begin(), s.contact.pairs.end(), [&](const contact::Pair& p) {
               return p.first >= 0 && z(p.first) < shapes && p.second >= 0 && z(p.second) < shapes;
           });
}

void Simulation::renew_mechanisms() {
    mechanisms_ = std::make_unique<Mechanisms>(world_, state_.bonds);
    leave_repeating(world_, state_.bonds, start_, *mechanisms_);
    space_ = std::make_unique<StepSpace>(world_, *mechanisms_);
    if (is_accurate_) {
        accurate_ = std::make_unique<AccurateStepper>(world_, *mechanisms_, *space_);
    }
}

std::pair<Index, Index> Simulation::repeating() const {
    std::pair<Index, Index> count{0, 0};
    for (const Mechanism& own : mechanisms_->all) {
        count.first += own.repeats;
        count.second += own.nearly;
    }
    return count;
}

void Simulation::restore(const State& state) {
    state_ = state;
    fresh_ = true;
    collector_.forget();
    renew_mechanisms();
}

void Simulation::set_bonds(std::vector<Bond> bonds) {
    state_.bonds = std::move(bonds);
    fresh_ = true;
    std::fill(state_.awake.begin(), state_.awake.end(), char{1});
    renew_mechanisms();
}

std::pair<End, Index> Simulation::run(Index count) {
    for (Index k = 0; k < count; ++k) {
        const bool sound = accurate_ ? accurate_->step(state_, records_) : step();
        if (!sound) {
            return {End::exploded, k};
        }
        ++state_.steps;
    }
    return {End::done, count};
}

// Where everything is that is awake, how it moves and what it weighs.
void Simulation::place() {
    StepSpace& s = *space_;
    const Tree& tree = world_.tree;
    for (Index i = 0; i < tree.body_count(); ++i) {
        const bool still = tree.tip(i) < 0 || !state_.awake[z(i)];
        if (still && !fresh_) {
            continue;
        }
        dynamics::place_body(tree, i, state_.q.data(), s.bodies);
        dynamics::move_body(tree, i, state_.v.data(), static_cast<const double*>(nullptr),
                            world_.settings.gravity, s.bodies);
        dynamics::weigh_body(tree.body(i), s.bodies[i]);
        const dynamics::BodyState<double>& body = s.bodies[i];
        s.start[z(i)] = body.velocity;
        moving_[z(i)] = {body.pose, body.velocity.angular,
                         at(body.velocity, body.pose.place - body.about)};
    }
    for (Index i = 0; i < tree.body_count(); ++i) {
        if (tree.tip(i) >= 0 && (state_.awake[z(i)] || fresh_)) {
            guess_middle(i);
        }
    }
    fresh_ = false;
}

// Velocities about the middle of the step, if things go on to speed up as they did.
void Simulation::guess_middle(Index i) {
    StepSpace& s = *space_;
    const Tree& tree = world_.tree;
    const Body& b = tree.body(i);
    for (Index c = b.freedom; c < b.freedom + b.freedoms(); ++c) {
        s.middle[z(c)] = state_.v[z(c)] + 0.5 * world_.settings.step * state_.a[z(c)];
    }
    if (b.kind == Kind::floating) {
        const double* v = state_.v.data() + b.freedom;
        const Vec3 turning = 0.5 * world_.settings.step * cross(vec(v), vec(v + 3));
        s.middle[z(b.freedom) + 3] += turning.x;
        s.middle[z(b.freedom) + 4] += turning.y;
        s.middle[z(b.freedom) + 5] += turning.z;
    }
    dynamics::move_body(tree, i, s.middle.data(), static_cast<const double*>(nullptr),
                        world_.settings.gravity, s.bodies);
}

bool Simulation::step() {
    StepSpace& s = *space_;
    const double h = world_.settings.step;
    const double time = static_cast<double>(state_.steps) * h;
    wake();
    s.q = state_.q;
    s.v_before = state_.v;
    const bool recorded = world_.settings.every > 0 && state_.steps % world_.settings.every == 0;
    if (recorded) {
        tree::joint_positions(world_.tree, state_.q.data(), s.positions.data());
        world_.timeline.at(time, s.target.data(), s.target_speed.data());
        simulation::record(world_, *mechanisms_, state_, s, records_);
    }
    for (Index k = 0; k < static_cast<Index>(mechanisms_->all.size()); ++k) {
        if (is_awake(k)) {
            begin_step(world_, (*mechanisms_)[k], state_);
        }
    }
    place();
    if (world_.scenery.touches || world_.scenery.ground.kind != contact::GroundKind::none) {
        collector_.collect(moving_, state_.awake, h, state_.contact);
    }
    tree::joint_positions(world_.tree, state_.q.data(), s.positions.data());
    if (world_.prescribes()) {
        world_.timeline.at(time + 1.5 * h, s.ahead.data(), s.target_speed.data());
    }
    world_.timeline.at(time + 0.5 * h, s.target.data(), s.target_speed.data());
    if (feeds_forward_) {
        for (Index i = 0; i < world_.tree.body_count(); ++i) {
            dynamics::BodyState<double>& body = s.bodies[i];
            body.force = body.inertia * Twist<double>{{}, -world_.settings.gravity};
        }
        dynamics::load_joints(world_.tree, s.bodies, s.weight.data());
    }
    gather_islands();
    const std::size_t contacts = state_.contact.contacts.size();
    s.slid.assign(contacts, 0.0);
    s.pressed.assign(contacts, 0.0);
    s.parting.assign(contacts, 0.0);
    solve_islands();
    for (Index c = 0; c < world_.tree.freedom_count(); ++c) {
        const Index own = mechanisms_->of(world_.tree.freedom(c).body);
        const double speed = is_awake(own) ? std::fabs(s.v[z(c)]) : 0.0;
        if (!(speed <= state_.watch.fastest[0])) {
            state_.watch.fastest[0] = std::isfinite(speed) ? speed : kNever;
            state_.watch.fastest[1] = time;
            state_.watch.fastest[2] = static_cast<double>(c);
        }
    }
    for (const Outcome& outcome : outcomes_) {
        if (!outcome.sound) {
            if (recorded) {
                drop_last(world_, records_);
            }
            state_.q = s.q;
            state_.v = s.v_before;
            return false;
        }
    }
    note(outcomes_);
    if (recorded) {
        records_.effort.insert(records_.effort.end(), state_.effort.begin(), state_.effort.end());
    }
    if (any_due(world_.sensors, state_.steps)) {
        sense();
    }
    for (std::size_t k = 0; k < island_count_; ++k) {
        for (const Index own : islands_[k].mechanisms) {
            end_step(world_, (*mechanisms_)[own], islands_[k].contacts.empty(), state_, s);
        }
    }
    let_go();
    if (world_.settings.sleeps) {
        rest();
    }
    return true;
}

// Bonds that were pulled harder than they hold.
void Simulation::let_go() {
    const auto limited = [](const Bond& bond) {
        return std::min({bond.pull, bond.shear, bond.turn}) < kNever;
    };
    if (std::none_of(state_.bonds.begin(), state_.bonds.end(), limited)) {
        return;
    }
    const double h = world_.settings.step;
    std::vector<Wrench<double>> held(state_.bonds.size());
    for (const auto& equations : space_->equations) {
        for (const Equation& row : equations) {
            if (row.kind == Ties::bond) {
                Wrench<double>& sum = held[z(row.item)];
                const Wrench<double>& unit = row.force.wrench[1];
                sum.force = sum.force + (row.impulse / h) * (row.force.turns ? Vec3{} : unit.force);
                sum.moment =
                    sum.moment + (row.impulse / h) * (row.force.turns ? unit.moment : Vec3{});
            }
        }
    }
    std::vector<Bond> left;
    for (std::size_t k = 0; k < held.size(); ++k) {
        Bond& bond = state_.bonds[k];
        bond.age += h;
        const Vec3 axis = space_->bodies[bond.first].pose.turn * bond.axis;
        const double pulled = -dot(held[k].force, axis);
        const Vec3 across_it = held[k].force + pulled * axis;
        // What is taken in motion is brought to rest at once, which is no pull.
        if (bond.age < kTaking || (pulled <= bond.pull && norm(across_it) <= bond.shear &&
                                   norm(held[k].moment) <= bond.turn)) {
            left.push_back(bond);
        }
    }
    if (left.size() < state_.bonds.size()) {
        set_bonds(std::move(left));
    }
}

void Simulation::note(const std::vector<Outcome>& outcomes) {
    StepSpace& s = *space_;
    const double h = world_.settings.step, time = static_cast<double>(state_.steps) * h;
    Index sweeps = 0;
    bool poor = false;
    for (const Outcome& outcome : outcomes) {
        state_.work.motors += outcome.work.motors;
        state_.work.damping += outcome.work.damping;
        state_.work.friction += outcome.work.friction;
        state_.work.contacts += outcome.work.contacts;
        state_.work.commands += outcome.work.commands;
        sweeps = std::max(sweeps, outcome.sweeps);
        poor = poor || outcome.poor;
    }
    Watch& watch = state_.watch;
    watch.sweeps[0] += static_cast<double>(sweeps);
    watch.sweeps[1] = std::max(watch.sweeps[1], static_cast<double>(sweeps));
    watch.sweeps[2] += poor ? 1.0 : 0.0;
    double gap = 0.0, which = 0.0;
    for (std::size_t k = 0; k < mechanisms_->all.size(); ++k) {
        for (const Equation& row : s.equations[k]) {
            if ((row.kind == Ties::coupling || row.kind == Ties::closure) &&
                std::fabs(row.gap) > gap) {
                gap = std::fabs(row.gap);
                which = static_cast<double>(row.item);
                which += row.kind == Ties::closure
                             ? static_cast<double>(world_.tree.couplings.size())
                             : 0.0;
            }
        }
    }
    if (gap > watch.gap[0]) {
        watch.gap[0] = gap;
        watch.gap[1] = time;
        watch.gap[2] = which;
    }
    const bool recorded = world_.settings.every > 0 && state_.steps % world_.settings.every == 0;
    if (recorded) {
        records_.gap.push_back(gap);
    }
    for (std::size_t n = 0; n < state_.contact.contacts.size(); ++n) {
        const contact::Contact& c = state_.contact.contacts[n];
        if (-c.gap > kDeep) {
            const auto place = std::partition_point(
                watch.overlaps.begin(), watch.overlaps.end(), [&](const Overlap& o) {
                    return o.first != c.first ? o.first < c.first : o.second < c.second;
                });
            const bool known = place != watch.overlaps.end() && place->first == c.first &&
                               place->second == c.second;
            Overlap& overlap =
                known ? *place
                      : *watch.overlaps.insert(place, {c.first, c.second, time, 0.0, 0.0, 0.0});
            overlap.depth = std::max(overlap.depth, -c.gap);
            overlap.duration += h;
            overlap.parting += s.parting[n];
        }
        if (s.pressed[n] > 0.0 && s.slid[n] > kSliding) {
            for (const Index shape : {c.first, c.second}) {
                if (shape >= 0) {
                    watch.slip[z(shape)] += h * s.slid[n];
                }
            }
        }
        if (const Vec3 all = c.impulse + c.struck; recorded && dot(all, c.normal) > 0.0) {
            const Vec3 force = all / h;
            records_.touching.insert(records_.touching.end(),
                                     {records_.rows - 1, c.body[0], c.body[1]});
            records_.force.insert(records_.force.end(), {c.point.x, c.point.y, c.point.z, force.x,
                                                         force.y, force.z, c.gap});
        }
    }
}

void Simulation::sense() {
    StepSpace& s = *space_;
    const double h = world_.settings.step;
    acting_.clear();
    const auto act = [&](const RowForce& row, double impulse) {
        for (int side = 0; side < 2; ++side) {
            if (row.body[side] >= 0) {
                acting_.push_back({row.body[side], (impulse / h) * row.wrench[side]});
            }
        }
    };
    for (const auto& equations : s.equations) {
        for (const Equation& row : equations) {
            act(row.force, row.impulse);
        }
    }
    for (std::size_t own = 0; own < s.pulls.size(); ++own) {
        for (std::size_t k = 0; k < s.pulls[own].size(); ++k) {
            for (const RowForce& part : s.pulls[own][k].parts) {
                act(part, state_.pulls[s.first_pull[own] + k]);
            }
        }
    }
    for (std::size_t k = 0; k < world_.laws.size(); ++k) {
        if (world_.tree.tip(world_.laws[k].body) >= 0) {
            acting_.push_back({world_.laws[k].body, s.pushed[k]});
        }
    }
    for (const contact::Contact& c : state_.contact.contacts) {
        act(force_between(s.bodies, c.body[0], c.body[1], c.point, c.impulse + c.struck), 1.0);
        act(moment_between(c.body[0], c.body[1], c.moment), 1.0);
    }
    measure(world_, state_, state_.v.data(), acting_, s, records_);
}

}  // namespace mooring::simulation
