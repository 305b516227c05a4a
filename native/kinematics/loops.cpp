#include "kinematics/loops.h"

#include <algorithm>

#include "geometry/dense.h"

namespace mooring::kinematics {

namespace {

double largest(const std::vector<double>& values) {
    double most = 0.0;
    for (const double value : values) {
        most = std::max(most, std::fabs(value));
    }
    return most;
}

double sum_of_squares(const std::vector<double>& values) {
    double total = 0.0;
    for (const double value : values) {
        total += value * value;
    }
    return total;
}

// Finds the smallest step of chosen freedoms that closes the gap to first order.
class NewtonStep {
  public:
    explicit NewtonStep(Index rows)
        : normal_(static_cast<std::size_t>(rows * rows)),
          weights_(static_cast<std::size_t>(rows)) {}

    void find(Grid<const double> jacobian, const std::vector<double>& gap,
              const std::vector<Index>& chosen, std::vector<double>& step) {
        const Index rows = jacobian.rows;
        const Grid<double> normal{normal_.data(), rows, rows};
        double most = 0.0;
        for (Index r = 0; r < rows; ++r) {
            for (Index t = 0; t <= r; ++t) {
                double total = 0.0;
                for (const Index c : chosen) {
                    total += jacobian(r, c) * jacobian(t, c);
                }
                normal(r, t) = total;
            }
            most = std::max(most, normal(r, r));
        }
        for (Index r = 0; r < rows; ++r) {
            normal(r, r) += kRepeatedInNewton * most;
        }
        factorise(normal);
        weights_ = gap;
        solve_factorised(normal, weights_.data());
        for (const Index c : chosen) {
            double total = 0.0;
            for (Index r = 0; r < rows; ++r) {
                total += jacobian(r, c) * weights_[static_cast<std::size_t>(r)];
            }
            step[static_cast<std::size_t>(c)] = total;
        }
    }

  private:
    std::vector<double> normal_, weights_;
};

}  // namespace

Index loop_count(const Tree& tree) {
    auto count = static_cast<Index>(tree.couplings.size());
    for (const tree::Closure& closure : tree.closures) {
        count += std::count(closure.held, closure.held + 6, true);
    }
    return count;
}

LoopEquations::LoopEquations(const Tree& tree)
    : tree_(tree),
      count_(loop_count(tree)),
      poses_(tree.bodies.size()),
      on_first_(6 * tree.freedoms.size()),
      on_second_(6 * tree.freedoms.size()) {}

void LoopEquations::evaluate(const double* q, double* gap, Grid<double> jacobian) {
    const Index m = tree_.freedom_count();
    std::fill(jacobian.data, jacobian.data + count_ * m, 0.0);
    Index row = 0;
    for (const tree::Coupling& c : tree_.couplings) {
        gap[row] = q[tree_.freedom(c.follower).position] - c.offset;
        jacobian(row, c.follower) = 1.0;
        for (const tree::Lead& lead : c.leads) {
            gap[row] -= lead.ratio * q[tree_.freedom(lead.leader).position];
            jacobian(row, lead.leader) -= lead.ratio;
        }
        ++row;
    }
    if (tree_.closures.empty()) {
        return;
    }
    world_poses(tree_, q, poses_.data());
    const Grid<double> on_first{on_first_.data(), 6, m}, on_second{on_second_.data(), 6, m};
    for (const tree::Closure& closure : tree_.closures) {
        const Pose first = poses_[static_cast<std::size_t>(closure.first)] * closure.on_first;
        const Pose second = poses_[static_cast<std::size_t>(closure.second)] * closure.on_second;
        // Both Jacobians at the second frame's origin: their difference is the relative twist as
        // the first frame sees it.
        point_jacobian(tree_, poses_.data(), closure.first, second.place, on_first);
        point_jacobian(tree_, poses_.data(), closure.second, second.place, on_second);
        const Opening open = opening(first, second, closure.held);
        for (int k = 0; k < 6; ++k) {
            if (!closure.held[k]) {
                continue;
            }
            const Index base = k < 3 ? 0 : 3;
            gap[row] = component(k < 3 ? open.turn : open.way, k % 3);
            const Vec3 axis = column(first.turn, k % 3);
            for (Index c = 0; c < m; ++c) {
                jacobian(row, c) = axis.x * (on_second(base, c) - on_first(base, c)) +
                                   axis.y * (on_second(base + 1, c) - on_first(base + 1, c)) +
                                   axis.z * (on_second(base + 2, c) - on_first(base + 2, c));
            }
            ++row;
        }
    }
}

double close_loops(const Tree& tree, double* q, const bool* free, const double* lower,
                   const double* upper, double tolerance, Index most_steps) {
    constexpr int kMostHalvings = 12;
    const auto m = tree.freedoms.size(), n = static_cast<std::size_t>(tree.coordinates);
    LoopEquations equations(tree);
    const Index rows = equations.count();
    std::vector<double> gap(static_cast<std::size_t>(rows)), trial_gap(gap.size());
    std::vector<double> space(2 * gap.size() * m);
    const Grid<double> jacobian{space.data(), rows, tree.freedom_count()},
        trial_jacobian{space.data() + gap.size() * m, rows, tree.freedom_count()};
    NewtonStep newton(rows);
    std::vector<double> step(m), whole(m), trial(n);
    std::vector<Index> chosen, inside;
    for (Index c = 0; c < tree.freedom_count(); ++c) {
        if (free[c]) {
            chosen.push_back(c);
        }
    }
    const Grid<const double> rows_of{jacobian.data, jacobian.rows, jacobian.columns};
    for (Index round = 0; round < most_steps; ++round) {
        equations.evaluate(q, gap.data(), jacobian);
        if (const double worst = largest(gap); worst <= tolerance || chosen.empty()) {
            return worst;
        }
        newton.find(rows_of, gap, chosen, step);
        // A freedom at its limit that would go beyond stays out of this step.
        inside.clear();
        for (const Index c : chosen) {
            const Index here = tree.freedom(c).position;
            const double way = step[static_cast<std::size_t>(c)];
            const bool stopped = here >= 0 && ((q[here] <= lower[c] && way > 0.0) ||
                                               (q[here] >= upper[c] && way < 0.0));
            if (!stopped) {
                inside.push_back(c);
            }
        }
        if (inside.size() < chosen.size()) {
            newton.find(rows_of, gap, inside, step);
        }
        const double before = sum_of_squares(gap);
        double length = 1.0;
        for (int halving = 0; halving < kMostHalvings; ++halving) {
            std::copy(q, q + n, trial.begin());
            std::fill(whole.begin(), whole.end(), 0.0);
            for (const Index c : inside) {
                const Index here = tree.freedom(c).position;
                const double way = step[static_cast<std::size_t>(c)];
                whole[static_cast<std::size_t>(c)] =
                    here < 0 ? -way
                             : (std::min(upper[c], std::max(lower[c], q[here] - length * way)) -
                                q[here]) /
                                   length;
            }
            tree::move(tree, trial.data(), whole.data(), length);
            equations.evaluate(trial.data(), trial_gap.data(), trial_jacobian);
            if (sum_of_squares(trial_gap) < before) {
                break;
            }
            length *= 0.5;
        }
        std::copy(trial.begin(), trial.end(), q);
    }
    equations.evaluate(q, gap.data(), jacobian);
    return largest(gap);
}

}  // namespace mooring::kinematics
