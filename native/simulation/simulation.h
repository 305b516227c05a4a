// A scene that is stepped.
#pragma once

#include <memory>

#include "parallel/team.h"
#include "simulation/accurate.h"
#include "simulation/sensors/measuring.h"

namespace mooring::simulation {

class Simulation {
  public:
    // `q` and `v` are where it starts.
    Simulation(World world, bool accurate, std::vector<double> q, std::vector<double> v);

    // Take steps; returns why it ended, and how many were taken. The state is that at the end of
    // the last of them.
    std::pair<End, Index> run(Index count);

    const World& world() const { return world_; }
    bool is_accurate() const { return is_accurate_; }
    const State& state() const { return state_; }
    World& world() { return world_; }
    State& state() { return state_; }
    Records& records() { return records_; }
    // Whether a state is one of this scene.
    bool fits(const State& state) const;
    void restore(const State& state);
    // How many equations of loops repeat others, and are left to them; and how many nearly do, and
    // hold all the same.
    std::pair<Index, Index> repeating() const;
    // Hold two bodies together as they are, or let them go.
    void set_bonds(std::vector<Bond> bonds);

  private:
    bool step();
    void renew_mechanisms();
    void place();
    void guess_middle(Index body);
    void gather_islands();
    bool holds_together(Index one, Index other) const;
    void solve_islands();
    void wake();
    void let_go();
    void wake_with(Index mechanism);
    void note(const std::vector<Outcome>& outcomes);
    void sense();
    void rest();
    bool is_awake(Index mechanism) const;
    void set_awake(Index mechanism, bool awake);

    World world_;
    std::vector<double> start_;  // where the loops were looked at
    State state_;
    Records records_;
    std::unique_ptr<Mechanisms> mechanisms_;
    std::unique_ptr<StepSpace> space_;
    contact::Collector collector_;
    bool is_accurate_ = false;
    std::unique_ptr<AccurateStepper> accurate_;
    bool fresh_ = true;  // nothing has been placed yet
    bool feeds_forward_ = false;

    std::vector<contact::Moving> moving_;
    std::vector<Island> islands_;
    std::size_t island_count_ = 0;
    std::vector<Index> island_of_;       // of each mechanism
    std::vector<IslandSolver> solvers_;  // of each thread
    std::unique_ptr<Team> team_;
    std::vector<Outcome> outcomes_;
    std::vector<ActingForce> acting_;
};

}  // namespace mooring::simulation
