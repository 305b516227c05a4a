// Articulated bodies (Featherstone 1983; 2008, section 7.3), as a factorisation of the inverse mass
// matrix: M^-1 = G^T G, where G is a sweep from the tips to the roots and G^T one back (Rodriguez,
// Jain and Kreutz-Delgado, "A Spatial Operator Algebra for Manipulator Modeling and Control",
// 1991). Each sweep costs as much as the joints it passes, so a force on one body costs only its
// way to the root.
//
// G of efforts is called their half response: half (m,), with v = G^T half the velocities that
// they give as impulses. Two of them multiplied tell what one does along the other.
#pragma once

#include <array>
#include <vector>

#include "dynamics/bodies.h"
#include "geometry/tolerances.h"

namespace mooring::dynamics {

// What floats: the Cholesky factor of its articulated inertia, row by row.
template <typename S>
using Lower6 = std::array<S, 21>;

constexpr std::size_t at6(int row, int column) {
    return static_cast<std::size_t>(row) * (static_cast<std::size_t>(row) + 1) / 2 +
           static_cast<std::size_t>(column);
}

template <typename S>
struct JointFactor {
    Wrench<S> u;  // Featherstone's U, over the root of D
    S over{};     // one over the root of D
};

template <typename S>
struct Articulated {
    std::vector<ArticulatedInertia<S>> inertia;  // of each body
    std::vector<JointFactor<S>> joint;           // of each body that turns or slides
    std::vector<Lower6<S>> lower;                // of each body that floats
    std::vector<Wrench<S>> force;                // scratch, of each body
    std::vector<Twist<S>> rate;                  // scratch, of each body

