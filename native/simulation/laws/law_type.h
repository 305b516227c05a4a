// Force laws. A law type is one file and one line in `law_types.cpp`; Python finds it by its name.
#pragma once

#include <span>
#include <string_view>

#include "simulation/rows.h"
#include "simulation/world.h"

namespace mooring::simulation {

// The motion that a law's force depends on.
struct LawState {
    const Bodies<double>& bodies;
    const Twist<double>& twist;  // of the law's body, about the body's point
    const double* v;             // (m,)
    Vec3 gravity;
};

struct LawType {
    std::string_view name;
    std::size_t numbers;  // how many coefficients it has
    bool needs_freedom;   // whether it depends on the speed of a freedom
    bool needs_points;    // whether it acts on pieces of a volume
    // The force on the body, about the body's point.
    Wrench<double> (*force)(const Law& law, const LawState& state);
    // Of a dissipative law: what it adds to the inertia of its body over a step, so that the force
    // is taken at the end of the step. Null for the others. The work of a dissipative law is booked
    // as damping, that of the others as put in.
    ArticulatedInertia<double> (*resistance)(const Law& law, const Bodies<double>& bodies,
                                             const Twist<double>& twist, double step);

    [[nodiscard]] bool dissipates() const { return resistance != nullptr; }
};

[[nodiscard]] std::span<const LawType* const> law_types();
// Null if no law has the name.
[[nodiscard]] const LawType* find_law_type(std::string_view name);

// The application point of a law, from its body's point, and the velocity there.
struct PointOfAction {
    Vec3 arm, velocity;
};
[[nodiscard]] inline PointOfAction point_of_action(const Law& law, const Bodies<double>& bodies,
                                                   const Twist<double>& twist) {
    const dynamics::BodyState<double>& body = bodies[law.body];
    const Vec3 arm = body.pose * law.on_body.place - body.about;
    return {arm, at(twist, arm)};
}

}  // namespace mooring::simulation
