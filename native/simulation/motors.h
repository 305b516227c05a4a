// What motors do in a step: an effort that falls with the speed reached by its end.
#pragma once

#include "simulation/world.h"

namespace mooring::simulation {

// What a motor would give: base - fall * speed, whatever its limits.
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

// When gains are taken: the position's so much later [s], the speed's by a share of how it changes
// from what it is.
struct Lateness {
    double later = 0.0, easing = 1.0, speed = 0.0;
};

// Args: told, added by commands and gravity feed-forward; q, the position; integral, of its error.
inline Demand demand_of(const Motor& motor, Target target, double told, double q, double integral,
                        const Lateness& when) {
    if (motor.mode != Mode::position && motor.mode != Mode::velocity) {
        return {told, 0.0};
    }
    const double d = motor.d, fall = when.easing * d;
    const double held = told - (d - fall) * when.speed;
    if (motor.mode == Mode::velocity) {
        const double rate = std::min(motor.speed, std::max(-motor.speed, target.velocity));
        return {held + d * rate, fall};
    }
    const double ahead = target.position + when.later * target.velocity;
    const double pull = motor.p * (ahead - q) + motor.i * integral;
    return {held + pull + d * target.velocity, fall + when.later * motor.p};
}

// What keeps a motor's limits. Up to its speed limit it may give all its effort; beyond, its effort
// that way falls to nothing within a share of the limit, and then brakes.
class Governor {
  public:
    Governor(const Motor& motor, const Demand& demand, double band)
        : effort_(motor.effort), capped_(std::isfinite(motor.speed) && motor.speed > 0.0) {
        if (capped_) {
            const double full = std::isfinite(effort_) ? effort_ : std::fabs(demand.base) + 1e-9;
            gain = full / (band * motor.speed);
            top = (1.0 + band) * motor.speed;
        }
    }

    // The most it gives in a sense (1 or -1) at a speed, by its speed limit.
    double room(double sense, double speed) const {
        return capped_ ? gain * (top - sense * speed) : HUGE_VAL;
    }
    double limited(double wanted, double speed) const {
        return std::min(std::min(effort_, room(1.0, speed)),
                        std::max(std::max(-effort_, -room(-1.0, speed)), wanted));
    }

    double gain = 0.0, top = 0.0;

  private:
    double effort_;
    bool capped_;
};

constexpr double kGovernorBand = 0.01;
// Without an implicit step a steep governor would be unstable.
constexpr double kSmoothGovernorBand = 0.1;

// Which limit a motor is at: 0 for none, 1 or -1 for an end of its effort, 2 or -2 for its speed.
// `now` is which it was thought to be at.
inline Index limit_of(const Motor& motor, const Demand& demand, const Governor& governor,
                      double speed, Index now) {
    const double slack = std::isfinite(motor.effort) ? 1e-9 * motor.effort : 0.0;
    const double wanted = demand.base - demand.fall * speed;
    if (now == 0) {
        for (const Index sense : {1, -1}) {
            const auto s = static_cast<double>(sense);
            const double room = governor.room(s, speed);
            if (s * wanted > std::min(motor.effort, room) + slack) {
                return room < motor.effort ? 2 * sense : sense;
            }
        }
        return 0;
    }
    const Index sense = now > 0 ? 1 : -1;
    const auto s = static_cast<double>(sense);
    const double room = governor.room(s, speed), given = now == sense ? motor.effort : room;
    if (s * wanted < given - slack) {
        return 0;
    }
    return room < motor.effort - slack ? 2 * sense : sense;
}

}  // namespace mooring::simulation
