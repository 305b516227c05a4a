#include "simulation/batch.h"

#include <algorithm>
#include <cmath>
#include <limits>

namespace mooring::simulation {

namespace {

std::size_t z(Index k) { return static_cast<std::size_t>(k); }

}  // namespace

Batch::Batch(const Simulation& first, Index count, unsigned threads) : team_(threads) {
    const World& world = first.world();
    widest_ = widest_of(world.sensors);
    for (Index k = 0; k < count; ++k) {
        members_.push_back(std::make_unique<Simulation>(world, first.is_accurate(), first.state().q,
                                                        first.state().v));
        members_.back()->restore(first.state());
    }
    measured_.assign(z(count) * world.sensors.size() * widest_,
                     std::numeric_limits<double>::quiet_NaN());
}

void Batch::run(Index count, const char* wanted, char* exploded) {
    team_.share(size(), [&](Index k, std::size_t) {
        exploded[k] = 0;
        if (wanted[k] != 0) {
            exploded[k] = members_[z(k)]->run(count).first == End::exploded ? 1 : 0;
            keep_measurements(k);
        }
    });
}

// The newest of each sensor; nothing else that was recorded is wanted.
void Batch::keep_measurements(Index member) {
    Records& records = members_[z(member)]->records();
    double* const mine = measured_.data() + z(member) * first().world().sensors.size() * widest_;
    for (std::size_t k = 0; k < records.sensor.size(); ++k) {
        std::copy_n(records.values.data() + k * widest_, widest_,
                    mine + z(records.sensor[k]) * widest_);
    }
    records.sensor.clear();
    records.measured.clear();
    records.values.clear();
}

void Batch::read(const std::vector<Reading>& what, double* out) const {
    const std::size_t sensors = first().world().sensors.size();
    for (std::size_t member = 0; member < members_.size(); ++member) {
        const State& state = members_[member]->state();
        for (const Reading& reading : what) {
            const std::size_t row = z(reading.row);
            switch (reading.kind) {
                case Reads::position:
                    *out++ = state.q[row];
                    break;
                case Reads::velocity:
                    *out++ = state.v[row];
                    break;
                case Reads::effort:
                    *out++ = state.effort[row];
                    break;
                case Reads::sensor:
                    *out++ = measured_[(member * sensors + row) * widest_ + z(reading.column)];
                    break;
            }
        }
    }
}

void Batch::tell(const std::vector<Telling>& what, const double* values, const char* wanted) {
    for (std::size_t member = 0; member < members_.size(); ++member) {
        const double* const mine = values + member * what.size();
        if (wanted[member] == 0) {
            continue;
        }
        Commands& commands = members_[member]->state().commands;
        for (std::size_t k = 0; k < what.size(); ++k) {
            const std::size_t motor = z(what[k].motor);
            if (what[k].kind == Tells::effort) {
                commands.effort[motor] = mine[k];
                continue;
            }
            commands.held[motor] = 1;
            (what[k].kind == Tells::position ? commands.position : commands.velocity)[motor] =
                mine[k];
        }
    }
}

void Batch::begin(Index member, const State& state, const double* q, const double* v) {
    Simulation& simulation = *members_[z(member)];
    simulation.restore(state);
    State& mine = simulation.state();
    std::copy_n(q, mine.q.size(), mine.q.begin());
    std::copy_n(v, mine.v.size(), mine.v.begin());
    const World& world = simulation.world();
    for (std::size_t k = 0; k < world.motors.size(); ++k) {
        mine.commands.held[k] = 1;
        mine.commands.position[k] = q[world.tree.freedom(world.motors[k].freedom).position];
    }
    const std::size_t each = world.sensors.size() * widest_;
    std::fill_n(measured_.data() + z(member) * each, each,
                std::numeric_limits<double>::quiet_NaN());
}

}  // namespace mooring::simulation
