// Codes of enumerations on their way from and to Python.
#pragma once

#include <string>

#include "bindings/arrays.h"
#include "geometry/codes.h"

namespace mooring::bindings {

// The codes by name.
template <typename E>
nb::dict codes() {
    nb::dict found;
    for (std::size_t k = 0; k < kCount<E>; ++k) {
        found[nb::str(Names<E>::names[k].data(), Names<E>::names[k].size())] = k;
    }
    return found;
}

template <typename E>
E code(Index value, const char* what) {
    if (value < 0 || value >= static_cast<Index>(kCount<E>)) {
        throw nb::value_error(
            (std::string(what) + " has no code " + std::to_string(value)).c_str());
    }
    return static_cast<E>(value);
}

}  // namespace mooring::bindings