    explicit Articulated(const Tree& tree)
        : inertia(tree.bodies.size()),
          joint(tree.bodies.size()),
          lower(tree.bodies.size()),
          force(tree.bodies.size()),
          rate(tree.bodies.size()) {}
};

template <typename S>
Lower6<S> cholesky6(const ArticulatedInertia<S>& i) {
    Lower6<S> l{i.a.xx,  i.a.xy,  i.a.yy,  i.a.xz,  i.a.yz,  i.a.zz,  i.b.x.x,
                i.b.x.y, i.b.x.z, i.c.xx,  i.b.y.x, i.b.y.y, i.b.y.z, i.c.xy,
                i.c.yy,  i.b.z.x, i.b.z.y, i.b.z.z, i.c.xz,  i.c.yz,  i.c.zz};
    for (int j = 0; j < 6; ++j) {
        S pivot = l[at6(j, j)];
        for (int k = 0; k < j; ++k) {
            pivot -= l[at6(j, k)] * l[at6(j, k)];
        }
        pivot = sqrt(pivot);
        l[at6(j, j)] = pivot;
        for (int r = j + 1; r < 6; ++r) {
            S value = l[at6(r, j)];
            for (int k = 0; k < j; ++k) {
                value -= l[at6(r, k)] * l[at6(j, k)];
            }
            l[at6(r, j)] = value / pivot;
        }
    }
    return l;
}

// L^-1 w
template <typename S>
std::array<S, 6> solve_lower6(const Lower6<S>& l, const Wrench<S>& w) {
    std::array<S, 6> x{w.moment.x, w.moment.y, w.moment.z, w.force.x, w.force.y, w.force.z};
    for (int r = 0; r < 6; ++r) {
        S value = x[static_cast<std::size_t>(r)];
        for (int k = 0; k < r; ++k) {
            value -= l[at6(r, k)] * x[static_cast<std::size_t>(k)];
        }
        x[static_cast<std::size_t>(r)] = value / l[at6(r, r)];
    }
    return x;
}

// L^-T x
template <typename S>
Twist<S> solve_upper6(const Lower6<S>& l, std::array<S, 6> x) {
    for (int r = 5; r >= 0; --r) {
        S value = x[static_cast<std::size_t>(r)];
        for (int k = r + 1; k < 6; ++k) {
            value -= l[at6(k, r)] * x[static_cast<std::size_t>(k)];
        }
        x[static_cast<std::size_t>(r)] = value / l[at6(r, r)];
    }
    return {{x[0], x[1], x[2]}, {x[3], x[4], x[5]}};
}

// The wrench of efforts on what floats, told in its own axes about its origin.
template <typename S>
Wrench<S> wrench_of(const BodyState<S>& state, V3<S> moment, V3<S> force) {
    const V3<S> f = state.pose.turn * force;
    return {state.pose.turn * moment + cross(state.pose.place - state.about, f), f};
}

// One body of `factorise`: what comes after it has been gone over, and its parent gets its share.
// `more` is added to the diagonal of the mass matrix at its freedom.
template <typename S>
void factorise_body(const Tree& tree, Index i, const Bodies<S>& bodies, S more, double least,
                    Articulated<S>& made) {
    const auto k = static_cast<std::size_t>(i);
    const Body& b = tree.body(i);
    const ArticulatedInertia<S>& own = made.inertia[k];
    if (b.kind == Kind::floating) {
        made.lower[k] = cholesky6(own);
        return;
    }
    const bool passes = tree.tip(b.parent) >= 0;
    if (b.moves()) {
        const Twist<S>& axis = bodies.along(b.freedom);
        const Wrench<S> u = own * axis;
        JointFactor<S>& factor = made.joint[k];
        factor.over = S(1.0) / sqrt(at_least(dot(axis, u) + more, least));
        factor.u = factor.over * u;
        if (passes) {
            ArticulatedInertia<S>& parent = made.inertia[static_cast<std::size_t>(b.parent)];
            parent = parent + without(own, factor.u);
        }
    } else if (passes) {
        ArticulatedInertia<S>& parent = made.inertia[static_cast<std::size_t>(b.parent)];
        parent = parent + own;
    }
}

// One body of the sweep to the roots: `force` on it becomes the half response at its joint, and
// what is left goes to its parent.
template <typename S>
Wrench<S> half_of_body(const Body& b, Index i, const Bodies<S>& bodies, const Articulated<S>& made,
                       const Wrench<S>& force, const S* tau, S* half) {
    const auto k = static_cast<std::size_t>(i);
    const auto effort = [&](Index c) { return tau == nullptr ? S(0.0) : tau[c]; };
    const Index c = b.freedom;
    if (b.kind == Kind::floating) {
        const Wrench<S> pushed =
            tau == nullptr ? Wrench<S>{}
                           : wrench_of(bodies[i], V3<S>{effort(c), effort(c + 1), effort(c + 2)},
                                       V3<S>{effort(c + 3), effort(c + 4), effort(c + 5)});
        const auto x = solve_lower6(made.lower[k], force + pushed);
        for (Index j = 0; j < 6; ++j) {
            half[c + j] = x[static_cast<std::size_t>(j)];
        }
        return -pushed;
    }
    if (!b.moves()) {
        return force;
    }
    const JointFactor<S>& factor = made.joint[k];
    const S value = factor.over * (effort(c) + dot(bodies.along(c), force));
    half[c] = value;
    return force - value * factor.u;
}

// One body of the sweep back: from the half response to what its joint does, and its rate.
template <typename S>
Twist<S> back_of_body(const Body& b, Index i, const Bodies<S>& bodies, const Articulated<S>& made,
                      const Twist<S>& parent, const S* half, S* out) {
    const auto k = static_cast<std::size_t>(i);
    const Index c = b.freedom;
    if (b.kind == Kind::floating) {
        std::array<S, 6> x;
        for (Index j = 0; j < 6; ++j) {
            x[static_cast<std::size_t>(j)] = half[c + j];
        }
        const BodyState<S>& state = bodies[i];
        const Twist<S> rate = solve_upper6(made.lower[k], x), own = rate - parent;
        const V3<S> turning = back(state.pose.turn, own.angular),
                    going = back(state.pose.turn, at(own, state.pose.place - state.about));
        const S parts[6] = {turning.x, turning.y, turning.z, going.x, going.y, going.z};
        for (Index j = 0; j < 6; ++j) {
            out[c + j] = parts[j];
        }
        return rate;
    }
    if (!b.moves()) {
        return parent;
    }
    const JointFactor<S>& factor = made.joint[k];
    const S speed = factor.over * (half[c] - dot(parent, factor.u));
    out[c] = speed;
    return parent + speed * bodies.along(c);
}

// Accelerations (m,) that efforts cause; rotors included. `half` (m,) is scratch.
template <typename S>
[[gnu::flatten]] void forward_dynamics(const Tree& tree, const S* q, const S* v, const S* tau,
                                       Vec3 gravity, Bodies<S>& bodies, Articulated<S>& made,
                                       S* half, S* a) {
    const Index n = tree.body_count();
    for (Index i = 0; i < n; ++i) {
        const auto k = static_cast<std::size_t>(i);
        place_body(tree, i, q, bodies);
        move_body(tree, i, v, static_cast<const S*>(nullptr), gravity, bodies);
        weigh_body(tree.body(i), bodies[i]);
        made.inertia[k] = articulated(bodies[i].inertia);
        made.force[k] = -force_of_motion(bodies[i]);
    }
    for (Index i = n - 1; i >= 0; --i) {
        const auto k = static_cast<std::size_t>(i);
        const Body& b = tree.body(i);
        const S rotor(b.freedoms() == 1 ? tree.freedom(b.freedom).rotor : 0.0);
        factorise_body(tree, i, bodies, rotor, 0.0, made);
        const Wrench<S> left = half_of_body(b, i, bodies, made, made.force[k], tau, half);
        if (tree.tip(b.parent) >= 0) {
            Wrench<S>& parent = made.force[static_cast<std::size_t>(b.parent)];
            parent = parent + left;
        }
    }
    for (Index i = 0; i < n; ++i) {
        const Body& b = tree.body(i);
        const Twist<S> parent =
            tree.tip(b.parent) < 0 ? Twist<S>{} : made.rate[static_cast<std::size_t>(b.parent)];
        made.rate[static_cast<std::size_t>(i)] = back_of_body(b, i, bodies, made, parent, half, a);
    }
}

}  // namespace mooring::dynamics
