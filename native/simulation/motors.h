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

// What keeps a motor's limits: the most it gives in a sense falls with its speed that way, in
// pieces that are straight. Up to its speed limit it is its largest effort, or what its
// torque-speed curve leaves of that; beyond, it falls to nothing within a share of the limit, and
// then brakes with no more than its largest effort.
class Envelope {
  public:
    // Pieces in the order in which they come as the speed grows.
    static constexpr Index kPieces = 4;

    Envelope(const Motor& motor, const Demand& demand, double band) {
        const bool capped = std::isfinite(motor.speed) && motor.speed > 0.0;
        const bool weakens = std::isfinite(motor.stall) && std::isfinite(motor.no_load);
        const double full =
            std::isfinite(motor.effort) ? motor.effort : std::fabs(demand.base) + 1e-9;
        const double gain = capped ? full / (band * motor.speed) : 0.0;
        there_[1] = weakens;
        there_[2] = capped;
        there_[3] = std::isfinite(motor.effort) && (capped || weakens);
        pieces_[0] = {motor.effort, 0.0};
        pieces_[1] = {motor.stall, weakens ? motor.stall / motor.no_load : 0.0};
        pieces_[2] = {gain * (1.0 + band) * motor.speed, gain};
        pieces_[3] = {-motor.effort, 0.0};
    }

    // Which piece tells the most it gives at a speed in its sense.
    Index piece(double speed) const {
        Index found = 0;
        for (Index k = 1; k < 3; ++k) {
            found = there_[k] && at(k, speed) < at(found, speed) ? k : found;
        }
        return there_[3] && at(found, speed) < pieces_[3].base ? 3 : found;
    }
    double most(double speed) const { return at(piece(speed), speed); }
    // The next piece from one towards another.
    Index towards(Index from, Index to) const {
        while (from != to) {
            from += to > from ? 1 : -1;
            if (there_[from]) {
                break;
            }
        }
        return from;
    }
    // What a motor does at a limit; see `limit_of`.
    Demand given(Index limit) const {
        const Demand& piece = pieces_[std::abs(limit) - 1];
        return {limit > 0 ? piece.base : -piece.base, piece.fall};
    }
    double limited(double wanted, double speed) const {
        return std::min(most(speed), std::max(-most(-speed), wanted));
    }

  private:
    double at(Index k, double speed) const { return pieces_[k].base - pieces_[k].fall * speed; }

    Demand pieces_[kPieces];
    bool there_[kPieces] = {true, false, false, false};
};

constexpr double kSpeedBand = 0.01;
// Without an implicit step a steep end would be unstable.
constexpr double kSmoothSpeedBand = 0.1;

// Which limit a motor is at: 0 for none, else the piece of its envelope that it is on, counted from
// 1, and less than zero if it pushes backwards. `now` is which it was thought to be at; from there
// it goes piece by piece, or it might jump over the one that is right.
inline Index limit_of(const Motor& motor, const Demand& demand, const Envelope& envelope,
                      double speed, Index now) {
    const double slack = std::isfinite(motor.effort) ? 1e-9 * motor.effort : 0.0;
    const double wanted = demand.base - demand.fall * speed;
    const Index sense = now != 0 ? (now > 0 ? 1 : -1) : (wanted >= 0.0 ? 1 : -1);
    const auto s = static_cast<double>(sense);
    const double room = now == 0
                            ? envelope.most(s * speed) + slack
                            : s * (envelope.given(now).base - envelope.given(now).fall * speed);
    if (s * wanted <= room && (now == 0 || s * wanted < room - slack)) {
        return 0;
    }
    const Index piece = envelope.piece(s * speed);
    return sense * (1 + (now == 0 ? piece : envelope.towards(std::abs(now) - 1, piece)));
}

}  // namespace mooring::simulation
