#include "simulation/laws.h"

#include <algorithm>
#include <cmath>

namespace mooring::simulation {

namespace {

// Drag against a motion of a speed: linear and quadratic together, per speed.
double drag_per_speed(const Law& law, double speed) { return law.a + law.b * speed; }

struct Place {
    Vec3 arm, speed;
};
Place place_of(const Law& law, const Bodies<double>& bodies, const Twist<double>& twist) {
    const dynamics::BodyState<double>& body = bodies[law.body];
    const Vec3 arm = body.pose * law.on_body.place - body.about;
    return {arm, at(twist, arm)};
}

}  // namespace

Wrench<double> force_of(const Law& law, const Bodies<double>& bodies, const Twist<double>& twist,
                        const double* v, Vec3 gravity) {
    const dynamics::BodyState<double>& body = bodies[law.body];
    if (law.kind == Pushes::rotor) {
        // Blade element theory at rest: thrust and moment go with the square of the speed.
        const double w = v[law.freedom];
        const Vec3 axis = column((body.pose * law.on_body).turn, 2);
        const Vec3 arm = body.pose * law.on_body.place - body.about;
        const Wrench<double> thrust = force_at(arm, (law.a * w * std::fabs(w)) * axis);
        return {thrust.moment - (law.b * w * std::fabs(w)) * axis, thrust.force};
    }
    if (law.kind == Pushes::drag) {
        const Place place = place_of(law, bodies, twist);
        const Wrench<double> held =
            force_at(place.arm, -drag_per_speed(law, norm(place.speed)) * place.speed);
        return {held.moment - law.c * twist.angular, held.force};
    }
    // Archimedes: each piece under water lifts what it displaces; at the surface, its share.
    Wrench<double> lift{};
    for (std::size_t k = 0; k < law.points.size(); ++k) {
        const Vec3 point = body.pose * law.points[k];
        const double under = std::clamp((law.b - point.z) / law.c + 0.5, 0.0, 1.0);
        lift = lift + force_at(point - body.about, (-law.a * law.volumes[k] * under) * gravity);
    }
    return lift;
}

ArticulatedInertia<double> resistance_of(const Law& law, const Bodies<double>& bodies,
                                         const Twist<double>& twist, double step) {
    const Place place = place_of(law, bodies, twist);
    const double turning = step * law.c;
    return articulated(rigid_inertia(step * drag_per_speed(law, norm(place.speed)), place.arm,
                                     Sym3<double>{turning, 0.0, 0.0, turning, 0.0, turning}));
}

}  // namespace mooring::simulation
