// Mechanisms that touch are solved together, and apart from all others.
#include <algorithm>

#include "simulation/simulation.h"

namespace mooring::simulation {

namespace {

constexpr std::size_t kWorthSharing = 200;  // contacts; fewer are solved before a thread wakes up

std::size_t z(Index k) { return static_cast<std::size_t>(k); }

}  // namespace

bool Simulation::holds_together(Index one, Index other) const {
    return std::any_of(state_.bonds.begin(), state_.bonds.end(), [&](const Bond& bond) {
        return (bond.first == one && bond.second == other) ||
               (bond.first == other && bond.second == one);
    });
}

// Mechanisms that touch each other; what sleeps is left out.
void Simulation::gather_islands() {
    const auto count = static_cast<Index>(mechanisms_->all.size());
    // A neighbour that moves wakes what it touches.
    for (const contact::Contact& c : state_.contact.contacts) {
        const Index one = mechanisms_->of(c.body[0]), other = mechanisms_->of(c.body[1]);
        if (one >= 0 && other >= 0 && is_awake(one) != is_awake(other)) {
            const Index mover = is_awake(one) ? one : other;
            if (!(*mechanisms_)[mover].loose ||
                state_.still[z((*mechanisms_)[mover].bodies[0])] == 0.0) {
                wake_with(is_awake(one) ? other : one);
            }
        }
    }
    UnionFind sets(z(count));
    for (const contact::Contact& c : state_.contact.contacts) {
        const Index one = mechanisms_->of(c.body[0]), other = mechanisms_->of(c.body[1]);
        if (one >= 0 && other >= 0 && is_awake(one) && is_awake(other)) {
            sets.join(one, other);
        }
    }
    island_of_.assign(z(count), -1);
    island_count_ = 0;
    for (Index k = 0; k < count; ++k) {
        if (!is_awake(k)) {
            continue;
        }
        Index& own = island_of_[z(sets.find(k))];
        if (own < 0) {
            own = static_cast<Index>(island_count_++);
            if (islands_.size() < island_count_) {
                islands_.emplace_back();
            }
            islands_[z(own)].mechanisms.clear();
            islands_[z(own)].contacts.clear();
        }
        island_of_[z(k)] = own;
        islands_[z(own)].mechanisms.push_back(k);
    }
    for (std::size_t n = 0; n < state_.contact.contacts.size(); ++n) {
        contact::Contact& c = state_.contact.contacts[n];
        if (holds_together(c.body[0], c.body[1])) {
            // What a bond holds together anyway does not press on itself.
            c.impulse = c.struck = c.moment = {};
            continue;
        }
        for (const int side : {1, 0}) {
            const Index own = mechanisms_->of(c.body[side]);
            if (own >= 0 && is_awake(own)) {
                islands_[z(island_of_[z(own)])].contacts.push_back(static_cast<Index>(n));
                break;
            }
        }
    }
}

// Islands have nothing to do with each other, so who solves which makes no difference.
void Simulation::solve_islands() {
    outcomes_.resize(island_count_);
    const auto solve = [this](Index k, std::size_t member) {
        outcomes_[z(k)] =
            solvers_[member].step(world_, *mechanisms_, islands_[z(k)], state_, *space_);
    };
    const unsigned threads = std::max(1u, world_.settings.threads);
    solvers_.resize(threads);
    if (threads == 1 || island_count_ < 2 || state_.contact.contacts.size() < kWorthSharing) {
        for (std::size_t k = 0; k < island_count_; ++k) {
            solve(static_cast<Index>(k), 0);
        }
        return;
    }
    if (!team_) {
        team_ = std::make_unique<Team>(threads);
    }
    team_->share(static_cast<Index>(island_count_), solve);
}

}  // namespace mooring::simulation
