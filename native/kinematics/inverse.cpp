#include "kinematics/inverse.h"

#include <algorithm>
#include <limits>
#include <numbers>
#include <random>

#include "geometry/dense.h"

namespace mooring::kinematics {

namespace {

constexpr double kLeastDamping = 1e-11;
constexpr double kStalled = 1e-3;  // a step that lowers the error by a smaller share
constexpr int kMostStalls = 6;

double half_square(const std::vector<double>& errors) {
    double total = 0.0;
    for (const double value : errors) {
        total += value * value;
    }
    return 0.5 * total;
}

class Solver {
  public:
    Solver(const Tree& tree, const IkTask& task)
        : tree_(tree),
          task_(task),
          loops_(tree),
          size_(6 + loops_.count()),
          count_(static_cast<Index>(task.chosen.size())),
          poses_(tree.bodies.size()),
          jacobian_(6 * tree.freedoms.size()),
          gap_(static_cast<std::size_t>(loops_.count())),
          loop_rows_(gap_.size() * tree.freedoms.size()),
          rows_(static_cast<std::size_t>(size_ * count_)),
          whole_(tree.freedoms.size()) {}

    // Errors (6 + k,): what is left to do, the target's part in its own axes and weighted; and
    // their derivatives, so that a step solves rows @ step = errors.
    void residual(const double* q, std::vector<double>& errors) {
        const Index m = tree_.freedom_count();
        world_poses(tree_, q, poses_.data());
        const Pose now = poses_[static_cast<std::size_t>(task_.body)] * task_.on_body;
        // How far the frame has turned and gone beyond the goal.
        const Opening beyond = opening(task_.goal, now);
        for (int i = 0; i < 6; ++i) {
            errors[static_cast<std::size_t>(i)] =
                -task_.weights[i] * component(i < 3 ? beyond.turn : beyond.way, i % 3);
        }
        const Grid<double> loop_rows{loop_rows_.data(), loops_.count(), m};
        loops_.evaluate(q, gap_.data(), loop_rows);
        for (std::size_t i = 0; i < gap_.size(); ++i) {
            errors[6 + i] = -gap_[i];
        }
        const Grid<double> jacobian{jacobian_.data(), 6, m}, rows{rows_.data(), size_, count_};
        point_jacobian(tree_, poses_.data(), task_.body, now.place, jacobian);
        for (Index k = 0; k < count_; ++k) {
            const Index c = task_.chosen[static_cast<std::size_t>(k)];
            const Vec3 turning =
                           back(task_.goal.turn, {jacobian(0, c), jacobian(1, c), jacobian(2, c)}),
                       going =
                           back(task_.goal.turn, {jacobian(3, c), jacobian(4, c), jacobian(5, c)});
            for (int i = 0; i < 6; ++i) {
                rows(i, k) = task_.weights[i] * component(i < 3 ? turning : going, i % 3);
            }
            for (Index i = 0; i < loops_.count(); ++i) {
                rows(6 + i, k) = loop_rows(i, c);
            }
        }
    }

    // Whether the target and the loops are met.
    bool within(const std::vector<double>& errors) const {
        double turn = 0.0, way = 0.0;
        for (std::size_t i = 0; i < 6; ++i) {
            if (task_.weights[i] > 0.0) {
                const double off = errors[i] / task_.weights[i];
                (i < 3 ? turn : way) += off * off;
            }
        }
        for (std::size_t i = 6; i < errors.size(); ++i) {
            if (std::fabs(errors[i]) > task_.loop_tolerance) {
                return false;
            }
        }
        return std::sqrt(turn) <= task_.angle && std::sqrt(way) <= task_.length;
    }

