// Spatial vectors and inertias (Featherstone, Rigid Body Dynamics Algorithms, 2008, chapter 2), in
// world axes and about a point that is told with them. Angular parts come first.
#pragma once

#include "geometry/matrix.h"

namespace mooring {

// A velocity or an acceleration.
template <typename S>
struct Twist {
    V3<S> angular, linear;
};
// A force, or a momentum.
template <typename S>
struct Wrench {
    V3<S> moment, force;
};

template <typename S>
Twist<S> operator+(const Twist<S>& a, const Twist<S>& b) {
    return {a.angular + b.angular, a.linear + b.linear};
}
template <typename S>
Twist<S> operator-(const Twist<S>& a, const Twist<S>& b) {
    return {a.angular - b.angular, a.linear - b.linear};
}
template <typename S>
Twist<S> operator*(S s, const Twist<S>& a) {
    return {s * a.angular, s * a.linear};
}
template <typename S>
Wrench<S> operator+(const Wrench<S>& a, const Wrench<S>& b) {
    return {a.moment + b.moment, a.force + b.force};
}
template <typename S>
Wrench<S> operator-(const Wrench<S>& a, const Wrench<S>& b) {
    return {a.moment - b.moment, a.force - b.force};
}
template <typename S>
Wrench<S> operator-(const Wrench<S>& a) {
    return {-a.moment, -a.force};
}
template <typename S>
Wrench<S> operator*(S s, const Wrench<S>& a) {
    return {s * a.moment, s * a.force};
}
// Power.
template <typename S>
S dot(const Twist<S>& a, const Wrench<S>& b) {
    return dot(a.angular, b.moment) + dot(a.linear, b.force);
}
// How a motion vector changes that goes along with velocity v.
template <typename S>
Twist<S> cross(const Twist<S>& v, const Twist<S>& m) {
    return {cross(v.angular, m.angular), cross(v.angular, m.linear) + cross(v.linear, m.angular)};
}
// The same of a force vector.
template <typename S>
Wrench<S> cross(const Twist<S>& v, const Wrench<S>& f) {
    return {cross(v.angular, f.moment) + cross(v.linear, f.force), cross(v.angular, f.force)};
}
// The velocity of a point, told from where twists are about.
template <typename S>
V3<S> at(const Twist<S>& v, V3<S> point) {
    return v.linear + cross(v.angular, point);
}

// The force f at a point.
inline Wrench<double> force_at(Vec3 point, Vec3 f) { return {cross(point, f), f}; }

// Of a rigid body, or of several together.
template <typename S>
struct RigidInertia {
    S mass{};
    V3<S> moment;    // mass times centre
    Sym3<S> tensor;  // about the point
};

template <typename S>
RigidInertia<S> operator+(const RigidInertia<S>& a, const RigidInertia<S>& b) {
    return {a.mass + b.mass, a.moment + b.moment, a.tensor + b.tensor};
}
template <typename S>
Wrench<S> operator*(const RigidInertia<S>& i, const Twist<S>& v) {
    return {i.tensor * v.angular + cross(i.moment, v.linear),
            i.mass * v.linear - cross(i.moment, v.angular)};
}

// From a tensor about the centre of mass, in world axes.
template <typename S>
RigidInertia<S> rigid_inertia(S m, V3<S> c, const Sym3<S>& own) {
    return {m,
            m * c,
            {own.xx + m * (c.y * c.y + c.z * c.z), own.xy - m * c.x * c.y, own.xz - m * c.x * c.z,
             own.yy + m * (c.x * c.x + c.z * c.z), own.yz - m * c.y * c.z,
             own.zz + m * (c.x * c.x + c.y * c.y)}};
}

// Of a body with all that hangs on it (Featherstone 2008, 7.2): moment by angular acceleration,
// moment by linear acceleration, force by linear acceleration.
template <typename S>
struct ArticulatedInertia {
    Sym3<S> a;
    M3<S> b;
    Sym3<S> c;
};

template <typename S>
ArticulatedInertia<S> articulated(const RigidInertia<S>& i) {
    const S o(0.0);
    const V3<S> h = i.moment;
    return {i.tensor,
            {{o, h.z, -h.y}, {-h.z, o, h.x}, {h.y, -h.x, o}},
            {i.mass, o, o, i.mass, o, i.mass}};
}
template <typename S>
ArticulatedInertia<S> operator+(const ArticulatedInertia<S>& i, const ArticulatedInertia<S>& j) {
    return {i.a + j.a, i.b + j.b, i.c + j.c};
}
template <typename S>
Wrench<S> operator*(const ArticulatedInertia<S>& i, const Twist<S>& v) {
    return {i.a * v.angular + i.b * v.linear, back(i.b, v.angular) + i.c * v.linear};
}
// Less u u^T.
template <typename S>
ArticulatedInertia<S> without(const ArticulatedInertia<S>& i, const Wrench<S>& u) {
    const V3<S> n = u.moment, f = u.force;
    return {{i.a.xx - n.x * n.x, i.a.xy - n.x * n.y, i.a.xz - n.x * n.z, i.a.yy - n.y * n.y,
             i.a.yz - n.y * n.z, i.a.zz - n.z * n.z},
            {i.b.x - f.x * n, i.b.y - f.y * n, i.b.z - f.z * n},
            {i.c.xx - f.x * f.x, i.c.xy - f.x * f.y, i.c.xz - f.x * f.z, i.c.yy - f.y * f.y,
             i.c.yz - f.y * f.z, i.c.zz - f.z * f.z}};
}

}  // namespace mooring
