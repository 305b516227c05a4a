// What has drifted apart or into each other in an island, and how it is taken back.
#include <algorithm>
#include <cmath>

#include "simulation/island.h"

namespace mooring::simulation {

namespace {

constexpr double kCorrection = 0.2;  // share of a gap that one step takes back
constexpr double kFastest = 1.0;     // correction [m/s or rad/s]
constexpr double kClosed = 1e-12;    // gaps of loops up to this are left alone [m or rad]
constexpr SweepSettings kDriftSweeps{30, 1e-6};

std::size_t z(Index k) { return static_cast<std::size_t>(k); }

}  // namespace

// Find the motion that takes drift back: gaps of loops, ways beyond stops, and overlaps.
void IslandSolver::take_drift_back() {
    StepSpace& s = *space_;
    bool found = false;
    eq_.clear();
    for (const Index own : island_->mechanisms) {
        for (const Index c : (*mechanisms_)[own].freedoms) {
            s.moving[z(c)] = s.v[z(c)];
        }
        for (const Equation& row : s.equations[z(own)]) {
            const double gap = row.holds() ? row.gap : 0.0;
            eq_.push_back(std::min(kFastest, std::max(-kFastest, kCorrection * gap / h_)));
            found = found || std::fabs(gap) > kClosed;
        }
    }
    for (std::size_t r = 0; r < bounded_.size(); ++r) {
        Row& row = rows_[r];
        const auto& [c, side, left, own, number] = bounded_[r];
        row.x = row.b = 0.0;
        if (side == 2) {
            const Pull& pull = s.pulls[z(own)][number];
            if (pull.stiffness < kNever) {
                row.lower = row.upper = 0.0;
            } else {
                row.b = pull.over > 1e-9 ? std::max(-kFastest, -kCorrection * pull.over / h_)
                                         : std::max(0.0, -pull.over) / h_;
                found = found || pull.over > 1e-9;
            }
            continue;
        }
        if (side == 0) {
            // Joint friction has no say in it.
            row.lower = row.upper = 0.0;
        } else if (left < -1e-9) {
            row.b = std::max(-kFastest, kCorrection * left / h_);
            found = true;
        } else {
            row.b = std::max(0.0, left) / h_;
        }
    }
    for (std::size_t k = 0; k < contacts_.size(); ++k) {
        Row* const row = rows_.data() + contacts_[k].first;
        const double over = state_->contact.contacts[z(island_->contacts[k])].gap + kSlop;
        const bool pressed = row[0].x > 0.0;
        for (int j = 0; j < contacts_[k].count; ++j) {
            row[j].x = row[j].b = 0.0;
        }
        if (state_->contact.contacts[z(island_->contacts[k])].surface.stiffness < kNever) {
            // What gives has nothing to take back.
            row[0].diagonal = kImmovable;
        } else if (over < 0.0) {
            row[0].b = std::max(-kFastest, kCorrection * over / h_);
            found = true;
        } else if (!pressed) {
            // Not touching: it may come as near as its gap.
            row[0].b = over / h_;
        }
    }
    if (!found) {
        return;
    }
    begin_sums();
    sweep(rows_, bounded_.size(), contacts_, false, kDriftSweeps);
    change_.resize(world_->tree.freedoms.size());
    for (const Index own : island_->mechanisms) {
        const Mechanism& mechanism = (*mechanisms_)[own];
        const double* const sums = s.sums.data() + s.offset[z(own)];
        for (std::size_t j = 0; j < mechanism.freedoms.size(); ++j) {
            s.half[z(mechanism.freedoms[j])] = sums[j];
        }
        to_velocities(own, change_.data());
        twists_of(world_->tree, mechanism.bodies, s.bodies, change_.data(), s.without.data());
        for (const Index c : mechanism.freedoms) {
            s.moving[z(c)] += change_[z(c)];
        }
    }
    for (std::size_t k = 0; k < contacts_.size(); ++k) {
        const double speed =
            speed_along(forces_[contacts_[k].first], s.without.data(), change_.data());
        s.parting[z(island_->contacts[k])] =
            0.5 * rows_[contacts_[k].first].x * std::max(0.0, speed);
    }
}

}  // namespace mooring::simulation
