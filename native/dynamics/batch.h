// Dynamics of many states.
#pragma once

#include "dynamics/articulated.h"

namespace mooring::dynamics {

// What a state needs while it is computed.
template <typename S>
struct Workspace {
    Bodies<S> bodies;
    Articulated<S> articulated;
    std::vector<S> state;  // q, then four values of each freedom

    explicit Workspace(const Tree& tree)
        : bodies(tree),
          articulated(tree),
          state(static_cast<std::size_t>(tree.coordinates + 4 * tree.freedom_count())) {}
};
using Workspaces = tree::Kept<Workspace<double>>;

// Many states are shared among threads; the bytes are the same with any number.
//
// Efforts (b, m) for positions (b, n), velocities and accelerations (b, m).
void batch_inverse_dynamics(const Tree& tree, Workspaces& kept, Grid<const double> q,
                            Grid<const double> v, Grid<const double> a, Vec3 gravity,
                            unsigned threads, Grid<double> tau);
// Accelerations (b, m) for positions (b, n), velocities and efforts (b, m); not finite where a
// joint moves nothing that has mass.
void batch_forward_dynamics(const Tree& tree, Workspaces& kept, Grid<const double> q,
                            Grid<const double> v, Grid<const double> tau, Vec3 gravity,
                            unsigned threads, Grid<double> a);
// Mass matrices (b, m, m), one after the other.
void batch_mass_matrix(const Tree& tree, Workspaces& kept, Grid<const double> q, double* matrices);
// Efforts (b, m) of all springs at rest: those of joints, and those between two bodies.
void batch_spring_efforts(const Tree& tree, Workspaces& kept, Grid<const double> q,
                          Grid<double> tau);

}  // namespace mooring::dynamics
