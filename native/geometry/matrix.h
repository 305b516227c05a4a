// Three-by-three matrices, and where a frame is.
#pragma once

#include "geometry/angles.h"
#include "geometry/vec.h"

namespace mooring {

// By its columns: of a rotation, the axes of the frame.
template <typename S>
struct M3 {
    V3<S> x, y, z;
};

using Mat3 = M3<double>;

template <typename S>
V3<S> operator*(const M3<S>& m, V3<S> v) {
    return {m.x.x * v.x + m.y.x * v.y + m.z.x * v.z, m.x.y * v.x + m.y.y * v.y + m.z.y * v.z,
            m.x.z * v.x + m.y.z * v.y + m.z.z * v.z};
}
template <typename S>
M3<S> operator*(const M3<S>& a, const M3<S>& b) {
    return {a * b.x, a * b.y, a * b.z};
}
// m^T v
template <typename S>
V3<S> back(const M3<S>& m, V3<S> v) {
    return {dot(m.x, v), dot(m.y, v), dot(m.z, v)};
}
template <typename S>
M3<S> operator+(const M3<S>& a, const M3<S>& b) {
    return {a.x + b.x, a.y + b.y, a.z + b.z};
}
template <typename S>
M3<S> operator-(const M3<S>& a, const M3<S>& b) {
    return {a.x - b.x, a.y - b.y, a.z - b.z};
}
template <typename S>
M3<S> transposed(const M3<S>& m) {
    return {{m.x.x, m.y.x, m.z.x}, {m.x.y, m.y.y, m.z.y}, {m.x.z, m.y.z, m.z.z}};
}

inline const Vec3& column(const Mat3& m, int k) { return k == 0 ? m.x : k == 1 ? m.y : m.z; }

constexpr Mat3 kIdentity{{1.0, 0.0, 0.0}, {0.0, 1.0, 0.0}, {0.0, 0.0, 1.0}};

template <typename S>
M3<S> spread(const Mat3& m) {
    return {{S(m.x.x), S(m.x.y), S(m.x.z)},
            {S(m.y.x), S(m.y.y), S(m.y.z)},
            {S(m.z.x), S(m.z.y), S(m.z.z)}};
}
template <typename S>
V3<S> spread(Vec3 v) {
    return {S(v.x), S(v.y), S(v.z)};
}

// Symmetric.
template <typename S>
struct Sym3 {
    S xx{}, xy{}, xz{}, yy{}, yz{}, zz{};
};

template <typename S>
V3<S> operator*(const Sym3<S>& m, V3<S> v) {
    return {m.xx * v.x + m.xy * v.y + m.xz * v.z, m.xy * v.x + m.yy * v.y + m.yz * v.z,
            m.xz * v.x + m.yz * v.y + m.zz * v.z};
}
template <typename S>
Sym3<S> operator+(const Sym3<S>& a, const Sym3<S>& b) {
    return {a.xx + b.xx, a.xy + b.xy, a.xz + b.xz, a.yy + b.yy, a.yz + b.yz, a.zz + b.zz};
}
// R m R^T
template <typename S>
Sym3<S> turned(const M3<S>& r, const Sym3<S>& m) {
    const V3<S> a = r * V3<S>{m.xx, m.xy, m.xz}, b = r * V3<S>{m.xy, m.yy, m.yz},
                c = r * V3<S>{m.xz, m.yz, m.zz};
    // The columns of R m are a, b, c; times the rows of R^T.
    return {a.x * r.x.x + b.x * r.y.x + c.x * r.z.x, a.x * r.x.y + b.x * r.y.y + c.x * r.z.y,
            a.x * r.x.z + b.x * r.y.z + c.x * r.z.z, a.y * r.x.y + b.y * r.y.y + c.y * r.z.y,
            a.y * r.x.z + b.y * r.y.z + c.y * r.z.z, a.z * r.x.z + b.z * r.y.z + c.z * r.z.z};
}

// Where a frame is: its axes, and its origin.
template <typename S>
struct P3 {
    M3<S> turn;
    V3<S> place;
};
using Pose = P3<double>;

template <typename S>
V3<S> operator*(const P3<S>& pose, V3<S> point) {
    return pose.place + pose.turn * point;
}
template <typename S>
P3<S> operator*(const P3<S>& a, const P3<S>& b) {
    return {a.turn * b.turn, a * b.place};
}

// A turn about a unit axis (Rodrigues).
template <typename S>
M3<S> turn_about(V3<S> axis, SineCosine<S> angle) {
    const S s = angle.sine, c = angle.cosine, d = S(1.0) - c;
    const S x = axis.x, y = axis.y, z = axis.z;
    return {{c + d * x * x, d * x * y + s * z, d * x * z - s * y},
            {d * x * y - s * z, c + d * y * y, d * y * z + s * x},
            {d * x * z + s * y, d * y * z - s * x, c + d * z * z}};
}

// (x, y, z, w), of length one.
template <typename S>
M3<S> turn_of(S x, S y, S z, S w) {
    const S two(2.0), one(1.0);
    return {{one - two * (y * y + z * z), two * (x * y + z * w), two * (x * z - y * w)},
            {two * (x * y - z * w), one - two * (x * x + z * z), two * (y * z + x * w)},
            {two * (x * z + y * w), two * (y * z - x * w), one - two * (x * x + y * y)}};
}

// The rotation vector of a rotation; short of half a turn.
inline Vec3 rotation_vector(const Mat3& r) {
    const Vec3 half{0.5 * (r.y.z - r.z.y), 0.5 * (r.z.x - r.x.z), 0.5 * (r.x.y - r.y.x)};
    const double squared = dot(half, half), cosine = 0.5 * (r.x.x + r.y.y + r.z.z - 1.0);
    if (squared < 1e-4 && cosine > 0.0) {
        // The arc sine over the sine, as a series: the next term is below 1e-21.
        const double z = squared;
        return (1.0 +
                z * (1.0 / 6.0 + z * (3.0 / 40.0 + z * (15.0 / 336.0 + z * 105.0 / 3456.0)))) *
               half;
    }
    const double sine = std::sqrt(squared);
    return sine < 1e-9 ? half : (std::atan2(sine, cosine) / sine) * half;
}

struct Quaternion {
    double x, y, z, w;
};
// Of a rotation, w not less than zero: by the largest of its four numbers (Shepperd 1978).
inline Quaternion quaternion_of(const Mat3& r) {
    const double a = r.x.x, b = r.y.y, c = r.z.z;
    Quaternion q{};
    if (a + b + c > std::fmax(a, std::fmax(b, c))) {
        q = {r.y.z - r.z.y, r.z.x - r.x.z, r.x.y - r.y.x, 1.0 + a + b + c};
    } else if (a >= b && a >= c) {
        q = {1.0 + a - b - c, r.x.y + r.y.x, r.z.x + r.x.z, r.y.z - r.z.y};
    } else if (b >= c) {
        q = {r.x.y + r.y.x, 1.0 - a + b - c, r.y.z + r.z.y, r.z.x - r.x.z};
    } else {
        q = {r.z.x + r.x.z, r.y.z + r.z.y, 1.0 - a - b + c, r.x.y - r.y.x};
    }
    const double length = std::sqrt(q.x * q.x + q.y * q.y + q.z * q.z + q.w * q.w);
    const double over = (q.w < 0.0 ? -1.0 : 1.0) / length;
    return {over * q.x, over * q.y, over * q.z, over * q.w};
}

// Two unit vectors across a unit vector and each other, right-handed with it.
struct Across {
    Vec3 u, v;
};
inline Across across(Vec3 n) {
    const Vec3 some = std::fabs(n.x) < 0.6 ? Vec3{0.0, n.z, -n.y} : Vec3{-n.z, 0.0, n.x};
    const Vec3 u = some / norm(some);
    return {u, cross(n, u)};
}

}  // namespace mooring
