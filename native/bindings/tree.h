// The compiled tree as Python holds it.
#pragma once

#include "bindings/arrays.h"
#include "dynamics/batch.h"
#include "overlaps/shapes.h"
#include "tree/tree.h"

namespace mooring::bindings {

// A tree with what computing on it needs.
struct KeptTree {
    tree::Tree tree;
    mutable dynamics::Workspaces workspaces;
};

// Rows of states, of any leading shape.
using States = nb::ndarray<const double, nb::c_contig, nb::device::cpu>;

// Where an answer goes.
using Room = nb::ndarray<double, nb::c_contig, nb::device::cpu>;

// Row k of (n, 3), (n, 3, 3) and (n, 4, 4).
inline Vec3 triple_at(const double* rows, std::size_t k) { return vec(rows + 3 * k); }
inline Mat3 matrix_at(const double* rows, std::size_t k) {
    const double* m = rows + 9 * k;
    return {{m[0], m[3], m[6]}, {m[1], m[4], m[7]}, {m[2], m[5], m[8]}};
}
inline Pose pose_at(const double* rows, std::size_t k) {
    const double* m = rows + 16 * k;
    return {{{m[0], m[4], m[8]}, {m[1], m[5], m[9]}, {m[2], m[6], m[10]}}, {m[3], m[7], m[11]}};
}

overlaps::Shapes shapes_of(nb::handle arrays);

// Rows of some width; refuses another one.
template <typename A>
auto rows_of(const A& array, Index width) {
    if (array.ndim() == 0 || static_cast<Index>(array.shape(array.ndim() - 1)) != width) {
        throw nb::value_error("states have another width than the tree");
    }
    const Index size = static_cast<Index>(array.size());
    using T = std::remove_pointer_t<decltype(array.data())>;
    return Grid<T>{array.data(), width == 0 ? 1 : size / width, width};
}
template <typename T>
T* state(const Array<T, 1>& array, Index width) {
    if (static_cast<Index>(array.shape(0)) != width) {
        throw nb::value_error("a state has another width than the tree");
    }
    return array.data();
}

}  // namespace mooring::bindings
