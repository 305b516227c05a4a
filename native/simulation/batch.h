// Many simulations of one world, stepped together, with what is read and told in one array each.
#pragma once

#include <memory>
#include <vector>

#include "parallel/team.h"
#include "simulation/simulation.h"

namespace mooring::simulation {

// What of a simulation a column holds.
enum class Reads { position, velocity, effort, sensor };
enum class Tells { position, velocity, effort };

}  // namespace mooring::simulation

template <>
struct mooring::Names<mooring::simulation::Reads> {
    static constexpr std::array<std::string_view, 4> names{"position", "velocity", "effort",
                                                           "sensor"};
};
template <>
struct mooring::Names<mooring::simulation::Tells> {
    static constexpr std::array<std::string_view, 3> names{"position", "velocity", "effort"};
};

namespace mooring::simulation {

struct Reading {
    Reads kind;
    Index row;     // a coordinate, a freedom, a motor or a sensor
    Index column;  // of a sensor's measurement
};

struct Telling {
    Tells kind;
    Index motor;
};

class Batch {
  public:
    // Copies of a simulation as it is.
    Batch(const Simulation& first, Index count, unsigned threads);

    Index size() const { return static_cast<Index>(members_.size()); }
    const Simulation& first() const { return *members_.front(); }
    // Steps those that are wanted; tells which exploded.
    void run(Index count, const char* wanted, char* exploded);
    // (members, readings); what a sensor has not measured yet is not a number.
    void read(const std::vector<Reading>& what, double* out) const;
    // Those that are wanted are told (members, tellings).
    void tell(const std::vector<Telling>& what, const double* values, const char* wanted);
    // Put one where a state and positions and velocities say; motors hold it there.
    void begin(Index member, const State& state, const double* q, const double* v);

  private:
    void keep_measurements(Index member);

    std::vector<std::unique_ptr<Simulation>> members_;
    std::size_t widest_ = 1;
    std::vector<double> measured_;  // (members, sensors, widest)
    Team team_;
};

}  // namespace mooring::simulation
