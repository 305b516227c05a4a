#include "simulation/solver.h"

#include <algorithm>
#include <cmath>

namespace mooring::simulation {

double* Arena::take(Index count) {
    const auto wanted = static_cast<std::size_t>(count);
    while (block_ < blocks_.size() && used_ + wanted > blocks_[block_].second) {
        ++block_;
        used_ = 0;
    }
    if (block_ == blocks_.size()) {
        const std::size_t size = std::max(kBlock, wanted);
        blocks_.emplace_back(std::make_unique<double[]>(size), size);
    }
    double* const taken = blocks_[block_].first.get() + used_;
    used_ += wanted;
    return taken;
}

void Row::find_diagonal(double repeated) {
    double own = 0.0;
    for (int s = 0; s < sides; ++s) {
        own += dot(side[s].half, side[s].half, side[s].size);
    }
    soft = repeated * own + 1e-300;
    diagonal = times(*this) + soft;
}

namespace {

// Bring one row to rest, or to its bounds; returns by how much a velocity changed.
double settle(Row& row, double lower, double upper) {
    const double goal = std::min(upper, std::max(lower, row.x - row.speed() / row.diagonal));
    const double change = goal - row.x;
    if (change != 0.0) {
        row.add(change);
    }
    return std::fabs(change) * row.diagonal;
}

// Bring a pair of rows to rest, or as near as a disk allows.
double settle_disk(Row& one, Row& other, double between, double radius) {
    double goal0 = 0.0, goal1 = 0.0;
    if (radius > 0.0) {
        const double w0 = one.speed(), w1 = other.speed();
        const double a00 = one.diagonal, a11 = other.diagonal, a01 = between;
        const double over = 1.0 / (a00 * a11 - a01 * a01);
        goal0 = one.x - over * (a11 * w0 - a01 * w1);
        goal1 = other.x - over * (a00 * w1 - a01 * w0);
        if (goal0 * goal0 + goal1 * goal1 > radius * radius) {
            // It slides: friction goes against the sliding, so scale both ways alike.
            const double most =
                0.5 * (a00 + a11) + std::sqrt(0.25 * (a00 - a11) * (a00 - a11) + a01 * a01);
            goal0 = one.x - w0 / most;
            goal1 = other.x - w1 / most;
            const double length = std::sqrt(goal0 * goal0 + goal1 * goal1);
            const double share = std::min(1.0, radius / length);
            goal0 *= share;
            goal1 *= share;
        }
    }
    const double change0 = goal0 - one.x, change1 = goal1 - other.x;
    if (change0 != 0.0) {
        one.add(change0);
    }
    if (change1 != 0.0) {
        other.add(change1);
    }
    return std::max(std::fabs(change0) * one.diagonal, std::fabs(change1) * other.diagonal);
}

double settle_contact(Row* rows, const ContactRows& contact, bool with_friction) {
    double worst = settle(rows[0], 0.0, HUGE_VAL);
    if (!with_friction) {
        return worst;
    }
    const double normal = rows[0].x;
    worst = std::max(worst,
                     settle_disk(rows[1], rows[2], contact.between[0], contact.friction * normal));
    int next = 3;
    if (contact.spinning > 0.0) {
        const double bound = contact.spinning * normal;
        worst = std::max(worst, settle(rows[next++], -bound, bound));
    }
    if (contact.rolling > 0.0) {
        worst = std::max(worst, settle_disk(rows[next], rows[next + 1], contact.between[1],
                                            contact.rolling * normal));
    }
    return worst;
}

}  // namespace

Swept sweep(std::vector<Row>& rows, std::size_t bounded, const std::vector<ContactRows>& contacts,
            bool with_friction, const SweepSettings& settings) {
    double worst = 0.0;
    for (Index round = 0; round < settings.most; ++round) {
        worst = 0.0;
        const bool forwards = round % 2 == 0;
        for (std::size_t k = 0; k < bounded; ++k) {
            Row& row = rows[forwards ? k : bounded - 1 - k];
            worst = std::max(worst, settle(row, row.lower, row.upper));
        }
        for (std::size_t k = 0; k < contacts.size(); ++k) {
            const ContactRows& contact = contacts[forwards ? k : contacts.size() - 1 - k];
            worst = std::max(worst,
                             settle_contact(rows.data() + contact.first, contact, with_friction));
        }
        if (worst < settings.accuracy) {
            return {round + 1, worst};
        }
    }
    return {settings.most, worst};
}

}  // namespace mooring::simulation
