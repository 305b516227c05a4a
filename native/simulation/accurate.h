// The accurate stepper: Runge-Kutta of order 4, for smooth motion, open trees and loops alike;
// without contact, stops and dry friction.
//
// Loops hold by accelerations that keep their equations (Featherstone 2008, section 8.2); before
// every step positions and velocities are brought back onto them along the shortest way that the
// mass matrix knows, which takes no more than rounding and the step's own error (Hairer and Wanner
// 1996, section VII.2: projection).
#pragma once

#include "simulation/sensors/measuring.h"

namespace mooring::simulation {

class AccurateStepper {
  public:
    // Mechanisms, and the space to step them in, outlive it.
    AccurateStepper(const World& world, const Mechanisms& mechanisms, StepSpace& space);

    // Take one step; false if it exploded, and nothing has changed then.
    bool step(State& state, Records& records);

  private:
    struct Slope {
        std::vector<double> q, v;
        Work power;
    };

    void place(const double* q, const double* v);
    double project(State& state);
    void evaluate(State& state, double time, const double* q, const double* v, Slope& slope);
    void demand(const State& state, const double* v, Slope& slope);
    void push_bodies(const State& state, Slope& slope);
    void accelerate(Index own, const State& state, double time, const double* v, Slope& slope);
    void to_velocities(Index own, const double* sums, double* out);
    void note(State& state, const double* v);

    const World& world_;
    const Mechanisms& mechanisms_;
    StepSpace& space_;
    EquationSystem system_;
    std::vector<double> efforts_, x_, sums_, step_, at_q_, at_v_;
    Slope slopes_[4];
};

}  // namespace mooring::simulation
