#include "simulation/recording.h"

namespace mooring::simulation {

void record(const World& world, const Mechanisms& mechanisms, const State& state, StepSpace& space,
            Records& records) {
    Bodies<double>& bodies = space.before;
    dynamics::place_bodies(world.tree, state.q.data(), bodies);
    dynamics::move_bodies(world.tree, state.v.data(), static_cast<const double*>(nullptr),
                          world.settings.gravity, bodies);
    dynamics::weigh_bodies(world.tree, bodies);
    const StepSpace& s = space;
    const double time = static_cast<double>(state.steps) * world.settings.step;
    records.time.push_back(time);
    const auto append = [](std::vector<double>& out, const std::vector<double>& values) {
        out.insert(out.end(), values.begin(), values.end());
    };
    append(records.position, state.q);
    append(records.velocity, state.v);
    append(records.integral, state.integral);
    for (std::size_t k = 0; k < world.motors.size(); ++k) {
        const Target target =
            target_of(state.commands, k, world.motors[k], s.target.data(), s.target_speed.data());
        records.target.insert(records.target.end(), {target.position, target.velocity});
    }
    double potential = dynamics::potential_energy(bodies, world.settings.gravity);
    for (const tree::Spring& spring : world.tree.springs) {
        const double way = spring_row(spring, 0, bodies).gap;
        potential += 0.5 * spring.stiffness * way * way;
    }
    for (Index c = 0; c < world.tree.freedom_count(); ++c) {
        const tree::Freedom& f = world.tree.freedom(c);
        const double way = s.positions[static_cast<std::size_t>(c)] - f.rest;
        potential += 0.5 * f.stiffness * way * way;
    }
    double kinetic = dynamics::kinetic_energy(world.tree, bodies, state.v.data());
    for (std::size_t k = 0; k < world.motors.size(); ++k) {
        if (world.motors[k].geared()) {
            kinetic += 0.5 * world.motors[k].rotor * state.rotor_speed[k] * state.rotor_speed[k];
        }
    }
    for (const Mechanism& own : mechanisms.all) {
        potential += held_by_pulls(world, own, bodies, s.positions.data(), state.rotor);
    }
    potential += held_by_gives(world, bodies);
    const Work& work = state.work;
    append(records.energy, {kinetic, potential, work.motors, work.damping, work.friction,
                            work.contacts, work.commands});
    ++records.rows;
}

void drop_last(const World& world, Records& records) {
    const std::size_t m = world.tree.freedoms.size(), motors = world.motors.size();
    const auto cut = [](std::vector<double>& values, std::size_t count) {
        values.resize(values.size() - count);
    };
    cut(records.time, 1);
    cut(records.position, static_cast<std::size_t>(world.tree.coordinates));
    cut(records.velocity, m);
    cut(records.integral, motors);
    cut(records.target, 2 * motors);
    cut(records.energy, 7);
    --records.rows;
}

}  // namespace mooring::simulation
