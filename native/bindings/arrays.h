// NumPy's arrays as they come in: C order, checked by nanobind.
#pragma once

#include <nanobind/nanobind.h>
#include <nanobind/ndarray.h>

#include <utility>
#include <vector>

#include "geometry/views.h"

namespace mooring::bindings {

namespace nb = nanobind;

template <typename T, int N>
using Array = nb::ndarray<T, nb::ndim<N>, nb::c_contig, nb::device::cpu>;

template <typename T>
Grid<T> grid(const Array<T, 2>& array) {
    return {array.data(), static_cast<Index>(array.shape(0)), static_cast<Index>(array.shape(1))};
}

template <typename T>
Pixels<T> pixels(const Array<T, 3>& array) {
    if (array.shape(2) != 3) {
        throw nb::value_error("expected an array (rows, columns, 3)");
    }
    return {array.data(), static_cast<Index>(array.shape(0)), static_cast<Index>(array.shape(1))};
}

template <typename T>
Triples<T> triples(const Array<T, 2>& array) {
    if (array.shape(1) != 3) {
        throw nb::value_error("expected an array (count, 3)");
    }
    return {array.data(), static_cast<Index>(array.shape(0))};
}

// An array that keeps its numbers.
template <typename T>
nb::object given_away(std::vector<T>&& values, std::size_t columns, bool flat = false) {
    auto* kept = new std::vector<T>(std::exchange(values, {}));
    const nb::capsule owner(kept, [](void* p) noexcept { delete static_cast<std::vector<T>*>(p); });
    const std::size_t rows = columns == 0 ? 0 : kept->size() / columns;
    if (flat) {
        return nb::cast(nb::ndarray<nb::numpy, T>(kept->data(), {rows}, owner));
    }
    return nb::cast(nb::ndarray<nb::numpy, T>(kept->data(), {rows, columns}, owner));
}

inline Vec3 vec_of(nb::handle triple) {
    return {nb::cast<double>(triple[0]), nb::cast<double>(triple[1]), nb::cast<double>(triple[2])};
}

inline std::vector<double> copied(const Array<const double, 1>& values) {
    return {values.data(), values.data() + values.size()};
}

}  // namespace mooring::bindings
