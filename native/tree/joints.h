// What the joints do: frames from positions, and positions from velocities.
#pragma once

#include "tree/tree.h"

namespace mooring::tree {

// The frame of a body in its parent's.
template <typename S>
P3<S> joint_frame(const Body& body, const S* q) {
    const M3<S> fixed = spread<S>(body.joint.turn);
    const V3<S> place = spread<S>(body.joint.place), axis = spread<S>(body.axis);
    const S* own = q + (body.coordinate < 0 ? 0 : body.coordinate);
    switch (body.kind) {
        case Kind::revolute:
            return {fixed * turn_about(axis, sine_cosine(*own)), place};
        case Kind::prismatic:
            return {fixed, place + fixed * (*own * axis)};
        case Kind::floating:
            return {fixed * turn_of(own[3], own[4], own[5], own[6]),
                    place + fixed * V3<S>{own[0], own[1], own[2]}};
        default:
            return {fixed, place};
    }
}

// The coordinate of each freedom (m,); zero for those of floating joints.
inline void joint_positions(const Tree& tree, const double* q, double* positions) {
    for (const Freedom& f : tree.freedoms) {
        *positions++ = f.position < 0 ? 0.0 : q[f.position];
    }
}

inline Vec3 turned(const double* quaternion, Vec3 v) {
    const Vec3 axis = vec(quaternion), twice = 2.0 * cross(axis, v);
    return v + quaternion[3] * twice + cross(axis, twice);
}

// Take back what rounding and integration did to the length of a quaternion.
inline void make_unit(double* r) {
    const double over = 1.0 / std::sqrt(r[0] * r[0] + r[1] * r[1] + r[2] * r[2] + r[3] * r[3]);
    for (int k = 0; k < 4; ++k) {
        r[k] *= over;
    }
}

// Turn a quaternion by a rotation vector in its own axes.
inline void turn_by(double* r, Vec3 way) {
    const double half = 0.5 * norm(way);
    const SineCosine<double> of = sine_cosine(half);
    const double share = half > 1e-12 ? 0.5 * of.sine / half : 0.5;
    const Vec3 a = vec(r), b = share * way;
    const double w = r[3];
    const Vec3 turned_axis = w * b + of.cosine * a + cross(a, b);
    r[0] = turned_axis.x;
    r[1] = turned_axis.y;
    r[2] = turned_axis.z;
    r[3] = w * of.cosine - dot(a, b);
    make_unit(r);
}

// Where what floats goes: along a straight line, turning about a fixed axis.
inline void move_floating(double* q, const double* v, double time) {
    const Vec3 way = time * turned(q + 3, vec(v + 3));
    q[0] += way.x;
    q[1] += way.y;
    q[2] += way.z;
    turn_by(q + 3, time * vec(v));
}

// Replace q (n,) by where velocities v (m,), kept for a time, lead.
inline void move(const Tree& tree, double* q, const double* v, double time) {
    for (const Body& body : tree.bodies) {
        if (body.kind == Kind::floating) {
            move_floating(q + body.coordinate, v + body.freedom, time);
        } else if (body.moves()) {
            q[body.coordinate] += time * v[body.freedom];
        }
    }
}

// The time derivative (n,) of q.
inline void rates(const Tree& tree, const double* q, const double* v, double* out) {
    for (const Body& body : tree.bodies) {
        if (body.kind == Kind::floating) {
            const double* at = q + body.coordinate;
            const double* speed = v + body.freedom;
            double* rate = out + body.coordinate;
            const Vec3 way = turned(at + 3, vec(speed + 3)), half = 0.5 * vec(speed);
            const Vec3 turning = at[6] * half + cross(vec(at + 3), half);
            rate[0] = way.x;
            rate[1] = way.y;
            rate[2] = way.z;
            rate[3] = turning.x;
            rate[4] = turning.y;
            rate[5] = turning.z;
            rate[6] = -dot(vec(at + 3), half);
        } else if (body.moves()) {
            out[body.coordinate] = v[body.freedom];
        }
    }
}

inline void unit_quaternions(const Tree& tree, double* q) {
    for (const Body& body : tree.bodies) {
        if (body.kind == Kind::floating) {
            make_unit(q + body.coordinate + 3);
        }
    }
}

}  // namespace mooring::tree
