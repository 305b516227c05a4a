// Enumerations that Python names. The names stand once, beside the enumeration; Python gets the
// codes from here, and a code that is not among them is refused (`bindings/codes.h`).
#pragma once

#include <array>
#include <string_view>

namespace mooring {

// Specialised by each enumeration whose values run from 0: `names`, in the order of the values.
template <typename E>
struct Names;

template <typename E>
inline constexpr std::size_t kCount = Names<E>::names.size();

}  // namespace mooring
