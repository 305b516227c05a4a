// Sine and cosine that are the same bytes on every processor: the system's library takes another
// way where the processor multiplies and adds at once.
//
// Reduction to a quarter turn by a product in three parts (Cody and Waite, Software Manual for the
// Elementary Functions, 1980), then Taylor's series: to less than two units in the last place, of
// angles up to a million turns.
#pragma once

#include <cmath>

#include "geometry/lanes.h"

namespace mooring {

template <typename S>
struct SineCosine {
    S sine, cosine;
};

// A number to the nearest whole one, ties to even; less than 2^51.
template <typename S>
S nearest_whole(S value) {
    constexpr double kShift = 6755399441055744.0;  // 1.5 * 2^52
    return (value + S(kShift)) - S(kShift);
}

// Beyond this, angles have lost too many digits to the reduction [rad].
constexpr double kLargestAngle = 6.0e6;

template <typename S>
SineCosine<S> of_quarter(S x) {
    const S z = x * x;
    // x in [-pi/4, pi/4]: the first terms that are left out are below 1e-17.
    S s = S(-1.0 / 1307674368000.0);
    s = S(1.0 / 6227020800.0) + z * s;
    s = S(-1.0 / 39916800.0) + z * s;
    s = S(1.0 / 362880.0) + z * s;
    s = S(-1.0 / 5040.0) + z * s;
    s = S(1.0 / 120.0) + z * s;
    s = S(-1.0 / 6.0) + z * s;
    S c = S(1.0 / 20922789888000.0);
    c = S(-1.0 / 87178291200.0) + z * c;
    c = S(1.0 / 479001600.0) + z * c;
    c = S(-1.0 / 3628800.0) + z * c;
    c = S(1.0 / 40320.0) + z * c;
    c = S(-1.0 / 720.0) + z * c;
    c = S(1.0 / 24.0) + z * c;
    const S half = S(0.5) * z, rest = S(1.0) - half;
    return {x + x * (z * s), rest + (((S(1.0) - rest) - half) + z * (z * c))};
}

inline SineCosine<double> turned_by_quarters(SineCosine<double> q, double quarters) {
    const int k = static_cast<int>(quarters - 4.0 * std::floor(quarters * 0.25));
    switch (k) {
        case 1:
            return {q.cosine, -q.sine};
        case 2:
            return {-q.sine, -q.cosine};
        case 3:
            return {-q.cosine, q.sine};
        default:
            return q;
    }
}

inline SineCosine<Lanes> turned_by_quarters(SineCosine<Lanes> q, Lanes quarters) {
    SineCosine<Lanes> out;
    for (int k = 0; k < kLanes; ++k) {
        const auto one =
            turned_by_quarters(SineCosine<double>{q.sine[k], q.cosine[k]}, quarters[k]);
        out.sine.set(k, one.sine);
        out.cosine.set(k, one.cosine);
    }
    return out;
}

template <typename S>
SineCosine<S> reduced_sine_cosine(S angle) {
    // Pi / 2 in three parts, the first two of 33 bits each.
    constexpr double kFirst = 1.57079632673412561417e+00, kSecond = 6.07710050630396597660e-11,
                     kThird = 2.02226624879595063154e-21;
    const S quarters = nearest_whole(angle * S(0.63661977236758134308));
    const S left = ((angle - quarters * S(kFirst)) - quarters * S(kSecond)) - quarters * S(kThird);
    return turned_by_quarters(of_quarter(left), quarters);
}

inline SineCosine<double> sine_cosine(double angle) {
    if (!(std::fabs(angle) < kLargestAngle)) {
        return {std::sin(angle), std::cos(angle)};
    }
    return reduced_sine_cosine(angle);
}

inline SineCosine<Lanes> sine_cosine(Lanes angle) {
    for (int k = 0; k < kLanes; ++k) {
        if (!(std::fabs(angle[k]) < kLargestAngle)) {
            SineCosine<Lanes> out;
            for (int j = 0; j < kLanes; ++j) {
                const auto one = sine_cosine(angle[j]);
                out.sine.set(j, one.sine);
                out.cosine.set(j, one.cosine);
            }
            return out;
        }
    }
    return reduced_sine_cosine(angle);
}

}  // namespace mooring
