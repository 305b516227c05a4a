// What is simulated, and the state it is in.
#pragma once

#include <algorithm>
#include <limits>
#include <vector>

#include "contact/contacts.h"
#include "tree/tree.h"

namespace mooring::simulation {

using tree::Tree;

constexpr double kNever = std::numeric_limits<double>::infinity();

enum class Mode { position, velocity, effort, motion };
enum class Profile { quintic, trapezoid, cubic };

}  // namespace mooring::simulation

template <>
struct mooring::Names<mooring::simulation::Mode> {
    static constexpr std::array<std::string_view, 4> names{"position", "velocity", "effort",
                                                           "motion"};
};
template <>
struct mooring::Names<mooring::simulation::Profile> {
    static constexpr std::array<std::string_view, 3> names{"quintic", "trapezoid", "cubic"};
};

namespace mooring::simulation {

struct Motor {
    Index freedom;
    Mode mode;
    double p, i, d;
    double effort;          // largest; infinite where there is none
    double speed;           // largest it goes at by itself
    bool weightless;        // adds the effort that holds the machine up
    bool trips;             // stays off once it has come to its largest effort
    double stall, no_load;  // its effort standing still, and the speed at which nothing is left of
                            // that, on its torque-speed curve; infinite where there is none
    double efficiency;      // of its gear
    Index delay, period;    // steps until it acts on what it is told and sees; from one look to the
                            // next
    double resolution;      // of the positions that it sees; 0 if exact
    double rotor;      // inertia of the motor behind a gear with play or give; 0 if it has none
    double play;       // of the gear, in all
    double stiffness;  // of the gear; infinite if it is rigid
    bool by_rotor;     // whether it goes by its own position, and not the joint's

    // Whether it has a position of its own.
    bool geared() const { return rotor > 0.0; }

    // Whether it looks now and then, and acts on that, instead of all the time.
    bool samples() const { return delay > 0 || period > 1 || resolution > 0.0; }
};

constexpr Index kSeen = 4;  // a target's position and velocity, and the joint's

// A rope, chain or belt: the way along its points, and what joints wind up, is no longer than its
// length; or just its length, if it pushes as well.
struct Cable {
    struct Point {
        Index body;
        Vec3 place;
    };
    struct Drum {
        Index freedom;
        double lever;  // length per position
    };
    std::vector<Point> points;
    std::vector<Drum> drums;
    double length, stiffness, damping;  // infinite stiffness if it does not give
    bool pushes;
};

// What a closure gives: linear and angular; infinite stiffness if it is rigid.
struct Give {
    double stiffness, damping, turning_stiffness, turning_damping;
    double play;  // how far its points may be apart, across what it lets slide

    bool soft() const { return stiffness < kNever || turning_stiffness < kNever; }
};

struct LawType;

// A force with a law, on a body.
struct Law {
    const LawType* type;
    Index body, freedom;
    Pose on_body;
    std::vector<double> numbers;  // coefficients; the law's file says which
    std::vector<Vec3> points;     // centres of the pieces of a volume
    std::vector<double> volumes;  // of the pieces
};

struct Probe;

struct Sensor {
    const Probe* probe;
    Index body, freedom;
    Pose on_body;
    double rate;        // measurements a step, at most 1
    std::size_t width;  // numbers in a measurement
};

// The motion of the targets. Way k goes from points[k] to points[k + 1] between its start and end;
// between ways, before the first and after the last the targets rest. After `again` the way there
// is gone over and over, if the period is greater than zero, each time farther by `advance`.
struct Timeline {
    struct Way {
        double start, end;
        Profile profile;
        double ramp;  // the share of a trapezoid's time in which it speeds up
    };
    std::vector<Way> ways;
    std::vector<double> points;  // (ways + 1, m)
    std::vector<double> speeds;  // (ways, 2, m) at both ends of a cubic
    double again = 0.0, period = 0.0;
    std::vector<double> advance;  // (m,)

    // Targets (m,) of the freedoms at a time, and how fast they move.
    void at(double time, double* position, double* velocity) const;
};

struct Settings {
    Vec3 gravity;
    double step = 1e-3;  // [s]
    Index every = 0;     // steps from one recorded instant to the next; 0 for none
    Index most_sweeps = 200;
    double accuracy = 1e-7;  // of velocities [m/s or rad/s]
    bool sleeps = true;      // what rests need not be computed
    unsigned threads = 1;    // that may work on islands; the bytes are the same with any number
};

struct World {
    Tree tree;
    std::vector<Motor> motors;
    std::vector<Cable> cables;
    std::vector<Give> gives;  // of the tree's closures
    std::vector<Law> laws;
    contact::Scenery scenery;
    std::vector<Sensor> sensors;
    Timeline timeline;
    Settings settings;

