#include <algorithm>
#include <array>

#include "simulation/laws/all.h"

namespace mooring::simulation {

std::span<const LawType* const> law_types() {
    static constexpr std::array kAll{&kRotorLaw, &kDragLaw, &kBuoyancyLaw};
    return kAll;
}

const LawType* find_law_type(std::string_view name) {
    const auto all = law_types();
    const auto found = std::ranges::find(all, name, [](const LawType* t) { return t->name; });
    return found == all.end() ? nullptr : *found;
}

}  // namespace mooring::simulation
