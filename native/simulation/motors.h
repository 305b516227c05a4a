// What motors do in a step: an effort that falls with the speed reached by its end.
#pragma once

#include "simulation/world.h"

namespace mooring::simulation {

// The effort is base - fall * speed, up to its limit.
struct Demand {
    double base, fall;
};

struct Target {
    double position, velocity;
};

inline Target target_of(const Commands& commands, std::size_t k, const Motor& motor,
                        const double* position, const double* velocity) {
    if (commands.held[k]) {
        return {commands.position[k], commands.velocity[k]};
    }
    return {position[motor.freedom], velocity[motor.freedom]};
}

// Args: told, added by commands and gravity feed-forward; q, the position; h, the step, 0 for the
// effort right now; integral, of the position error.
inline Demand demand_of(const Motor& motor, Target target, double told, double q, double h,
                        double integral) {
    const double d = motor.d;
    if (motor.mode == Mode::velocity) {
        const double rate = std::min(motor.speed, std::max(-motor.speed, target.velocity));
        return {told + d * rate, d};
    }
    if (motor.mode != Mode::position) {
        return {told, 0.0};
    }
    const double pull = motor.p * (target.position - q) + motor.i * integral;
    const double aim = pull + d * target.velocity;
    // Like a servo drive's: the speed that it aims for has a limit.
    if (d > 0.0 && std::fabs(aim) > d * motor.speed) {
        return {told + (aim > 0.0 ? d : -d) * motor.speed, d};
    }
    return {told + aim, d + h * motor.p};
}

inline double limited(double effort, double limit) {
    return std::min(limit, std::max(-limit, effort));
}

// At which end of its effort a motor is, which was thought to be at `now`.
inline Index saturation(const Motor& motor, double wanted, Index now) {
    const double slack = 1e-9 * motor.effort;
    if (now == 0) {
        return wanted > motor.effort + slack ? 1 : wanted < -motor.effort - slack ? -1 : 0;
    }
    return static_cast<double>(now) * wanted < motor.effort - slack ? 0 : now;
}

}  // namespace mooring::simulation
