// Archimedes: each piece under water lifts the weight of what it displaces; at the surface, a
// share.
#include <algorithm>

#include "simulation/laws/all.h"

namespace mooring::simulation {

namespace {

Wrench<double> force(const Law& law, const LawState& state) {
    const dynamics::BodyState<double>& body = state.bodies[law.body];
    const double density = law.numbers[0], level = law.numbers[1], edge = law.numbers[2];
    Wrench<double> lift{};
    for (std::size_t k = 0; k < law.points.size(); ++k) {
        const Vec3 point = body.pose * law.points[k];
        const double under = std::clamp((level - point.z) / edge + 0.5, 0.0, 1.0);
        lift = lift +
               force_at(point - body.about, (-density * law.volumes[k] * under) * state.gravity);
    }
    return lift;
}

}  // namespace

// Numbers: density of the water, its level, the edge of a piece.
const LawType kBuoyancyLaw{"buoyancy", 3, false, true, force, nullptr};

}  // namespace mooring::simulation
