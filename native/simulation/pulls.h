// What only pulls, or pushes once its play is used up: cables, gears, pins with play.
#pragma once

#include "simulation/equations.h"

namespace mooring::simulation {

// A row that acts one way, when `over` comes above zero: elastic, or rigid.
struct Pull {
    std::vector<RowForce> parts;  // what a unit of it does to bodies and freedoms
    Index rotor = -1;             // the motor whose rotor it acts on,
    double effort = 0.0;          // and how
    double over = 0.0;            // how much farther than it may be [m or rad]
    double stiffness = kNever, damping = 0.0;
    bool both_ways = false;
};

// Whether a closure's play lies along an axis of its frame.
bool across_play(const tree::Closure& closure, int axis);

// Those of a mechanism, whose bodies are placed, in an order that does not change.
void add_pulls(const World& world, const Mechanism& own, const Bodies<double>& bodies,
               const double* positions, const std::vector<double>& rotors,
               std::vector<Pull>& pulls);

// How much energy they hold.
double held_by_pulls(const World& world, const Mechanism& own, const Bodies<double>& bodies,
                     const double* positions, const std::vector<double>& rotors);

// How much closures that give hold.
double held_by_gives(const World& world, const Bodies<double>& bodies);

}  // namespace mooring::simulation
