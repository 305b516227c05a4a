// Drag of a medium at rest: linear and quadratic in the speed, and linear in the turning speed.
#include "simulation/laws/all.h"

namespace mooring::simulation {

namespace {

double drag_per_speed(const Law& law, double speed) {
    return law.numbers[0] + law.numbers[1] * speed;
}

Wrench<double> force(const Law& law, const LawState& state) {
    const PointOfAction point = point_of_action(law, state.bodies, state.twist);
    const Wrench<double> held =
        force_at(point.arm, -drag_per_speed(law, norm(point.velocity)) * point.velocity);
    return {held.moment - law.numbers[2] * state.twist.angular, held.force};
}

ArticulatedInertia<double> resistance(const Law& law, const Bodies<double>& bodies,
                                      const Twist<double>& twist, double step) {
    const PointOfAction point = point_of_action(law, bodies, twist);
    const double turning = step * law.numbers[2];
    return articulated(rigid_inertia(step * drag_per_speed(law, norm(point.velocity)), point.arm,
                                     Sym3<double>{turning, 0.0, 0.0, turning, 0.0, turning}));
}

}  // namespace

// Numbers: force per speed, force per squared speed, moment per turning speed.
const LawType kDragLaw{"drag", 3, false, false, force, resistance};

}  // namespace mooring::simulation
