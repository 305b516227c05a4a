// Impacts of what bounces, one after the other.
//
// What hits is thrown back by Newton's law, the fastest first, and what that sets moving hits in
// its turn, within the same instant: so a row of balls passes a blow on to the last, which a law
// for all of them at once does not. Blows that fall together are solved together, so that left is
// as right. (Sequential impacts: Ivanov, "On multiple impact", 1995.)
#include <algorithm>
#include <cmath>

#include "simulation/island.h"

namespace mooring::simulation {

namespace {

constexpr int kMostHits = 400;
constexpr int kTogether = 60;  // sweeps over blows that fall together
constexpr double kSame = 1e-6;
constexpr double kTouching = 1e-5;  // nearer than this a blow is passed on [m]

std::size_t z(Index k) { return static_cast<std::size_t>(k); }

}  // namespace

// Rows are built; returns whether anything bounced, and velocities are new.
bool IslandSolver::collide(Outcome& outcome) {
    StepSpace& s = *space_;
    const auto contact_of = [&](std::size_t k) -> contact::Contact& {
        return state_->contact.contacts[z(island_->contacts[k])];
    };
    // Of normals, before anything hit; and what forces add to them until then, half a step.
    std::vector<double> speeds, more;
    bool any = false;
    for (std::size_t k = 0; k < contacts_.size(); ++k) {
        contact::Contact& c = contact_of(k);
        c.struck = {};
        speeds.push_back(
            speed_along(forces_[contacts_[k].first], s.start.data(), state_->v.data()));
        more.push_back(0.5 *
                       (speed_along(forces_[contacts_[k].first], s.without.data(), s.free.data()) -
                        speeds[k]));
        any = any || (c.surface.restitution > 0.0 && speeds[k] < -kBouncing &&
                      c.gap + h_ * speeds[k] <= 0.0);
    }
    if (!any) {
        return false;
    }
    for (const Index own : island_->mechanisms) {
        double* const sums = s.sums.data() + s.offset[z(own)];
        std::fill(sums, sums + (*mechanisms_)[own].size(), 0.0);
    }
    const auto along = [](const Row& row) {
        double w = 0.0;
        for (int side = 0; side < row.sides; ++side) {
            w += dot(row.side[side].half, row.side[side].sum, row.side[side].size);
        }
        return w;
    };
    const auto give = [](Row& row, double impulse) {
        for (int side = 0; side < row.sides; ++side) {
            add_times(row.side[side].sum, impulse, row.side[side].answer, row.side[side].size);
        }
    };
    std::vector<std::size_t> together;
    std::vector<double> goals, given;
    for (int hit = 0; hit < kMostHits; ++hit) {
        double fastest = -kBouncing;
        const auto coming = [&](std::size_t k) {
            const double speed = speeds[k] + along(rows_[contacts_[k].first]);
            const double gap = contact_of(k).gap;
            return gap < kTouching || gap + h_ * speed <= 0.0 ? speed : 0.0;
        };
        for (std::size_t k = 0; k < contacts_.size(); ++k) {
            fastest = std::min(fastest, coming(k));
        }
        if (fastest >= -kBouncing) {
            break;
        }
        together.clear();
        goals.clear();
        for (std::size_t k = 0; k < contacts_.size(); ++k) {
            if (const double speed = coming(k); speed <= (1.0 - kSame) * fastest) {
                together.push_back(k);
                // Forces push the other way until it parts as fast as it then does.
                goals.push_back(-contact_of(k).surface.restitution * (speed + more[k]) - more[k]);
            }
        }
        given.assign(together.size(), 0.0);
        for (int sweep = 0; sweep < (together.size() == 1 ? 1 : kTogether); ++sweep) {
            for (std::size_t j = 0; j < together.size(); ++j) {
                Row& row = rows_[contacts_[together[j]].first];
                const double before = along(row);
                const double left = goals[j] - speeds[together[j]] - before;
                const double x = std::max(-given[j], left / (row.diagonal - row.soft));
                give(row, x);
                given[j] += x;
                const double mean = speeds[together[j]] + 0.5 * (before + along(row));
                outcome.work.contacts -= x * mean;
            }
        }
        for (std::size_t j = 0; j < together.size(); ++j) {
            const std::size_t k = together[j], first = contacts_[k].first;
            contact::Contact& c = contact_of(k);
            const Across plane = across(c.normal);
            c.struck += given[j] * c.normal;
            // Friction stops what slides, as far as the blow allows.
            const double most = contacts_[k].friction * given[j];
            double x[2], start[2];
            for (std::size_t way = 0; way < 2; ++way) {
                const Row& row = rows_[first + 1 + way];
                start[way] =
                    speed_along(forces_[first + 1 + way], s.start.data(), state_->v.data());
                x[way] = -(start[way] + along(row)) / std::max(row.diagonal - row.soft, kMassless);
            }
            const double size = std::hypot(x[0], x[1]);
            const double share = size > most ? most / size : 1.0;
            for (std::size_t way = 0; way < 2; ++way) {
                Row& row = rows_[first + 1 + way];
                const double before = along(row);
                give(row, share * x[way]);
                outcome.work.contacts -=
                    share * x[way] * (start[way] + 0.5 * (before + along(row)));
                c.struck += share * x[way] * (way == 0 ? plane.u : plane.v);
            }
        }
    }
    for (const Index own : island_->mechanisms) {
        const Mechanism& mechanism = (*mechanisms_)[own];
        const double* const sums = s.sums.data() + s.offset[z(own)];
        for (std::size_t j = 0; j < mechanism.freedoms.size(); ++j) {
            s.half[z(mechanism.freedoms[j])] = sums[j];
        }
        to_velocities(own, s.struck.data());
        for (const Index c : mechanism.freedoms) {
            state_->v[z(c)] += s.struck[z(c)];
            s.middle[z(c)] += s.struck[z(c)];
        }
        twists_of(world_->tree, mechanism.bodies, s.bodies, state_->v.data(), s.start.data());
        for (const Index i : mechanism.bodies) {
            dynamics::move_body(world_->tree, i, s.middle.data(),
                                static_cast<const double*>(nullptr), world_->settings.gravity,
                                s.bodies);
        }
    }
    return true;
}

}  // namespace mooring::simulation
