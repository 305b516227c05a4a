// Inverse kinematics by least squares with bounds.
//
// Levenberg and Marquardt's method with a damping that follows the error (Sugihara, "Solvability-
// Unconcerned Inverse Kinematics by the Levenberg-Marquardt Method", 2011), joints held at their
// limits while they push outwards, and random starts. Couplings and closures are residuals like
// the target's, so they hold wherever it is reached.
#pragma once

#include <cstdint>
#include <vector>

#include "kinematics/loops.h"

namespace mooring::kinematics {

struct IkTask {
    Index body;
    Pose on_body, goal;
    double weights[6];          // of turning about the goal's axes, then moving along them
    std::vector<Index> chosen;  // freedoms that may move
    std::vector<double> lower, upper;
    double length, angle, loop_tolerance;  // what counts as reached
};

struct IkSearch {
    Index starts, most_steps;
    std::uint64_t seed;
    bool wants_nearest;  // to `near`, of all starts; otherwise the first solution is taken
};

struct IkReport {
    bool reached;
    Index starts;     // used
    double distance;  // from `near`
};

// Find a solution, in q (n,), which is the first start; the best attempt where there is none.
IkReport solve_ik(const Tree& tree, const IkTask& task, const double* near, const IkSearch& search,
                  double* q);

}  // namespace mooring::kinematics
