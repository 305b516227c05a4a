// Bodies seen from the world: where they are, how they move, what they weigh; and from it inverse
// dynamics and the mass matrix (Featherstone 2008, sections 2.8, 5.3 and 6.2).
//
// Twists, wrenches and inertias are in world axes, and about the place where the first joint of a
// body's mechanism stands at the moment: inertias of a subtree are then plain sums, what a joint
// does to any force in the mechanism is one product with its axis, and no digits are lost far from
// the world's origin. Of what does not move they are about the world's origin.
#pragma once

#include <vector>

#include "geometry/spatial.h"
#include "tree/joints.h"

namespace mooring::dynamics {

using tree::Body;
using tree::Kind;
using tree::Tree;

template <typename S>
struct BodyState {
    P3<S> pose;
    V3<S> about;
    Twist<S> velocity;
    Twist<S> acceleration;  // as if the world rose against gravity
    RigidInertia<S> inertia;
    Wrench<S> force;  // what it takes to move it so; then what its joint passes on
};

template <typename S>
struct Bodies {
    std::vector<BodyState<S>> body;
    std::vector<Twist<S>> axis;  // the motion of each freedom

    explicit Bodies(const Tree& tree) : body(tree.bodies.size()), axis(tree.freedoms.size()) {}
    BodyState<S>& operator[](Index i) { return body[static_cast<std::size_t>(i)]; }
    const BodyState<S>& operator[](Index i) const { return body[static_cast<std::size_t>(i)]; }
    Twist<S>& along(Index c) { return axis[static_cast<std::size_t>(c)]; }
    const Twist<S>& along(Index c) const { return axis[static_cast<std::size_t>(c)]; }
};

// One body, whose parent has been placed.
template <typename S>
void place_body(const Tree& tree, Index i, const S* q, Bodies<S>& bodies) {
    const Body& b = tree.body(i);
    BodyState<S>& state = bodies[i];
    const P3<S> local = tree::joint_frame(b, q);
    state.pose = b.parent < 0 ? local : bodies[b.parent].pose * local;
    if (b.tip < 0) {
        state.about = {S(0.0), S(0.0), S(0.0)};
        return;
    }
    const bool first = tree.tip(b.parent) < 0;
    state.about = first ? state.pose.place : bodies[b.parent].about;
    const V3<S> arm = state.pose.place - state.about, none{};
    if (b.kind == Kind::floating) {
        const V3<S> own[3] = {state.pose.turn.x, state.pose.turn.y, state.pose.turn.z};
        for (Index k = 0; k < 3; ++k) {
            bodies.along(b.freedom + k) = {own[k], cross(arm, own[k])};
            bodies.along(b.freedom + 3 + k) = {none, own[k]};
        }
    } else if (b.moves()) {
        const V3<S> axis = state.pose.turn * spread<S>(b.axis);
        bodies.along(b.freedom) =
            b.kind == Kind::revolute ? Twist<S>{axis, cross(arm, axis)} : Twist<S>{none, axis};
    }
}

template <typename S>
void place_bodies(const Tree& tree, const S* q, Bodies<S>& bodies) {
    for (Index i = 0; i < tree.body_count(); ++i) {
        place_body(tree, i, q, bodies);
    }
}

// The motion that some freedoms make together.
template <typename S>
Twist<S> together(const Body& body, const S* v, const Bodies<S>& bodies) {
    Twist<S> sum{};
    for (Index c = body.freedom; c < body.freedom + body.freedoms(); ++c) {
        sum = sum + v[c] * bodies.along(c);
    }
    return sum;
}

// Velocities and accelerations of placed bodies; a is (m,), or null for none.
template <typename S>
void move_body(const Tree& tree, Index i, const S* v, const S* a, Vec3 gravity, Bodies<S>& bodies) {
    const Body& b = tree.body(i);
    BodyState<S>& state = bodies[i];
    if (tree.tip(b.parent) < 0) {
        state.velocity = {};
        state.acceleration = {{}, spread<S>(-gravity)};
    } else {
        state.velocity = bodies[b.parent].velocity;
        state.acceleration = bodies[b.parent].acceleration;
    }
    if (!b.moves()) {
        return;
    }
    const Twist<S> own = together(b, v, bodies);
    // The parent's velocity carries the motion axes along.
    state.acceleration = state.acceleration + cross(state.velocity, own);
    if (a != nullptr) {
        state.acceleration = state.acceleration + together(b, a, bodies);
    }
    state.velocity = state.velocity + own;
}

template <typename S>
void move_bodies(const Tree& tree, const S* v, const S* a, Vec3 gravity, Bodies<S>& bodies) {
    for (Index i = 0; i < tree.body_count(); ++i) {
        move_body(tree, i, v, a, gravity, bodies);
    }
}

// A placed body's own inertia.
template <typename S>
void weigh_body(const Body& b, BodyState<S>& state) {
    const Sym3<double>& t = b.tensor;
    const Sym3<S> own{S(t.xx), S(t.xy), S(t.xz), S(t.yy), S(t.yz), S(t.zz)};
    state.inertia = rigid_inertia(S(b.mass), state.pose * spread<S>(b.centre) - state.about,
                                  turned(state.pose.turn, own));
}

template <typename S>
void weigh_bodies(const Tree& tree, Bodies<S>& bodies) {
    for (Index i = 0; i < tree.body_count(); ++i) {
        weigh_body(tree.body(i), bodies[i]);
    }
}

// The force that moves a body as it moves.
template <typename S>
Wrench<S> force_of_motion(const BodyState<S>& state) {
    return state.inertia * state.acceleration +
           cross(state.velocity, state.inertia * state.velocity);
}

// A wrench about another point.
template <typename S>
Wrench<S> moved(const Wrench<S>& w, V3<S> from, V3<S> to) {
    return {w.moment + cross(from - to, w.force), w.force};
}

// Efforts (m,) from the force on each body: every body gets what its joint passes on.
template <typename S>
void load_joints(const Tree& tree, Bodies<S>& bodies, S* tau) {
    for (Index i = tree.body_count() - 1; i >= 0; --i) {
        const Body& b = tree.body(i);
        for (Index c = b.freedom; c < b.freedom + b.freedoms(); ++c) {
            tau[c] = dot(bodies.along(c), bodies[i].force);
        }
        if (b.parent >= 0) {
            BodyState<S>& parent = bodies[b.parent];
            parent.force =
                parent.force + (b.moves() && tree.tip(b.parent) < 0
                                    ? moved(bodies[i].force, bodies[i].about, parent.about)
                                    : bodies[i].force);
        }
    }
}

// Efforts of a motion, without any force from outside; drives' rotors included.
template <typename S>
void inverse_dynamics(const Tree& tree, const S* q, const S* v, const S* a, Vec3 gravity,
                      Bodies<S>& bodies, S* tau) {
    place_bodies(tree, q, bodies);
    move_bodies(tree, v, a, gravity, bodies);
    weigh_bodies(tree, bodies);
    for (BodyState<S>& state : bodies.body) {
        state.force = force_of_motion(state);
    }
    load_joints(tree, bodies, tau);
    for (Index c = 0; c < tree.freedom_count(); ++c) {
        tau[c] += S(tree.freedom(c).rotor) * a[c];
    }
}

// The mass matrix (m, m), of placed and weighed bodies; their inertias become those of all that
// they carry.
inline void mass_matrix(const Tree& tree, Bodies<double>& bodies, Grid<double> matrix) {
    std::fill(matrix.data, matrix.data + matrix.rows * matrix.columns, 0.0);
    for (Index i = tree.body_count() - 1; i >= 0; --i) {
        const Body& b = tree.body(i);
        for (Index c = b.freedom; c < b.freedom + b.freedoms(); ++c) {
            const Wrench<double> push = bodies[i].inertia * bodies.along(c);
            // All six of what floats, then those before it.
            for (Index d = b.freedom + b.freedoms() - 1; d >= 0; d = tree.freedom(d).before) {
                matrix(c, d) = matrix(d, c) = dot(bodies.along(d), push);
            }
            matrix(c, c) += tree.freedom(c).rotor;
        }
        if (b.parent >= 0 && tree.tip(b.parent) >= 0) {
            bodies[b.parent].inertia = bodies[b.parent].inertia + bodies[i].inertia;
        }
    }
}

inline double kinetic_energy(const Tree& tree, const Bodies<double>& bodies, const double* v) {
    double total = 0.0;
    for (const BodyState<double>& state : bodies.body) {
        total += 0.5 * dot(state.velocity, state.inertia * state.velocity);
    }
    for (Index c = 0; c < tree.freedom_count(); ++c) {
        total += 0.5 * tree.freedom(c).rotor * v[c] * v[c];
    }
    return total;
}

inline double potential_energy(const Bodies<double>& bodies, Vec3 gravity) {
    double total = 0.0;
    for (const BodyState<double>& state : bodies.body) {
        total -= dot(gravity, state.inertia.moment + state.inertia.mass * state.about);
    }
    return total;
}

}  // namespace mooring::dynamics
