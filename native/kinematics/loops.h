// Couplings and closures as equations: how far they are open, and how freedoms change that.
#pragma once

#include <vector>

#include "kinematics/poses.h"

namespace mooring::kinematics {

// How many equations couplings and closures make.
Index loop_count(const Tree& tree);

// How a closure's second frame is off the first, in the first frame's axes.
struct Opening {
    Vec3 turn;  // a rotation vector; of a hinge how its axis is tilted, however far it has turned
    Vec3 way;
};
constexpr bool kWelded[6] = {true, true, true, true, true, true};
inline Opening opening(const Pose& first, const Pose& second, const bool* held = kWelded) {
    const Vec3 way = back(first.turn, second.place - first.place);
    if (held[0] && held[1] && !held[2]) {
        const Vec3 axis = back(first.turn, second.turn.z);
        const double sine = std::sqrt(axis.x * axis.x + axis.y * axis.y);
        const double scale =
            sine < 1e-6 && axis.z > 0.0 ? 1.0 : std::atan2(sine, axis.z) / std::fmax(sine, 1e-300);
        return {{-scale * axis.y, scale * axis.x, 0.0}, way};
    }
    return {rotation_vector({back(first.turn, second.turn.x), back(first.turn, second.turn.y),
                             back(first.turn, second.turn.z)}),
            way};
}

// Evaluates the equations again and again, without new memory.
class LoopEquations {
  public:
    explicit LoopEquations(const Tree& tree);

    // How far each equation is from holding (k,), and its derivative by motion of each freedom
    // (k, m), at positions q. The derivative takes the rotation of a closure to be small, as it is
    // wherever the loop is nearly closed.
    void evaluate(const double* q, double* gap, Grid<double> jacobian);

    Index count() const { return count_; }

  private:
    const Tree& tree_;
    Index count_;
    std::vector<Pose> poses_;
    std::vector<double> on_first_, on_second_;
};

// Move the free freedoms (m,) of q until all couplings and closures hold; returns the largest gap.
//
// Newton's method with the smallest step that does it, a little softened, since closures of flat
// mechanisms repeat equations. A step is shortened until it lowers the sum of squares. Freedoms
// stay between `lower` and `upper` (m,).
double close_loops(const Tree& tree, double* q, const bool* free, const double* lower,
                   const double* upper, double tolerance, Index most_steps);

}  // namespace mooring::kinematics