    // How many of the last looks of drives are kept.
    Index looks() const {
        Index longest = 0;
        for (const Motor& motor : motors) {
            longest = std::max({longest, motor.delay, motor.period});
        }
        return longest + 1;
    }

    // Whether there are motors that go as they are told.
    bool prescribes() const {
        return std::any_of(motors.begin(), motors.end(),
                           [](const Motor& motor) { return motor.mode == Mode::motion; });
    }
};

// What motors are told.
struct Commands {
    std::vector<char> held;  // (motors,) whether the command counts, and not the timeline
    std::vector<double> position, velocity;
    std::vector<double> effort;  // added to what the motor does by itself
    std::vector<double> push;    // (bodies, 6) moment about the world's origin, and force
    std::vector<double> belt;    // (bodies, 3) how fast its surface runs, in its axes
    std::vector<char> relaxed;   // (motors,) whether it gives nothing
};

// Two bodies held together, as they are at that moment.
struct Bond {
    Index first, second;
    Pose between;
    // What it holds: pulled along an axis of the first, across it, and turned; infinite if it never
    // lets go.
    Vec3 axis{0.0, 0.0, 1.0};
    double pull = kNever, shear = kNever, turn = kNever;
    double age = 0.0;  // [s]
};

struct Work {
    double motors = 0.0, damping = 0.0, friction = 0.0, contacts = 0.0, commands = 0.0;  // [J]
};

struct Overlap {
    Index first, second;       // shapes; the first may be the ground
    double since, depth;       // when first deeper than a little [s], how deep at most [m]
    double duration, parting;  // [s]; the energy that parting took [J]
};

// What is noted for the diagnosis.
struct Watch {
    std::vector<double> tripped;    // (motors,) when it tripped [s]
    std::vector<double> saturated;  // (motors, 3) when first at its largest effort [s], how long
                                    // [s], the effort it would have taken
    std::vector<double> stop;  // (m, 3) when the lower and upper stop first pushed, time on one [s]
    // (m + springs, 2) the largest square of the angle by which what rings on a spring turns in a
    // step with nothing else holding, and the bound with all that does; see
    // `IslandSolver::find_lateness`.
    std::vector<double> resonance;
    std::vector<Overlap> overlaps;  // sorted
    std::vector<double> slip;       // (shapes,) how far each has slid while pressed on [m]
    // Largest gap of couplings and closures, when [s], and of which, closures after couplings.
    double gap[3] = {0.0, 0.0, 0.0};
    double sweeps[3] = {0.0, 0.0, 0.0};   // in all, most in a step, steps that ended inaccurate
    double fastest[3] = {0.0, 0.0, 0.0};  // speed, when [s], of which freedom
};

// All that the next step depends on.
struct State {
    Index steps = 0;
    std::vector<double> q, v;
    std::vector<double> a;                   // (m,) in the last step
    std::vector<Index> saturated;            // (motors,) which limit each is at; see `limit_of`
    std::vector<double> integral, effort;    // (motors,) of the position error; in the last step
    std::vector<double> rotor, rotor_speed;  // (motors,) of those behind gears with play or give
    std::vector<double> pulls;               // impulses of cables, gears and play in the last step
    std::vector<double> seen;                // (kSeen, motors, looks) what drives saw and were told
    std::vector<double> acting;  // (motors,) what drives that look now and then make of that
    std::vector<double> friction, stops;  // impulses (m,) and (m, 2) in the last step
    std::vector<double> still;            // (bodies,) how long each has rested [s]
    std::vector<char> awake;              // (bodies,)
    Work work;
    Commands commands;
    std::vector<Bond> bonds;
    contact::ContactState contact;
    Watch watch;
};

// Whether a motor gives anything: it has not tripped, and is not told to give nothing.
inline bool is_on(const State& state, Index motor) {
    const auto k = static_cast<std::size_t>(motor);
    return state.watch.tripped[k] == kNever && state.commands.relaxed[k] == 0;
}

// What was recorded, row after row.
struct Records {
    std::vector<double> time, position, velocity, target, effort, integral, energy, gap;
    std::vector<Index> touching;  // (k, 3) row, first body or -1 for the ground, second body
    std::vector<double> force;    // (k, 7) where, force on the second body, gap
    Index rows = 0;
    std::vector<Index> sensor;     // of each measurement
    std::vector<double> measured;  // when
    std::vector<double> values;    // (measurements, widest)
};

enum class End { done = 0, exploded = 1 };

}  // namespace mooring::simulation
