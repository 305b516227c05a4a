#include "dynamics/batch.h"

#include "dynamics/articulated.h"
#include "dynamics/springs.h"

namespace mooring::dynamics {

namespace {

// Calls kernel(workspace, row) for all states: several at a time as far as they go, then one at a
// time in what is kept.
template <typename Kernel>
void each_state(const Tree& tree, Workspaces& kept, Index count, const Kernel& kernel) {
    Index b = 0;
    if (count >= kLanes) {
        Workspace<Lanes> several(tree);
        for (; b + kLanes <= count; b += kLanes) {
            kernel(several, b);
        }
    }
    if (b < count) {
        const Workspaces::Loan one(kept, tree);
        for (; b < count; ++b) {
            kernel(*one, b);
        }
    }
}

}  // namespace

void batch_inverse_dynamics(const Tree& tree, Workspaces& kept, Grid<const double> q,
                            Grid<const double> v, Grid<const double> a, Vec3 gravity,
                            Grid<double> tau) {
    each_state(tree, kept, q.rows, [&](auto& space, Index b) {
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
                            Grid<double> a) {
    each_state(tree, kept, q.rows, [&](auto& space, Index b) {
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