    // Go from q to a solution, in place; whether one was found.
    bool descend(double* q, Index most_steps) {
        const auto n = static_cast<std::size_t>(tree_.coordinates);
        std::vector<double> errors(static_cast<std::size_t>(size_)), trial_errors(errors.size()),
            trial(n), step(task_.chosen.size()), normal(step.size() * step.size());
        std::vector<char> held(step.size());
        std::fill(whole_.begin(), whole_.end(), 0.0);
        residual(q, errors);
        double best = half_square(errors), more = 1.0;
        int stalls = 0;
        for (Index round = 0; round < most_steps && stalls <= kMostStalls; ++round) {
            if (within(errors)) {
                return true;
            }
            std::fill(held.begin(), held.end(), char{0});
            solve(errors, held, more * best + kLeastDamping, normal, step);
            if (hold_at_limits(q, step, held)) {
                solve(errors, held, more * best + kLeastDamping, normal, step);
                hold_at_limits(q, step, held);
            }
            for (std::size_t k = 0; k < step.size(); ++k) {
                go(q, task_.chosen[k], held[k] ? 0.0 : step[k]);
            }
            std::copy(q, q + n, trial.begin());
            tree::move(tree_, trial.data(), whole_.data(), 1.0);
            residual(trial.data(), trial_errors);
            const double now = half_square(trial_errors);
            if (now < best) {
                stalls = now > best * (1.0 - kStalled) ? stalls + 1 : 0;
                best = now;
                std::copy(trial.begin(), trial.end(), q);
                errors = trial_errors;
                more = std::max(1.0, more * 0.1);
            } else {
                more *= 10.0;
                ++stalls;
                residual(q, errors);
            }
        }
        return within(errors);
    }

    // Slide a solution along those beside it towards a posture, in place.
    void settle(double* q, const double* near) {
        constexpr int kMostRounds = 40;
        constexpr Index kStepsBack = 20;
        const auto n = static_cast<std::size_t>(tree_.coordinates);
        std::vector<double> errors(static_cast<std::size_t>(size_)), side(errors.size()),
            normal_space(errors.size() * errors.size()), trial(n);
        const Grid<double> normal{normal_space.data(), size_, size_};
        const Grid<double> rows{rows_.data(), size_, count_};
        double share = 1.0;
        for (int round = 0; round < kMostRounds; ++round) {
            const double here = distance(q, near);
            residual(q, errors);
            double most = 0.0;
            for (Index i = 0; i < size_; ++i) {
                double total = 0.0;
                for (Index k = 0; k < count_; ++k) {
                    total += rows(i, k) * way_to(q, near, k);
                }
                side[static_cast<std::size_t>(i)] = total;
                for (Index j = 0; j <= i; ++j) {
                    double product = 0.0;
                    for (Index k = 0; k < count_; ++k) {
                        product += rows(i, k) * rows(j, k);
                    }
                    normal(i, j) = product;
                }
                most = std::max(most, normal(i, i));
            }
            for (Index i = 0; i < size_; ++i) {
                normal(i, i) += 1e-10 * most + 1e-14;
            }
            factorise(normal);
            solve_factorised(normal, side.data());
            double longest = 0.0;
            std::fill(whole_.begin(), whole_.end(), 0.0);
            for (Index k = 0; k < count_; ++k) {
                double value = way_to(q, near, k);
                for (Index i = 0; i < size_; ++i) {
                    value -= rows(i, k) * side[static_cast<std::size_t>(i)];
                }
                const Index c = task_.chosen[static_cast<std::size_t>(k)];
                go(q, c, (tree_.freedom(c).position < 0 ? 1.0 : share) * value);
                longest = std::max(longest, std::fabs(whole_[static_cast<std::size_t>(c)]));
            }
            if (longest < 1e-7) {
                return;
            }
            std::copy(q, q + n, trial.begin());
            tree::move(tree_, trial.data(), whole_.data(), 1.0);
            if (descend(trial.data(), kStepsBack) && distance(trial.data(), near) < here - 1e-12) {
                std::copy(trial.begin(), trial.end(), q);
                share = std::min(1.0, 2.0 * share);
            } else {
                share *= 0.5;
                if (share < 1e-3) {
                    return;
                }
            }
        }
    }

    double distance(const double* q, const double* near) const {
        double total = 0.0;
        for (Index k = 0; k < count_; ++k) {
            const double way = way_to(q, near, k);
            total += way * way;
        }
        return std::sqrt(total);
    }

    Index size() const { return size_; }

  private:
    double way_to(const double* q, const double* near, Index k) const {
        const Index at = tree_.freedom(task_.chosen[static_cast<std::size_t>(k)]).position;
        return at < 0 ? 0.0 : near[at] - q[at];
    }

