#include "simulation/island.h"

#include <algorithm>
#include <cmath>

namespace mooring::simulation {

namespace {

constexpr int kMostRounds = 12;
constexpr double kPoor = 1e-3;     // impulses that still change velocities by this much were not
                                   // found [m/s or rad/s]
constexpr double kExploded = 1e8;  // nothing that a robot does is faster [m/s or rad/s]
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
    // What nothing moves is where it is, whatever the positions.
    const std::vector<double> none(z(world.tree.coordinates) + 1, 0.0);
    for (Index i = 0; i < world.tree.body_count(); ++i) {
        if (world.tree.tip(i) < 0) {
            dynamics::place_body(world.tree, i, none.data(), before);
        }
    }
    demands.resize(world.motors.size());
    pushed.resize(world.laws.size());
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
            if (!is_on(*state_, k)) {
                state_->effort[z(k)] = 0.0;
                continue;
            }
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
                const double late = lateness(squared);
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

}  // namespace mooring::simulation
