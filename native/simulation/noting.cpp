// What an island's step tells of itself: work, limits, stops and contacts.
#include <algorithm>
#include <cmath>

#include "simulation/island.h"
#include "simulation/laws/law_type.h"

namespace mooring::simulation {

namespace {

std::size_t z(Index k) { return static_cast<std::size_t>(k); }

}  // namespace

// What happened.
void IslandSolver::note(Outcome& outcome) {
    StepSpace& s = *space_;
    Watch& watch = state_->watch;
    const double time = static_cast<double>(state_->steps) * h_;
    const std::vector<double>& before = state_->v;
    for (const Index own : island_->mechanisms) {
        const Mechanism& mechanism = (*mechanisms_)[own];
        twists_of(world_->tree, mechanism.bodies, s.bodies, s.v.data(), s.end.data());
        for (const Index c : mechanism.freedoms) {
            const double middle = 0.5 * (s.v[z(c)] + before[z(c)]);
            state_->a[z(c)] = (s.v[z(c)] - before[z(c)] + s.struck[z(c)]) / h_;
            const double eased = before[z(c)] + s.easing[z(c)] * (s.v[z(c)] - before[z(c)]);
            outcome.work.damping += h_ * world_->tree.freedom(c).damping * middle * eased;
            state_->friction[z(c)] = state_->stops[2 * z(c)] = state_->stops[2 * z(c) + 1] = 0.0;
        }
        // How its axes turn is no part of how what floats speeds up.
        for (const Index i : mechanism.bodies) {
            const Body& b = world_->tree.body(i);
            if (b.kind != Kind::floating) {
                continue;
            }
            double* const a = state_->a.data() + b.freedom;
            if (mechanism.loose) {
                if (!world_->sensors.empty()) {
                    add_free_turning(mechanism.rigid, before.data() + b.freedom, a);
                }
                continue;
            }
            const double* const v = s.middle.data() + b.freedom;
            const Vec3 turning = cross(vec(v), vec(v + 3));
            a[3] -= turning.x;
            a[4] -= turning.y;
            a[5] -= turning.z;
        }
        for (const Index i : mechanism.bodies) {
            const double* push = state_->commands.push.data() + 6 * i;
            if (std::any_of(push, push + 6, [](double value) { return value != 0.0; })) {
                const Wrench<double> pushed =
                    dynamics::moved({vec(push), vec(push + 3)}, {}, s.bodies[i].about);
                outcome.work.commands += 0.5 * h_ * dot(s.end[z(i)] + s.start[z(i)], pushed);
            }
        }
        for (const Index k : mechanism.laws) {
            const Law& law = world_->laws[z(k)];
            const Twist<double>&start = s.start[z(law.body)], &end = s.end[z(law.body)];
            const bool dissipates = law.type->dissipates();
            if (dissipates) {  // at the end of the step, as it was taken
                s.pushed[z(k)] =
                    s.pushed[z(k)] -
                    (1.0 / h_) * (law.type->resistance(law, s.bodies, start, h_) * (end - start));
            }
            const double work = 0.5 * h_ * dot(start + end, s.pushed[z(k)]);
            if (dissipates) {
                outcome.work.damping -= work;
            } else {
                outcome.work.commands += work;
            }
        }
        for (const Index k : mechanism.motors) {
            const Motor& motor = world_->motors[z(k)];
            if (motor.mode == Mode::motion) {
                continue;
            }
            const std::size_t c = z(motor.freedom);
            const double start = motor.geared() ? state_->rotor_speed[z(k)] : before[c],
                         end = motor.geared() ? s.rotor_end[z(k)] : s.v[c];
            const double wanted = s.demands[z(k)].base - s.demands[z(k)].fall * end;
            const double effort =
                is_on(*state_, k) ? s.given[z(k)].base - s.given[z(k)].fall * end : 0.0;
            state_->effort[z(k)] = effort;
            outcome.work.motors += 0.5 * h_ * effort * (end + start);
            if (state_->commands.relaxed[z(k)] != 0) {
                continue;
            }
            if (const Index limit = std::abs(state_->saturated[z(k)]); limit == 1 || limit == 2) {
                double* const noted = watch.saturated.data() + 3 * k;
                noted[0] = std::min(noted[0], time);
                noted[1] += h_;
                noted[2] = std::max(noted[2], std::fabs(wanted));
                if (motor.trips) {
                    watch.tripped[z(k)] = std::min(watch.tripped[z(k)], time);
                }
            } else if (state_->saturated[z(k)] == 0 && motor.mode == Mode::position &&
                       motor.i > 0.0) {
                // The integral part grows, but not while the motor gives all it can.
                const Target target = target_of(state_->commands, z(k), motor, s.target.data(),
                                                s.target_speed.data());
                state_->integral[z(k)] += h_ * (target.position - s.positions[c]);
            }
        }
        for (const Equation& row : s.equations[z(own)]) {
            if (row.kind == Ties::spring) {
                const double start = speed_along(row.force, s.start.data(), before.data());
                const double end = speed_along(row.force, s.end.data(), s.v.data());
                const double eased = start + s.spring_easing[z(row.item)] * (end - start);
                outcome.work.damping +=
                    0.5 * h_ * world_->tree.springs[z(row.item)].damping * eased * (start + end);
            } else if (row.kind == Ties::give) {
                const double start = speed_along(row.force, s.start.data(), before.data());
                const double end = speed_along(row.force, s.end.data(), s.v.data());
                note_give(world_->gives[z(row.item)], row, 0.5 * (start + end), outcome);
            } else if (row.kind == Ties::motion) {
                const std::size_t c = z(row.force.freedom[0]);
                state_->effort[z(row.item)] = row.impulse / h_;
                outcome.work.motors += 0.5 * row.impulse * (s.v[c] + before[c]);
            }
        }
    }
    for (const Index own : island_->mechanisms) {
        const auto first = state_->pulls.begin() + static_cast<Index>(s.first_pull[z(own)]);
        std::fill(first, first + static_cast<Index>(s.pulls[z(own)].size()), 0.0);
    }
    for (std::size_t r = 0; r < bounded_.size(); ++r) {
        const auto& [c, side, left, own, number] = bounded_[r];
        if (side == 2) {
            note_pull(r, outcome);
            continue;
        }
        const double x = rows_[r].x, both = s.v[z(c)] + before[z(c)];
        if (side == 0) {
            state_->friction[z(c)] = x;
            outcome.work.friction -= 0.5 * x * both;
        } else {
            state_->stops[2 * z(c) + (side < 0 ? 0 : 1)] = x;
            if (x > 0.0) {
                double* const noted = watch.stop.data() + 3 * c;
                noted[side < 0 ? 0 : 1] = std::min(noted[side < 0 ? 0 : 1], time);
                noted[2] += h_;
                outcome.work.contacts -= 0.5 * (side < 0 ? x : -x) * both;
            }
        }
    }
    note_contacts(outcome);
}

// What a closure that gives loses: what it takes, less what its spring keeps.
void IslandSolver::note_give(const Give& give, const Equation& row, double speed,
                             Outcome& outcome) const {
    const double stiffness = row.force.turns ? give.turning_stiffness : give.stiffness;
    const double kept = stiffness < kNever ? stiffness : 0.0;
    const double end = row.gap + h_ * speed;
    outcome.work.damping -= row.impulse * speed + 0.5 * kept * (end * end - row.gap * row.gap);
}

// What a cable, a gear or a pin with play loses, and pulls with next time to begin with.
void IslandSolver::note_pull(std::size_t r, Outcome& outcome) {
    StepSpace& s = *space_;
    const Bounded& bound = bounded_[r];
    const Pull& pull = s.pulls[z(bound.own)][bound.pull];
    const double x = rows_[r].x;
    state_->pulls[s.first_pull[z(bound.own)] + bound.pull] = x;
    const double speed =
        0.5 * (speed_of(pull, s.start.data(), state_->v.data(), state_->rotor_speed.data()) +
               speed_of(pull, s.end.data(), s.v.data(), s.rotor_end.data()));
    double stored = 0.0;
    if (pull.stiffness < kNever) {
        const auto held = [&](double over) {
            return over > 0.0 || pull.both_ways ? 0.5 * pull.stiffness * over * over : 0.0;
        };
        stored = held(pull.over - h_ * speed) - held(pull.over);
    }
    outcome.work.damping -= x * speed + stored;
}

void IslandSolver::note_contacts(Outcome& outcome) {
    StepSpace& s = *space_;
    for (std::size_t k = 0; k < contacts_.size(); ++k) {
        const std::size_t n = z(island_->contacts[k]), first = contacts_[k].first;
        contact::Contact& c = state_->contact.contacts[n];
        const Across plane = across(c.normal);
        const Row* const row = rows_.data() + first;
        const Vec3 belt = belt_of(c);
        c.impulse = row[0].x * c.normal + row[1].x * plane.u + row[2].x * plane.v;
        c.moment = {};
        double speeds[3] = {0.0, 0.0, 0.0};
        for (int j = 0; j < contacts_[k].count; ++j) {
            const RowForce& force = forces_[first + static_cast<std::size_t>(j)];
            const double speed =
                speed_along(force, s.end.data(), s.v.data()) - (j < 3 ? dot(j == 0   ? c.normal
                                                                            : j == 1 ? plane.u
                                                                                     : plane.v,
                                                                            belt)
                                                                      : 0.0);
            if (j < 3) {
                speeds[j] = speed;
            } else {
                c.moment += row[j].x * force.wrench[1].moment;
            }
            if (row[j].x != 0.0) {
                const double given = j < 3 ? dot(j == 0   ? c.normal
                                                 : j == 1 ? plane.u
                                                          : plane.v,
                                                 belt)
                                           : 0.0;
                outcome.work.contacts -=
                    0.5 * row[j].x *
                    (speed + speed_along(force, s.start.data(), state_->v.data()) - given);
                // What runs under others is driven.
                outcome.work.motors += row[j].x * given;
            }
        }
        s.pressed[n] = row[0].x;
        s.slid[n] = std::sqrt(speeds[1] * speeds[1] + speeds[2] * speeds[2]);
    }
}

}  // namespace mooring::simulation
