// Arrays that are attributes of Python's named tuples, checked for type, shape and values before
// the core sees them.
#pragma once

#include <cmath>
#include <string>

#include "bindings/arrays.h"

namespace mooring::bindings {

// Which numbers an array may hold: finite ones, or infinite ones too, for what has no limit.
enum class Values { finite, limits };

[[noreturn]] inline void refuse(const std::string& what) { throw nb::value_error(what.c_str()); }

inline double checked(double value, const char* name, Values values = Values::finite) {
    if (std::isnan(value) || (values == Values::finite && std::isinf(value))) {
        refuse(std::string(name) + " must be " +
               (values == Values::finite ? "finite" : "a number or infinite"));
    }
    return value;
}

template <typename A>
void check_values(const A& array, const char* name, Values values = Values::finite) {
    for (std::size_t k = 0; k < array.size(); ++k) {
        checked(array.data()[k], name, values);
    }
}

// An array of any length, such as the one that tells how many rows there are.
template <typename T, int N = 1>
Array<const T, N> field(nb::handle given, const char* name, Values values = Values::finite) {
    auto found = nb::cast<Array<const T, N>>(given.attr(name), false);
    if constexpr (std::is_floating_point_v<T>) {
        check_values(found, name, values);
    }
    return found;
}

template <typename A>
void check_shape(const A& array, std::initializer_list<std::size_t> shape, const char* name) {
    std::size_t axis = 0;
    for (const std::size_t size : shape) {
        if (array.shape(axis) != size) {
            refuse(std::string(name) + " has " + std::to_string(array.shape(axis)) +
                   " entries along axis " + std::to_string(axis) + ", expected " +
                   std::to_string(size));
        }
        ++axis;
    }
}

// (count,)
template <typename T>
Array<const T, 1> column(nb::handle given, const char* name, std::size_t count,
                         Values values = Values::finite) {
    const auto found = field<T, 1>(given, name, values);
    check_shape(found, {count}, name);
    return found;
}

// (rows, columns)
template <typename T>
Array<const T, 2> table(nb::handle given, const char* name, std::size_t rows, std::size_t columns,
                        Values values = Values::finite) {
    const auto found = field<T, 2>(given, name, values);
    check_shape(found, {rows, columns}, name);
    return found;
}

// (count, size, size)
inline Array<const double, 3> matrices(nb::handle given, const char* name, std::size_t count,
                                       std::size_t size) {
    const auto found = field<double, 3>(given, name);
    check_shape(found, {count, size, size}, name);
    return found;
}

inline Index checked_index(Index value, Index count, const char* what) {
    if (value < 0 || value >= count) {
        throw nb::index_error((std::string(what) + " " + std::to_string(value) + " is not one of " +
                               std::to_string(count))
                                  .c_str());
    }
    return value;
}

inline double number(nb::handle given, const char* name, Values values = Values::finite) {
    return checked(nb::cast<double>(given.attr(name)), name, values);
}

inline Index integer_from(Index value, Index least, Index most, const char* name) {
    if (value < least || value > most) {
        refuse(std::string(name) + " must be from " + std::to_string(least) + " to " +
               std::to_string(most) + ", got " + std::to_string(value));
    }
    return value;
}

inline Vec3 vector_of(nb::handle triple, const char* name) {
    const Vec3 v = vec_of(triple);
    return {checked(v.x, name), checked(v.y, name), checked(v.z, name)};
}

}  // namespace mooring::bindings
