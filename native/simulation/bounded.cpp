// Rows with bounds: friction and stops of joints, what only pulls, and contacts.
#include <algorithm>
#include <cmath>

#include "simulation/island.h"

namespace mooring::simulation {

namespace {

constexpr double kGive = 1e-2;    // of contacts, as a share of how they answer to their impulse
constexpr double kSettle = 0.05;  // share of a small overlap that a step takes back by a velocity,
                                  // so that give and overlap come to a balance
constexpr double kRelax = 0.98;   // share of a loose body's friction that the next step begins with

std::size_t z(Index k) { return static_cast<std::size_t>(k); }

}  // namespace

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
            const double late = lateness(squared, kTrace);
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
            // A trace of give where it rests, so that forces that could be shared out in many ways
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
    const double late = lateness(squared, kTrace);
    const double gain = damping + late * h_ * stiffness;
    row.soft += 1.0 / (h_ * gain);
    row.diagonal += 1.0 / (h_ * gain);
    row.b += c.gap > 0.0 ? c.gap / h_ : stiffness * c.gap / gain;
}

}  // namespace mooring::simulation
