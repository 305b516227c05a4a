#include <algorithm>
#include <array>

#include "simulation/sensors/all.h"

namespace mooring::simulation {

std::span<const Probe* const> probes() {
    static constexpr std::array kAll{&kMotionProbe, &kPositionProbe, &kTorqueProbe,
                                     &kForceProbe,  &kContactProbe,  &kStateProbe};
    return kAll;
}

const Probe* find_probe(std::string_view name) {
    const auto all = probes();
    const auto found = std::ranges::find(all, name, [](const Probe* p) { return p->name; });
    return found == all.end() ? nullptr : *found;
}

}  // namespace mooring::simulation
