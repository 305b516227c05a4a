// A rotor's thrust and moment by the square of its speed: blade element theory at rest.
#include <cmath>

#include "simulation/laws/all.h"

namespace mooring::simulation {

namespace {

Wrench<double> force(const Law& law, const LawState& state) {
    const dynamics::BodyState<double>& body = state.bodies[law.body];
    const double thrust_factor = law.numbers[0], moment_factor = law.numbers[1];
    const double w = state.v[law.freedom];
    const Vec3 axis = column((body.pose * law.on_body).turn, 2);
    const Vec3 arm = body.pose * law.on_body.place - body.about;
    const Wrench<double> thrust = force_at(arm, (thrust_factor * w * std::fabs(w)) * axis);
    return {thrust.moment - (moment_factor * w * std::fabs(w)) * axis, thrust.force};
}

}  // namespace

// Numbers: thrust and moment per squared speed.
const LawType kRotorLaw{"rotor", 2, true, false, force, nullptr};

}  // namespace mooring::simulation
