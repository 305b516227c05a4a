// What functions here get of NumPy's arrays: a pointer and the sizes, row after row.
#pragma once

#include <cstdint>

#include "geometry/vec.h"

namespace mooring {

using Index = std::int64_t;

// (rows, columns)
template <typename T>
struct Grid {
    T* data;
    Index rows, columns;
    T& operator()(Index row, Index column) const { return data[row * columns + column]; }
};

// (rows, columns, 3)
template <typename T>
struct Pixels {
    T* data;
    Index rows, columns;
    T* operator()(Index row, Index column) const { return data + 3 * (row * columns + column); }
};

// (count, 3)
template <typename T>
struct Triples {
    T* data;
    Index count;
    T* operator[](Index row) const { return data + 3 * row; }
};

// Rounded down; without SSE 4.1, for which no processor is asked here, std::floor is a call.
inline Index floor_index(double value) {
    const auto cut = static_cast<Index>(value);
    return cut - (value < static_cast<double>(cut) ? 1 : 0);
}

inline Vec3 vec(const double* p) { return {p[0], p[1], p[2]}; }

}  // namespace mooring
