// What motors and their drives do in an island's step.
#include <algorithm>
#include <cmath>

#include "simulation/island.h"

namespace mooring::simulation {

namespace {

std::size_t z(Index k) { return static_cast<std::size_t>(k); }

}  // namespace

// What a drive makes of what it saw and was told some time ago, if it looks now.
Demand IslandSolver::look(Index k, Target target, double told) {
    const Motor& motor = world_->motors[z(k)];
    const auto motors = static_cast<Index>(world_->motors.size());
    const Index places = world_->looks(), now = state_->steps % places;
    const auto at = [&](Index what, Index place) -> double& {
        return state_->seen[z((what * motors + k) * places + place)];
    };
    const std::size_t c = z(motor.freedom);
    const double finest = motor.resolution;
    const bool own = motor.geared() && motor.by_rotor;
    const double position =
        own ? state_->rotor[z(k)] : state_->q[z(world_->tree.freedom(motor.freedom).position)];
    at(0, now) = target.position;
    at(1, now) = target.velocity;
    at(2, now) = finest > 0.0 ? finest * std::round(position / finest) : position;
    at(3, now) = own ? state_->rotor_speed[z(k)] : state_->v[c];
    if (finest > 0.0) {
        // A speed is the difference of what is seen.
        const Index last = (now + places - motor.period) % places;
        const double span = h_ * static_cast<double>(motor.period);
        at(3, now) = std::isfinite(at(2, last)) ? (at(2, now) - at(2, last)) / span : at(3, now);
    }
    if (state_->steps % motor.period == 0 || !std::isfinite(state_->acting[z(k)])) {
        Index then = (now + places - motor.delay) % places;
        then = std::isfinite(at(0, then)) ? then : now;
        const Demand wanted = demand_of(motor, {at(0, then), at(1, then)}, told, at(2, then),
                                        state_->integral[z(k)], {});
        state_->acting[z(k)] = wanted.base - wanted.fall * at(3, then);
    }
    return {state_->acting[z(k)], 0.0};
}

// What a motor does, at the limit it is thought to be at.
Demand IslandSolver::given_by(Index k) {
    const Index limit = state_->saturated[z(k)];
    Demand& given = space_->given[z(k)];
    given = space_->demands[z(k)];
    if (limit != 0) {
        given = Envelope(world_->motors[z(k)], given, kSpeedBand).given(limit);
    }
    return given;
}

// Rotors behind gears with play or give: what their motors make of them by themselves.
void IslandSolver::load_rotors(Index own) {
    StepSpace& s = *space_;
    for (const Index k : (*mechanisms_)[own].rotors) {
        const Motor& motor = world_->motors[z(k)];
        const bool on = is_on(*state_, k);
        const Demand given = on ? given_by(k) : Demand{0.0, 0.0};
        const double speed = state_->rotor_speed[z(k)];
        s.rotor_mass[z(k)] = motor.rotor + h_ * given.fall;
        s.rotor_free[z(k)] = speed + h_ * (given.base - given.fall * speed) / s.rotor_mass[z(k)];
    }
}

// Find out which motors are at their limits at the speeds reached; whether any that was thought to
// be is not, or the other way round.
bool IslandSolver::resaturate(Index own) {
    bool changed = false;
    for (const Index k : (*mechanisms_)[own].motors) {
        const Motor& motor = world_->motors[z(k)];
        if (motor.mode == Mode::motion) {
            continue;
        }
        const Demand& demand = space_->demands[z(k)];
        const Index now =
            limit_of(motor, demand, Envelope(motor, demand, kSpeedBand),
                     motor.geared() ? space_->rotor_end[z(k)] : space_->v[z(motor.freedom)],
                     state_->saturated[z(k)]);
        changed = changed || now != state_->saturated[z(k)];
        state_->saturated[z(k)] = now;
    }
    return changed;
}

}  // namespace mooring::simulation
