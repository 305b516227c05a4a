// Many simulations at once for Python: arrays in, arrays out.
#include "simulation/batch.h"

#include <nanobind/stl/vector.h>

#include "bindings/owned.h"

namespace mooring::bindings {

namespace {

using namespace mooring::simulation;

std::size_t z(Index k) { return static_cast<std::size_t>(k); }

// A batch, and what is read and told of each member.
struct Many {
    Batch batch;
    std::vector<Reading> readings;
    std::vector<Telling> tellings;
};

void refuse_index(Index index, std::size_t count, const char* what) {
    if (index < 0 || z(index) >= count) {
        throw nb::value_error(what);
    }
}

std::vector<Reading> readings_of(const Simulation& first, Array<const Index, 2> rows) {
    std::vector<Reading> found;
    const World& world = first.world();
    const std::size_t counts[] = {first.state().q.size(), first.state().v.size(),
                                  world.motors.size(), world.sensors.size()};
    for (std::size_t k = 0; k < rows.shape(0); ++k) {
        const Index* row = rows.data() + 3 * k;
        refuse_index(row[0], 4, "there is no such kind of reading");
        refuse_index(row[1], counts[row[0]], "there is no such row to read");
        const auto kind = static_cast<Reads>(row[0]);
        if (kind == Reads::sensor) {
            refuse_index(row[2], z(world.sensors[z(row[1])].width), "there is no such column");
        }
        found.push_back({kind, row[1], row[2]});
    }
    return found;
}

std::vector<Telling> tellings_of(const Simulation& first, Array<const Index, 2> rows) {
    std::vector<Telling> found;
    for (std::size_t k = 0; k < rows.shape(0); ++k) {
        const Index* row = rows.data() + 2 * k;
        refuse_index(row[0], 3, "there is no such kind of telling");
        refuse_index(row[1], first.world().motors.size(), "there is no such motor");
        found.push_back({static_cast<Tells>(row[0]), row[1]});
    }
    return found;
}

}  // namespace

void bind_batch(nb::module_& module) {
    nb::class_<Many>(module, "Batch", "Many copies of a simulation, stepped together.")
        .def(
            "__init__",
            [](Many* self, Owned& first, Index count, unsigned threads,
               Array<const Index, 2> readings, Array<const Index, 2> tellings) {
                if (count < 1 || threads < 1) {
                    throw nb::value_error("a batch has at least one member and one thread");
                }
                if (readings.shape(1) != 3 || tellings.shape(1) != 2) {
                    throw nb::value_error("readings are (k, 3), tellings (k, 2)");
                }
                const Owned::Turn turn(first);
                const Simulation& simulation = *turn.operator->();
                new (self) Many{{simulation, count, threads},
                                readings_of(simulation, readings),
                                tellings_of(simulation, tellings)};
            },
            nb::arg("first"), nb::arg("count"), nb::arg("threads"), nb::arg("readings"),
            nb::arg("tellings"),
            "Copies of a simulation as it is. Readings (k, 3): of what (position, velocity, effort "
            "or sensor), which row, which column of a sensor; tellings (k, 2): what (position, "
            "velocity or effort) to which motor.")
        .def(
            "run",
            [](Many& self, Index count, Array<const bool, 1> wanted, Array<bool, 1> exploded) {
                const auto size = z(self.batch.size());
                if (wanted.shape(0) != size || exploded.shape(0) != size) {
                    throw nb::value_error("there is one entry for each member");
                }
                const nb::gil_scoped_release free;
                self.batch.run(count, reinterpret_cast<const char*>(wanted.data()),
                               reinterpret_cast<char*>(exploded.data()));
            },
            nb::arg("count"), nb::arg("wanted"), nb::arg("exploded"),
            "Step those that are wanted; which exploded is written.")
        .def(
            "read",
            [](const Many& self, Array<double, 2> out) {
                if (out.shape(0) != z(self.batch.size()) || out.shape(1) != self.readings.size()) {
                    throw nb::value_error("what is read is (members, readings)");
                }
                const nb::gil_scoped_release free;
                self.batch.read(self.readings, out.data());
            },
            nb::arg("out"), "Write what is to be read, (members, readings).")
        .def(
            "tell",
            [](Many& self, Array<const double, 2> values, Array<const bool, 1> wanted) {
                const auto size = z(self.batch.size());
                if (values.shape(0) != size || values.shape(1) != self.tellings.size() ||
                    wanted.shape(0) != size) {
                    throw nb::value_error("what is told is (members, tellings)");
                }
                const nb::gil_scoped_release free;
                self.batch.tell(self.tellings, values.data(),
                                reinterpret_cast<const char*>(wanted.data()));
            },
            nb::arg("values"), nb::arg("wanted"), "Tell those that are wanted.")
        .def(
            "begin",
            [](Many& self, Index member, const State& state, Array<const double, 1> q,
               Array<const double, 1> v) {
                refuse_index(member, z(self.batch.size()), "there is no such member");
                const Simulation& first = self.batch.first();
                if (!first.fits(state) || q.shape(0) != first.state().q.size() ||
                    v.shape(0) != first.state().v.size()) {
                    throw nb::value_error("the state is of another simulation");
                }
                self.batch.begin(member, state, q.data(), v.data());
            },
            nb::arg("member"), nb::arg("state"), nb::arg("q"), nb::arg("v"),
            "Put one where a state, q and v say; motors hold it there.");
}

}  // namespace mooring::bindings
