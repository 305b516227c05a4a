// A simulation that belongs to a Python object.
#pragma once

#include <atomic>
#include <stdexcept>
#include <utility>
#include <vector>

#include "bindings/arrays.h"
#include "simulation/simulation.h"

namespace mooring::bindings {

// One thread at a time: a second one that comes meanwhile is told so.
class Owned {
  public:
    Owned(simulation::World world, bool accurate, std::vector<double> q, std::vector<double> v)
        : simulation_(std::move(world), accurate, std::move(q), std::move(v)) {}

    class Turn {
      public:
        explicit Turn(Owned& owner) : owner_(owner) {
            if (owner.busy_.exchange(true)) {
                throw std::runtime_error(
                    "this simulation is being stepped in another thread; give each thread its own");
            }
        }
        Turn(const Turn&) = delete;
        Turn& operator=(const Turn&) = delete;
        ~Turn() { owner_.busy_ = false; }
        simulation::Simulation* operator->() const { return &owner_.simulation_; }

      private:
        Owned& owner_;
    };

    simulation::Simulation& unguarded() { return simulation_; }

  private:
    simulation::Simulation simulation_;
    std::atomic<bool> busy_{false};
};

void bind_batch(nb::module_& module);

}  // namespace mooring::bindings
