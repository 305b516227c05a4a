#include "simulation/equations.h"

#include "dynamics/springs.h"
#include "geometry/dense.h"
#include "kinematics/loops.h"

namespace mooring::simulation {

namespace {

void add_frames(Ties kind, Index item, Index a, Index b, const Pose& first, const Pose& second,
                const bool* held, const Bodies<double>& bodies, std::vector<Equation>& equations) {
    const kinematics::Opening open = kinematics::opening(first, second, held);
    for (int k = 0; k < 6; ++k) {
        if (!held[k]) {
            continue;
        }
        const Vec3 axis = column(first.turn, k % 3);
        Equation row{
            kind, item,
            k < 3 ? moment_between(a, b, axis) : force_between(bodies, a, b, second.place, axis)};
        row.gap = component(k < 3 ? open.turn : open.way, k % 3);
        equations.push_back(row);
    }
}

// What a unit impulse along a row does to a free body as large and heavy as those of a mechanism,
// if it moves it, and if it turns it.
struct Scales {
    double moving, turning;
};
Scales scales_of(const Tree& tree, const Mechanism& own, const Bodies<double>& bodies) {
    double mass = 0.0, far = 0.0;
    Index heavy = 0;
    const Vec3 start = bodies[own.bodies[0]].pose.place;
    for (const Index i : own.bodies) {
        mass += tree.body(i).mass;
        heavy += tree.body(i).mass > 0.0;
        far = std::max({far, norm(bodies[i].pose.place - start),
                        norm(bodies[i].pose * tree.body(i).centre - start)});
    }
    const double moving = static_cast<double>(heavy) / std::max(mass, kMassless);
    const double size = std::max(far, 1e-3);
    return {moving, moving / (size * size)};
}

}  // namespace

void add_holding(const World& world, const Mechanism& own, const std::vector<Bond>& bonds,
                 const Bodies<double>& bodies, const double* positions,
                 std::vector<Equation>& equations) {
    for (const Index k : own.couplings) {
        const tree::Coupling& c = world.tree.couplings[static_cast<std::size_t>(k)];
        Equation row{Ties::coupling, k, effort_at(c.follower, 1.0)};
        row.gap = positions[c.follower] - c.offset;
        int next = 1;
        for (const tree::Lead& lead : c.leads) {
            row.force.freedom[next] = lead.leader;
            row.force.effort[next++] = -lead.ratio;
            row.gap -= lead.ratio * positions[lead.leader];
        }
        equations.push_back(row);
    }
    for (const Index k : own.closures) {
        const tree::Closure& c = world.tree.closures[static_cast<std::size_t>(k)];
        add_frames(Ties::closure, k, c.first, c.second, bodies[c.first].pose * c.on_first,
                   bodies[c.second].pose * c.on_second, c.held, bodies, equations);
    }
    for (const Index k : own.bonds) {
        const Bond& b = bonds[static_cast<std::size_t>(k)];
        add_frames(Ties::bond, k, b.first, b.second, bodies[b.first].pose * b.between,
                   bodies[b.second].pose, kinematics::kWelded, bodies, equations);
    }
}

double rate_along(const RowForce& row, const Bodies<double>& bodies) {
    const auto &one = bodies[row.body[0]], &other = bodies[row.body[1]];
    const Vec3 w = one.velocity.angular;
    if (row.turns) {
        const Vec3 n = row.wrench[1].moment;
        return dot(n, other.acceleration.angular - one.acceleration.angular) +
               dot(cross(w, n), other.velocity.angular - w);
    }
    const Vec3 n = row.wrench[1].force;
    const auto speed = [&](const auto& body) { return at(body.velocity, row.point - body.about); };
    const auto rate = [&](const auto& body) {
        return at(body.acceleration, row.point - body.about) +
               cross(body.velocity.angular, speed(body));
    };
    return dot(n, rate(other) - rate(one)) + 2.0 * dot(cross(w, n), speed(other) - speed(one));
}

Equation spring_row(const tree::Spring& spring, Index number, const Bodies<double>& bodies) {
    const dynamics::SpringLine line = dynamics::line_of(spring, bodies);
    Equation row{Ties::spring, number,
                 force_between(bodies, spring.first, spring.second, line.end, line.way)};
    row.gap = line.length - spring.length;
    return row;
}

void half_response(const Tree& tree, const Mechanisms& mechanisms, Index own, const RowForce& row,
                   const Bodies<double>& bodies, const dynamics::Articulated<double>& made,
                   double* half) {
    std::fill(half, half + mechanisms[own].size(), 0.0);
    const auto sweep = [&](Index i, Wrench<double> force, Index freedom, double effort) {
        for (; i >= 0 && tree.tip(i) >= 0; i = tree.body(i).parent) {
            const Body& b = tree.body(i);
            if (!b.moves()) {
                continue;
            }
            double* out = half + mechanisms.local[static_cast<std::size_t>(b.freedom)];
            const auto k = static_cast<std::size_t>(i);
            if (b.kind == Kind::floating) {
                const auto x = dynamics::solve_lower6(made.lower[k], force);
                for (std::size_t j = 0; j < 6; ++j) {
                    out[j] += x[j];
                }
                return;
            }
            const dynamics::JointFactor<double>& factor = made.joint[k];
            const double told = b.freedom == freedom ? effort : 0.0;
            const double value = factor.over * (told + dot(bodies.along(b.freedom), force));
            *out += value;
            force = force - value * factor.u;
        }
    };
    for (int side = 0; side < 2; ++side) {
        if (row.body[side] >= 0 && mechanisms.of(row.body[side]) == own) {
            sweep(row.body[side], row.wrench[side], -1, 0.0);
        }
    }
    for (int k = 0; k < RowForce::kFreedoms && row.freedom[k] >= 0; ++k) {
        const Index body = tree.freedom(row.freedom[k]).body;
        if (mechanisms.of(body) == own) {
            sweep(body, {}, row.freedom[k], row.effort[k]);
        }
    }
}

void EquationSystem::build(const Tree& tree, const Mechanisms& mechanisms, Index own,
                           const std::vector<Equation>& equations, const Bodies<double>& bodies,
                           const dynamics::Articulated<double>& made, double repeated) {
    count_ = static_cast<Index>(equations.size());
    size_ = mechanisms[own].size();
    half_.resize(static_cast<std::size_t>(count_ * size_));
    lower_.resize(static_cast<std::size_t>(count_ * count_));
    const Grid<double> lower{lower_.data(), count_, count_};
    double largest = 0.0;
    for (Index r = 0; r < count_; ++r) {
        double* row = half_.data() + r * size_;
        half_response(tree, mechanisms, own, equations[static_cast<std::size_t>(r)].force, bodies,
                      made, row);
        for (Index s = 0; s <= r; ++s) {
            lower(r, s) = dot(row, half(s), size_);
        }
        largest = std::max(largest, lower(r, r));
    }
    leave_out(tree, mechanisms[own], equations, bodies);
    for (Index r = 0; r < count_; ++r) {
        if (left_[static_cast<std::size_t>(r)]) {
            // Answered by none, and answering none.
            std::fill(&lower(r, 0), &lower(r, 0) + r, 0.0);
            for (Index s = r + 1; s < count_; ++s) {
                lower(s, r) = 0.0;
            }
            lower(r, r) = largest;
        }
        lower(r, r) += equations[static_cast<std::size_t>(r)].soft + repeated * largest;
    }
    factorise(lower);
}

// Which equations are left to the others: by a Cholesky factorisation with pivots, those that are
// never chosen. Mechanisms come through positions in which one that did well until then repeats
// others, and one left out until then is needed.
void EquationSystem::leave_out(const Tree& tree, const Mechanism& own,
                               const std::vector<Equation>& equations,
                               const Bodies<double>& bodies) {
    left_.assign(static_cast<std::size_t>(count_), 0);
    if (own.repeats == 0) {
        return;
    }
    const Scales scales = scales_of(tree, own, bodies);
    const auto n = static_cast<std::size_t>(count_);
    rest_.resize(n);
    pivots_.assign(n * n, 0.0);
    const Grid<double> lower{lower_.data(), count_, count_};
    Index open = 0;
    for (Index r = 0; r < count_; ++r) {
        const Ties kind = equations[static_cast<std::size_t>(r)].kind;
        const bool may = kind == Ties::closure || kind == Ties::bond;
        left_[static_cast<std::size_t>(r)] = may;
        rest_[static_cast<std::size_t>(r)] = lower(r, r);
        open += may;
    }
    // Those that hold anyway first, then the best of the others.
    std::size_t chosen = 0;
    const auto choose = [&](Index p) {
        const auto pivot = static_cast<std::size_t>(p);
        const double root = std::sqrt(std::max(rest_[pivot], 1e-300));
        for (Index r = 0; r < count_; ++r) {
            const auto row = static_cast<std::size_t>(r);
            double value = p > r ? lower(p, r) : lower(r, p);
            for (std::size_t k = 0; k < chosen; ++k) {
                value -= pivots_[k * n + row] * pivots_[k * n + pivot];
            }
            pivots_[chosen * n + row] = value / root;
        }
        for (std::size_t row = 0; row < n; ++row) {
            rest_[row] -= pivots_[chosen * n + row] * pivots_[chosen * n + row];
        }
        ++chosen;
    };
    for (Index r = 0; r < count_; ++r) {
        if (!left_[static_cast<std::size_t>(r)] &&
            equations[static_cast<std::size_t>(r)].kind == Ties::coupling) {
            choose(r);
        }
    }
    for (; open > own.repeats; --open) {
        Index best = -1;
        double most = -1.0;
        for (Index r = 0; r < count_; ++r) {
            const auto row = static_cast<std::size_t>(r);
            // Of equals the first.
            const double whole =
                std::max(lower(r, r), equations[row].force.turns ? scales.turning : scales.moving);
            if (left_[row] && rest_[row] / whole > most + 1e-9) {
                best = r;
                most = rest_[row] / whole;
            }
        }
        if (best < 0) {
            return;
        }
        left_[static_cast<std::size_t>(best)] = 0;
        choose(best);
    }
}

std::vector<char> EquationSystem::repeating(const Tree& tree, const Mechanism& own,
                                            const std::vector<Equation>& equations,
                                            const Bodies<double>& bodies, double angle) const {
    const Scales scales = scales_of(tree, own, bodies);
    std::vector<char> found(static_cast<std::size_t>(count_), 0);
    std::vector<double> space;  // orthonormal directions of what does not repeat
    std::vector<double> rest(static_cast<std::size_t>(size_));
    for (Index r = 0; r < count_; ++r) {
        std::copy(half(r), half(r) + size_, rest.begin());
        // Twice, for what rounding leaves of the first time.
        for (int round = 0; round < 2; ++round) {
            for (std::size_t at = 0; at < space.size(); at += rest.size()) {
                add_times(rest.data(), -dot(space.data() + at, rest.data(), size_),
                          space.data() + at, size_);
            }
        }
        const Equation& row = equations[static_cast<std::size_t>(r)];
        const double left = dot(rest.data(), rest.data(), size_);
        const double whole = std::max(dot(half(r), half(r), size_),
                                      row.force.turns ? scales.turning : scales.moving);
        if (row.kind != Ties::coupling && left < angle * angle * whole) {
            found[static_cast<std::size_t>(r)] = 1;
        } else if (left > 0.0) {
            for (double& value : rest) {
                value /= std::sqrt(left);
            }
            space.insert(space.end(), rest.begin(), rest.end());
        }
    }
    return found;
}

void EquationSystem::solve(double* x) const {
    for (Index r = 0; r < count_; ++r) {
        if (left_[static_cast<std::size_t>(r)]) {
            x[r] = 0.0;
        }
    }
    solve_factorised({lower_.data(), count_, count_}, x);
}

void EquationSystem::take(const double* x, double* y) const {
    for (Index r = 0; r < count_; ++r) {
        add_times(y, -x[r], half(r), size_);
    }
}

void EquationSystem::along(const double* some, double* x) const {
    for (Index r = 0; r < count_; ++r) {
        x[r] = dot(half(r), some, size_);
    }
    solve(x);
}

void EquationSystem::project(const double* some, double* answer,
                             std::vector<double>& scratch) const {
    scratch.resize(static_cast<std::size_t>(count_));
    along(some, scratch.data());
    std::copy(some, some + size_, answer);
    take(scratch.data(), answer);
}

}  // namespace mooring::simulation
