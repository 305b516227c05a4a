// Rows: a direction in which things move, and in which an impulse acts.
//
// A row takes its force from one body and puts it on another, or acts at freedoms. How fast things
// move along it is the power of a unit of its force.
#pragma once

#include <type_traits>

#include "dynamics/articulated.h"

namespace mooring::simulation {

using dynamics::Bodies;
using tree::Body;
using tree::Kind;
using tree::Tree;

struct RowForce {
    Index body[2] = {-1, -1};  // taken from the first, put on the second; -1 for none
    Wrench<double> wrench[2];  // on each, about the point that its twists are about
    static constexpr int kFreedoms = 4;
    Index freedom[kFreedoms] = {-1, -1, -1, -1};
    double effort[kFreedoms] = {0.0, 0.0, 0.0, 0.0};
    Vec3 point;          // where it acts, in the world
    bool turns = false;  // a mere moment
};

inline RowForce force_between(const Bodies<double>& bodies, Index from, Index to, Vec3 point,
                              Vec3 direction) {
    RowForce row;
    row.point = point;
    const Index ends[2] = {from, to};
    for (int side = 0; side < 2; ++side) {
        if (ends[side] >= 0) {
            row.body[side] = ends[side];
            row.wrench[side] =
                force_at(point - bodies[ends[side]].about, side == 0 ? -direction : direction);
        }
    }
    return row;
}

inline RowForce moment_between(Index from, Index to, Vec3 direction) {
    RowForce row;
    row.turns = true;
    row.body[0] = from;
    row.body[1] = to;
    row.wrench[0] = {-direction, {}};
    row.wrench[1] = {direction, {}};
    return row;
}

inline RowForce effort_at(Index freedom, double effort) {
    RowForce row;
    row.freedom[0] = freedom;
    row.effort[0] = effort;
    return row;
}

// How fast things move along a row, by the twists of bodies and the velocities of freedoms.
inline double speed_along(const RowForce& row, const Twist<double>* twists, const double* v) {
    double speed = 0.0;
    for (int side = 0; side < 2; ++side) {
        if (row.body[side] >= 0) {
            speed += dot(twists[row.body[side]], row.wrench[side]);
        }
    }
    for (int k = 0; k < RowForce::kFreedoms && row.freedom[k] >= 0; ++k) {
        speed += row.effort[k] * v[row.freedom[k]];
    }
    return speed;
}

// The velocity twists of bodies at velocities v (m,), of those that a joint moves.
inline void twists_of(const Tree& tree, const std::vector<Index>& which,
                      const Bodies<double>& bodies, const double* v, Twist<double>* twists) {
    for (const Index i : which) {
        const Body& b = tree.body(i);
        Twist<double> twist = tree.tip(b.parent) < 0 ? Twist<double>{} : twists[b.parent];
        if (b.moves()) {
            twist = twist + dynamics::together(b, v, bodies);
        }
        twists[i] = twist;
    }
}

// Factorise placed and weighed bodies of a mechanism, with the rotors of their drives.
inline void factorise_bodies(const Tree& tree, const std::vector<Index>& which,
                             const Bodies<double>& bodies, dynamics::Articulated<double>& made) {
    for (const Index i : which) {
        made.inertia[static_cast<std::size_t>(i)] = articulated(bodies[i].inertia);
    }
    for (auto i = which.rbegin(); i != which.rend(); ++i) {
        const Body& b = tree.body(*i);
        const double rotor = b.freedoms() == 1 ? tree.freedom(b.freedom).rotor : 0.0;
        dynamics::factorise_body(tree, *i, bodies, rotor, kMassless, made);
    }
}

// Velocities (m,) of a mechanism's freedoms from half responses (m,).
inline void velocities_from(const Tree& tree, const std::vector<Index>& which,
                            const Bodies<double>& bodies, dynamics::Articulated<double>& made,
                            const double* half, double* out) {
    for (const Index i : which) {
        const Body& b = tree.body(i);
        const Twist<double> parent = tree.tip(b.parent) < 0
                                         ? Twist<double>{}
                                         : made.rate[static_cast<std::size_t>(b.parent)];
        made.rate[static_cast<std::size_t>(i)] =
            dynamics::back_of_body(b, i, bodies, made, parent, half, out);
    }
}

// Products of vectors as long as a mechanism has freedoms; of what floats alone, six.
template <typename Count>
double dot_counted(const double* a, const double* b, Count n) {
    double even = 0.0, odd = 0.0;
    Index k = 0;
    for (; k + 1 < n; k += 2) {
        even += a[k] * b[k];
        odd += a[k + 1] * b[k + 1];
    }
    return k < n ? (even + odd) + a[k] * b[k] : even + odd;
}
inline double dot(const double* a, const double* b, Index n) {
    return n == 6 ? dot_counted(a, b, std::integral_constant<Index, 6>{}) : dot_counted(a, b, n);
}
template <typename Count>
void add_counted(double* y, double s, const double* x, Count n) {
    for (Index k = 0; k < n; ++k) {
        y[k] += s * x[k];
    }
}
inline void add_times(double* y, double s, const double* x, Index n) {
    if (n == 6) {
        add_counted(y, s, x, std::integral_constant<Index, 6>{});
    } else {
        add_counted(y, s, x, n);
    }
}

}  // namespace mooring::simulation