    // A step of one freedom, no farther than its limits.
    void go(const double* q, Index c, double way) {
        const auto k = static_cast<std::size_t>(c);
        const Index at = tree_.freedom(c).position;
        whole_[k] =
            at < 0 ? way : std::min(task_.upper[k], std::max(task_.lower[k], q[at] + way)) - q[at];
    }

    // Hold what stands at a limit and would go beyond; whether anything more is held now.
    bool hold_at_limits(const double* q, const std::vector<double>& step, std::vector<char>& held) {
        bool more = false;
        for (std::size_t k = 0; k < step.size(); ++k) {
            const auto c = static_cast<std::size_t>(task_.chosen[k]);
            const Index at = tree_.freedom(task_.chosen[k]).position;
            if (!held[k] && at >= 0 &&
                ((q[at] <= task_.lower[c] && step[k] < 0.0) ||
                 (q[at] >= task_.upper[c] && step[k] > 0.0))) {
                held[k] = more = true;
            }
        }
        return more;
    }

    void solve(const std::vector<double>& errors, const std::vector<char>& held, double damping,
               std::vector<double>& normal_space, std::vector<double>& step) {
        const Grid<double> normal{normal_space.data(), count_, count_};
        const Grid<double> rows{rows_.data(), size_, count_};
        for (Index i = 0; i < count_; ++i) {
            const bool still = held[static_cast<std::size_t>(i)];
            for (Index j = 0; j <= i; ++j) {
                double total = 0.0;
                if (!still && !held[static_cast<std::size_t>(j)]) {
                    for (Index k = 0; k < size_; ++k) {
                        total += rows(k, i) * rows(k, j);
                    }
                }
                normal(i, j) = total;
            }
            normal(i, i) += still ? 1.0 : damping;
            double side = 0.0;
            for (Index k = 0; k < size_ && !still; ++k) {
                side += rows(k, i) * errors[static_cast<std::size_t>(k)];
            }
            step[static_cast<std::size_t>(i)] = side;
        }
        factorise(normal);
        solve_factorised(normal, step.data());
    }

    const Tree& tree_;
    const IkTask& task_;
    LoopEquations loops_;
    Index size_, count_;
    std::vector<Pose> poses_;
    std::vector<double> jacobian_, gap_, loop_rows_, rows_, whole_;
};

}  // namespace

IkReport solve_ik(const Tree& tree, const IkTask& task, const double* near, const IkSearch& search,
                  double* q) {
    // Numbers of the generator itself, since distributions differ between libraries.
    std::mt19937_64 random(search.seed);
    const auto share = [&random] { return static_cast<double>(random() >> 11) * 0x1.0p-53; };
    Solver solver(tree, task);
    std::vector<double> errors(static_cast<std::size_t>(solver.size()));
    const std::vector<double> first(q, q + tree.coordinates);
    std::vector<double> trial;
    double best = std::numeric_limits<double>::infinity();
    IkReport report{false, 0, 0.0};
    while (report.starts < search.starts) {
        trial = first;
        if (report.starts > 0) {
            for (const Index c : task.chosen) {
                if (const Index at = tree.freedom(c).position; at >= 0) {
                    const auto k = static_cast<std::size_t>(c);
                    const double low = std::max(task.lower[k], -std::numbers::pi),
                                 high = std::min(task.upper[k], std::numbers::pi);
                    trial[static_cast<std::size_t>(at)] = low + (high - low) * share();
                }
            }
        }
        ++report.starts;
        const bool reached = solver.descend(trial.data(), search.most_steps);
        if (reached && search.wants_nearest) {
            solver.settle(trial.data(), near);
        }
        double score = solver.distance(trial.data(), near);
        if (!reached) {
            solver.residual(trial.data(), errors);
            score = half_square(errors);
        }
        if ((reached && !report.reached) || (reached == report.reached && score < best)) {
            best = score;
            std::copy(trial.begin(), trial.end(), q);
            report.reached = report.reached || reached;
        }
        if (report.reached && !search.wants_nearest) {
            break;
        }
    }
    report.distance = solver.distance(q, near);
    return report;
}

}  // namespace mooring::kinematics
