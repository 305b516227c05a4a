// What the compiled step can measure, without faults. A probe is one file and one line in
// `probes.cpp`; Python finds it by its name.
#pragma once

#include <span>
#include <string_view>

#include "simulation/island.h"

namespace mooring::simulation {

// The step that is measured.
struct Moment {
    const World& world;
    const State& state;
    // Poses and twists at the start of the step, with the mean accelerations over it.
    const Bodies<double>& start;
    // Poses at the end of the step, with the wrenches that joints transmit to their children.
    const Bodies<double>& end;
    std::span<const double> q;    // (n,) at the start of the step
    std::span<const double> tau;  // (m,) joint efforts
};

struct Probe {
    std::string_view name;
    bool needs_body, needs_freedom;  // which of a sensor's indices it uses
    std::size_t (*width)(const tree::Tree& tree);
    void (*measure)(const Moment& moment, const Sensor& sensor, std::span<double> out);
};

[[nodiscard]] std::span<const Probe* const> probes();
// Null if no probe has the name.
[[nodiscard]] const Probe* find_probe(std::string_view name);

// Write three numbers at the front of a span, and return what is left of it.
[[nodiscard]] inline std::span<double> put(std::span<double> out, Vec3 v) {
    out[0] = v.x;
    out[1] = v.y;
    out[2] = v.z;
    return out.subspan(3);
}

}  // namespace mooring::simulation
