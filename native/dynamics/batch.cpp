#include "dynamics/batch.h"

#include <algorithm>
#include <thread>

#include "dynamics/articulated.h"
#include "dynamics/springs.h"

namespace mooring::dynamics {

namespace {

// Calls kernel(workspace, row) for states from `b` to `end`: several at a time as far as they go,
// then one at a time.
template <typename Kernel>
void some_states(const Tree& tree, Workspace<double>& one, Index b, Index end,
                 const Kernel& kernel) {
    if (end - b >= kLanes) {
        Workspace<Lanes> several(tree);
        for (; b + kLanes <= end; b += kLanes) {
            kernel(several, b);
        }
    }
    for (; b < end; ++b) {
        kernel(one, b);
    }
}

// The same for all states, in what is kept; for many by several threads, each with a stretch.
template <typename Kernel>
void each_state(const Tree& tree, Workspaces& kept, Index count, unsigned threads,
                const Kernel& kernel) {
    // Fewer are done before a thread has begun.
    constexpr Index kWorthSharing = 20000;
    if (threads < 2 || count * tree.freedom_count() < kWorthSharing) {
        const Workspaces::Loan one(kept, tree);
        some_states(tree, *one, 0, count, kernel);
        return;
    }
    // Whole groups of lanes, so that every state is computed as it would be alone.
    const Index each = (count / threads / kLanes + 1) * kLanes;
    std::vector<std::thread> team;
    for (Index first = 0; first < count; first += each) {
        team.emplace_back([&, first] {
            Workspace<double> own(tree);
            some_states(tree, own, first, std::min(count, first + each), kernel);
        });
    }
    for (std::thread& member : team) {
        member.join();
    }
}

}  // namespace

void batch_inverse_dynamics(const Tree& tree, Workspaces& kept, Grid<const double> q,
                            Grid<const double> v, Grid<const double> a, Vec3 gravity,
                            unsigned threads, Grid<double> tau) {
    each_state(tree, kept, q.rows, threads, [&](auto& space, Index b) {
        auto *position = space.state.data(), *speed = position + q.columns,
             *rate = speed + v.columns, *effort = rate + v.columns;
        load(&q(b, 0), q.columns, position);
        load(&v(b, 0), v.columns, speed);
        load(&a(b, 0), v.columns, rate);
        inverse_dynamics(tree, position, speed, rate, gravity, space.bodies, effort);
        store(effort, v.columns, &tau(b, 0));
    });
}

void batch_forward_dynamics(const Tree& tree, Workspaces& kept, Grid<const double> q,
                            Grid<const double> v, Grid<const double> tau, Vec3 gravity,
                            unsigned threads, Grid<double> a) {
    each_state(tree, kept, q.rows, threads, [&](auto& space, Index b) {
        auto *position = space.state.data(), *speed = position + q.columns,
             *effort = speed + v.columns, *half = effort + v.columns, *rate = half + v.columns;
        load(&q(b, 0), q.columns, position);
        load(&v(b, 0), v.columns, speed);
        load(&tau(b, 0), v.columns, effort);
        forward_dynamics(tree, position, speed, effort, gravity, space.bodies, space.articulated,
                         half, rate);
        store(rate, v.columns, &a(b, 0));
    });
}

void batch_mass_matrix(const Tree& tree, Workspaces& kept, Grid<const double> q, double* matrices) {
    const Workspaces::Loan space(kept, tree);
    Bodies<double>& bodies = (*space).bodies;
    const Index m = tree.freedom_count();
    for (Index b = 0; b < q.rows; ++b) {
        place_bodies(tree, &q(b, 0), bodies);
        weigh_bodies(tree, bodies);
        mass_matrix(tree, bodies, {matrices + b * m * m, m, m});
    }
}

void batch_spring_efforts(const Tree& tree, Workspaces& kept, Grid<const double> q,
                          Grid<double> tau) {
    const Workspaces::Loan space(kept, tree);
    Bodies<double>& bodies = (*space).bodies;
    for (Index b = 0; b < q.rows; ++b) {
        place_bodies(tree, &q(b, 0), bodies);
        for (BodyState<double>& state : bodies.body) {
            state.force = {};
        }
        for (const tree::Spring& spring : tree.springs) {
            const SpringLine line = line_of(spring, bodies);
            pull(spring, line, spring.stiffness * (line.length - spring.length), bodies);
        }
        load_joints(tree, bodies, &tau(b, 0));
        for (Index c = 0; c < tree.freedom_count(); ++c) {
            const tree::Freedom& f = tree.freedom(c);
            const double position = f.position < 0 ? 0.0 : q(b, f.position);
            tau(b, c) -= f.stiffness * (position - f.rest);
        }
    }
}

}  // namespace mooring::dynamics
