// One step of an island: mechanisms that touch each other, and are solved together.
//
// Everything stands where it has come to by the middle of the step. Forces that hang on velocities
// are taken in the middle as well, springs and motors' gains where things stand, so that what is
// smooth is right to second order and nothing is damped that is not there. What is too stiff for
// the step is taken so much later that it cannot explode (it is added to the diagonal of the mass
// matrix), and that is noted. A motor that would exceed its effort pushes with just that, and the
// step is taken again. Couplings, closures, bonds, springs between bodies and prescribed motions
// are equations, solved directly; joint friction, stops and contacts have bounds, and are solved
// for impulses (Moreau 1988; Stewart and Trinkle 1996).
//
// What has drifted apart or into each other is put right by a motion of its own that leaves no
// velocity behind (Cline and Pai 2003), so it adds no kinetic energy.
#pragma once

#include <algorithm>

#include "simulation/motors.h"
#include "simulation/pulls.h"
#include "simulation/solver.h"

namespace mooring::simulation {

constexpr double kBouncing = 0.01;  // slower impacts do not bounce [m/s]
constexpr double kImmovable = 1e200;
// The square of the angle by which a resonance turns in a step: up to the first the step resolves
// it, from the second on springs are taken a whole step later; see `find_lateness`.
constexpr double kResolved = 0.25, kStiff = 1.0;
// How much later a spring is taken than where it stands [steps].
inline double lateness(double squared, double least = 0.0) {
    return std::clamp((squared - kResolved) / (kStiff - kResolved), least, 1.0);
}
// As late as this where there must be something to divide by [steps].
constexpr double kTrace = 1e-6;
constexpr double kSlop = 2e-5;  // overlaps up to this are no drift [m]

struct Island {
    std::vector<Index> mechanisms, contacts;
};

// What islands share in a step; each writes to what is of its own mechanisms.
struct StepSpace {
    Bodies<double> bodies;
    dynamics::Articulated<double> made;
    std::vector<double> positions, target, target_speed, weight;  // (m,)
    std::vector<double> q, v_before;  // where the step began, and how fast
    std::vector<double> middle;       // (m,) velocities about the middle of the step
    std::vector<double> late;    // (m,) how much later springs and gains are taken, 0 to 1 steps
    std::vector<double> easing;  // (m,) when in the step dampers are taken, 0.5 to 1
    std::vector<double> spring_late, spring_easing;  // (springs,) likewise
    std::vector<double> gear_loss;                   // (m,) friction of what gears pass on
    std::vector<double> ahead;                       // (m,) targets where things go next
    Bodies<double> before;                           // as they were when the step began
    std::vector<double> tau, more, half, rate;       // (m,)
    std::vector<double> free;                        // velocities (m,) without impulses of rows
    std::vector<double> struck;                      // (m,) what impacts did to velocities at once
    std::vector<double> v;                           // at the end of the step
    std::vector<double> moving;  // at which positions move: with drift taken back
    std::vector<double> sums;    // (m,) of half responses, mechanism by mechanism
    std::vector<Twist<double>> start, without, end;  // (bodies,) twists before, free, and after
    std::vector<Demand> demands, given;              // (motors,) wanted; and done, within limits
    std::vector<Wrench<double>> pushed;              // (laws,) what each does to its body
    std::vector<std::vector<Pull>> pulls;            // of each mechanism
    std::vector<std::size_t> first_pull;             // of each mechanism in the state's `pulls`
    std::vector<double> rotor_free, rotor_mass, rotor_end;  // (motors,) of rotors: as in `free`
    std::vector<std::vector<Equation>> equations;           // of each mechanism
    std::vector<std::size_t> offset;                        // of each mechanism in `sums`
    std::vector<double> slid;                               // (contacts,) speed across it
    std::vector<double> pressed;                            // (contacts,) normal impulse
    std::vector<double> parting;  // (contacts,) energy of taking drift back

    StepSpace(const World& world, const Mechanisms& mechanisms);
};

// What came of an island's step.
struct Outcome {
    Work work;
    Index sweeps = 0;
    bool poor = false;  // impulses still changed velocities
    bool sound = true;  // velocities are numbers of reasonable size
};

class IslandSolver {
  public:
    Outcome step(const World& world, const Mechanisms& mechanisms, const Island& island,
                 State& state, StepSpace& space);

  private:
    void prepare(Index own);
    void find_lateness(Index own);
    Demand look(Index motor, Target target, double told);
    double answer_to(Index own, const RowForce& force);
    void load(Index own);
    void move_freely(Index own);
    void find_middle(Index own, std::size_t place);
    void build_equations(Index own, std::size_t place);
    void build_bounded(Index own);
    void build_pulls(Index own);
    void give_way(Equation& row);
    Demand given_by(Index motor);
    Vec3 belt_of(const contact::Contact& c) const;
    void give_contact(const contact::Contact& c, Row& row);
    void load_rotors(Index own);
    double speed_of(const Pull& pull, const Twist<double>* twists, const double* v,
                    const double* rotors) const;
    void note_pull(std::size_t row, Outcome& outcome);
    void note_give(const Give& give, const Equation& row, double speed, Outcome& outcome) const;
    void build_contacts();
    bool collide(Outcome& outcome);
    Row& add_row(const RowForce& force, const Index* mechanisms, int sides);
    void begin_sums();
    Swept solve();
    void to_velocities(Index own, double* change);
    bool resaturate(Index own);
    void note(Outcome& outcome);
    void note_contacts(Outcome& outcome);
    void take_drift_back();
    std::size_t place_of(Index mechanism) const;

    const World* world_ = nullptr;
    const Mechanisms* mechanisms_ = nullptr;
    const Island* island_ = nullptr;
    State* state_ = nullptr;
    StepSpace* space_ = nullptr;
    double h_ = 0.0;

    Arena arena_;
    std::vector<Row> rows_;
    std::vector<RowForce> forces_;  // of each row
    struct Bounded {
        Index freedom;
        int side;     // 0 for friction, -1 and 1 for the lower and the upper stop, 2 for a pull
        double left;  // to a stop
        Index own = 0;
        std::size_t pull = 0;  // which of the mechanism's
    };
    std::vector<Bounded> bounded_;
    std::vector<ContactRows> contacts_;
    std::vector<double> kept_;             // contact impulses of the round before
    std::vector<EquationSystem> systems_;  // of the island's mechanisms
    std::vector<double> scratch_, eq_, change_;
};

// Move a mechanism to the middle of a step, and tell what floats in its axes as they have become.
void begin_step(const World& world, const Mechanism& own, State& state);
// Move it on to the end, with the velocities found. What flies, touching nothing, keeps its
// momentum to rounding.
void end_step(const World& world, const Mechanism& own, bool flies, State& state, StepSpace& space);
// What a loose body's turning adds to how its velocities change (6,).
void add_free_turning(const Rigid& body, const double* v, double* a);

}  // namespace mooring::simulation
