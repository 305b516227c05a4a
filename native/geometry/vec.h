// Vectors of three numbers. S is double, or Lanes: several states side by side.
#pragma once

#include <cmath>

namespace mooring {

template <typename S>
struct V3 {
    S x{}, y{}, z{};
};

using Vec3 = V3<double>;

template <typename S>
constexpr V3<S> operator+(V3<S> a, V3<S> b) {
    return {a.x + b.x, a.y + b.y, a.z + b.z};
}
template <typename S>
constexpr V3<S> operator-(V3<S> a, V3<S> b) {
    return {a.x - b.x, a.y - b.y, a.z - b.z};
}
template <typename S>
constexpr V3<S> operator-(V3<S> a) {
    return {-a.x, -a.y, -a.z};
}
template <typename S, typename F>
constexpr V3<S> operator*(F s, V3<S> a) {
    return {s * a.x, s * a.y, s * a.z};
}
template <typename S, typename F>
constexpr V3<S> operator/(V3<S> a, F s) {
    return {a.x / s, a.y / s, a.z / s};
}
template <typename S>
constexpr V3<S>& operator+=(V3<S>& a, V3<S> b) {
    return a = a + b;
}
template <typename S>
constexpr V3<S>& operator-=(V3<S>& a, V3<S> b) {
    return a = a - b;
}
template <typename S>
constexpr S dot(V3<S> a, V3<S> b) {
    return a.x * b.x + a.y * b.y + a.z * b.z;
}
template <typename S>
constexpr V3<S> cross(V3<S> a, V3<S> b) {
    return {a.y * b.z - a.z * b.y, a.z * b.x - a.x * b.z, a.x * b.y - a.y * b.x};
}
inline double norm(Vec3 a) { return std::sqrt(dot(a, a)); }

inline double component(Vec3 a, int k) { return k == 0 ? a.x : k == 1 ? a.y : a.z; }

}  // namespace mooring
