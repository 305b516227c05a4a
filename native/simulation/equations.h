// Equations of a mechanism: couplings, closures and bonds, then springs between bodies and
// prescribed motions.
#pragma once

#include "simulation/mechanisms.h"

namespace mooring::simulation {

enum class Ties { coupling, closure, bond, spring, give, motion };

struct Equation {
    Ties kind;
    Index item;  // which coupling, closure, ... it is
    RowForce force;
    double gap = 0.0;     // how far it is from holding
    double wanted = 0.0;  // speed along it
    double soft = 0.0;    // Baraff and Witkin 1998: what makes it an implicit spring
    double impulse = 0.0;

    // Whether it is put right where it has drifted.
    bool holds() const { return kind < Ties::spring; }
};

// Couplings, closures and bonds of a mechanism, whose bodies are placed.
void add_holding(const World& world, const Mechanism& own, const std::vector<Bond>& bonds,
                 const Bodies<double>& bodies, const double* positions,
                 std::vector<Equation>& equations);

// How fast a closure's row speeds up by the velocities of its bodies alone: its direction goes
// along with the first body, the point where it acts with the second.
double rate_along(const RowForce& row, const Bodies<double>& bodies);

// A spring as a row, its gap how much longer it is than at rest.
Equation spring_row(const tree::Spring& spring, Index number, const Bodies<double>& bodies);

// The half response of a row in one mechanism (mechanism.size(),): a force at the bodies of others
// is left out.
void half_response(const Tree& tree, const Mechanisms& mechanisms, Index own, const RowForce& row,
                   const Bodies<double>& bodies, const dynamics::Articulated<double>& made,
                   double* half);

// The equations of a mechanism, solved directly: impulses x of unknown rows follow from
// (H H^T + soft) x = ..., with H the half responses.
class EquationSystem {
  public:
    // Fill H, and factorise. Of a mechanism whose equations repeat each other, those are left out
    // that at the moment tell least that others do not.
    void build(const Tree& tree, const Mechanisms& mechanisms, Index own,
               const std::vector<Equation>& equations, const Bodies<double>& bodies,
               const dynamics::Articulated<double>& made, double repeated);

    Index count() const { return count_; }
    Index size() const { return size_; }
    const double* half(Index r) const { return half_.data() + r * size_; }

    // Replace what must come to zero along each equation (count,) by the impulses that do it.
    void solve(double* x) const;
    // y -= H^T x
    void take(const double* x, double* y) const;
    // What a half response (size,) does once the equations answer to it: `answer` may not be it.
    void project(const double* half, double* answer, std::vector<double>& scratch) const;
    // How the equations answer to a sum of half responses.
    void along(const double* half, double* x) const;

    // Which of the equations repeat those before them within an angle, by the sizes and masses of
    // the mechanism; after `build`.
    std::vector<char> repeating(const Tree& tree, const Mechanism& own,
                                const std::vector<Equation>& equations,
                                const Bodies<double>& bodies, double angle) const;

  private:
    void leave_out(const Tree& tree, const Mechanism& own, const std::vector<Equation>& equations,
                   const Bodies<double>& bodies);

    Index count_ = 0, size_ = 0;
    std::vector<double> half_;
    std::vector<char> left_;  // of each equation, whether it is left out
    std::vector<double> rest_, pivots_;
    mutable std::vector<double> lower_;
};

}  // namespace mooring::simulation
