// Springs between points of two bodies.
#pragma once

#include "dynamics/bodies.h"

namespace mooring::dynamics {

// Below this a spring has no direction [m].
constexpr double kNoLength = 1e-12;

struct SpringLine {
    Vec3 start, end, way;  // way: unit, from start to end; zero where there is none
    double length;
};

inline SpringLine line_of(const tree::Spring& spring, const Bodies<double>& bodies) {
    const Vec3 start = bodies[spring.first].pose * spring.on_first,
               end = bodies[spring.second].pose * spring.on_second, gap = end - start;
    const double length = norm(gap);
    return {start, end, length < kNoLength ? Vec3{} : gap / length, length};
}

// Add the tension of a spring to the forces on its two bodies.
inline void pull(const tree::Spring& spring, const SpringLine& line, double tension,
                 Bodies<double>& bodies) {
    BodyState<double>&one = bodies[spring.first], &other = bodies[spring.second];
    const Vec3 f = tension * line.way;
    one.force = one.force + force_at(line.start - one.about, f);
    other.force = other.force + force_at(line.end - other.about, -f);
}

}  // namespace mooring::dynamics
