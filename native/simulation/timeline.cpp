// Where targets are, and how fast, at any time.
#include <algorithm>
#include <cmath>

#include "simulation/world.h"

namespace mooring::simulation {

namespace {

struct Progress {
    double way, speed;
};

// 10 s^3 - 15 s^4 + 6 s^5, the polynomial of least degree that starts and stops gently.
Progress quintic(double s) {
    return {s * s * s * (10.0 + s * (6.0 * s - 15.0)), 30.0 * s * s * (1.0 - s) * (1.0 - s)};
}

// Speed up evenly for a share of the time, go on, slow down as long.
Progress trapezoid(double s, double ramp) {
    const double top = 1.0 / (1.0 - ramp), left = 1.0 - s;
    if (s < ramp) {
        return {0.5 * top * s * s / ramp, top * s / ramp};
    }
    if (left < ramp) {
        return {1.0 - 0.5 * top * left * left / ramp, top * left / ramp};
    }
    return {top * (s - 0.5 * ramp), top};
}

}  // namespace

void Timeline::at(double time, double* position, double* velocity) const {
    const std::size_t m = advance.size();
    double cycles = 0.0;
    if (period > 0.0 && time > again) {
        cycles = std::floor((time - again) / period);
        time -= cycles * period;
    }
    // The first way that has not ended.
    const auto way = std::partition_point(ways.begin(), ways.end(),
                                          [time](const Way& w) { return w.end <= time; });
    const auto k = static_cast<std::size_t>(way - ways.begin());
    const double *from = points.data() + k * m, *to = from + m;
    if (way == ways.end() || time < way->start) {
        for (std::size_t c = 0; c < m; ++c) {
            position[c] = from[c] + cycles * advance[c];
            velocity[c] = 0.0;
        }
        return;
    }
    const double span = way->end - way->start, s = (time - way->start) / span;
    if (way->profile == Profile::cubic) {
        // Hermite's cubic, between points that are passed at given speeds.
        const double *first = speeds.data() + 2 * k * m, *last = first + m;
        for (std::size_t c = 0; c < m; ++c) {
            const double p = from[c], r = to[c], u = span * first[c], w = span * last[c];
            const double quadratic = 3.0 * (r - p) - 2.0 * u - w, cubic = 2.0 * (p - r) + u + w;
            position[c] = p + s * (u + s * (quadratic + s * cubic)) + cycles * advance[c];
            velocity[c] = (u + s * (2.0 * quadratic + 3.0 * s * cubic)) / span;
        }
        return;
    }
    const Progress done = way->profile == Profile::trapezoid ? trapezoid(s, way->ramp) : quintic(s);
    for (std::size_t c = 0; c < m; ++c) {
        const double difference = to[c] - from[c];
        position[c] = from[c] + done.way * difference + cycles * advance[c];
        velocity[c] = done.speed * difference / span;
    }
}

}  // namespace mooring::simulation
