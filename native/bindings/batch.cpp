// Many simulations at once for Python: arrays in, arrays out.
#include "simulation/batch.h"

#include <nanobind/stl/vector.h>

#include "bindings/checks.h"
#include "bindings/codes.h"
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

std::vector<Reading> readings_of(const Simulation& first, Array<const Index, 2> rows) {
    std::vector<Reading> found;
    const World& world = first.world();
    const std::size_t counts[] = {first.state().q.size(), first.state().v.size(),
                                  world.motors.size(), world.sensors.size()};
    for (std::size_t k = 0; k < rows.shape(0); ++k) {
        const Index* row = rows.data() + 3 * k;
        const auto kind = code<Reads>(row[0], "a reading");
        checked_index(row[1], static_cast<Index>(counts[row[0]]), "the row of a reading");
        if (kind == Reads::sensor) {
            const std::size_t width = world.sensors[z(row[1])].width;
            checked_index(row[2], static_cast<Index>(width), "the column of a sensor");
        }
        found.push_back({kind, row[1], row[2]});
    }
    return found;
}

std::vector<Telling> tellings_of(const Simulation& first, Array<const Index, 2> rows) {
    std::vector<Telling> found;
    for (std::size_t k = 0; k < rows.shape(0); ++k) {
        const Index* row = rows.data() + 2 * k;
        const auto motors = static_cast<Index>(first.world().motors.size());
        found.push_back({code<Tells>(row[0], "a command"), checked_index(row[1], motors, "motor")});
    }
    return found;
}

}  // namespace

void bind_batch(nb::module_& module) {
    module.attr("READING_CODES") = codes<Reads>();
    module.attr("COMMAND_CODES") = codes<Tells>();
    nb::class_<Many>(module, "Batch", "Many copies of a simulation, stepped together.")
        .def(
            "__init__",
            [](Many* self, Owned& first, Index count, unsigned threads,
               Array<const Index, 2> readings, Array<const Index, 2> tellings) {
                integer_from(count, 1, 100'000'000, "count");
                integer_from(threads, 1, 1024, "threads");
                check_shape(readings, {readings.shape(0), 3}, "readings");
                check_shape(tellings, {tellings.shape(0), 2}, "tellings");
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
                check_shape(wanted, {size}, "wanted");
                check_shape(exploded, {size}, "exploded");
                integer_from(count, 0, 1'000'000'000, "count");
                const nb::gil_scoped_release free;
                self.batch.run(count, reinterpret_cast<const char*>(wanted.data()),
                               reinterpret_cast<char*>(exploded.data()));
            },
            nb::arg("count"), nb::arg("wanted"), nb::arg("exploded"),
            "Step those that are wanted; which exploded is written.")
        .def(
            "read",
            [](const Many& self, Array<double, 2> out) {
                check_shape(out, {z(self.batch.size()), self.readings.size()}, "out");
                const nb::gil_scoped_release free;
                self.batch.read(self.readings, out.data());
            },
            nb::arg("out"), "Write what is to be read, (members, readings).")
        .def(
            "tell",
            [](Many& self, Array<const double, 2> values, Array<const bool, 1> wanted) {
                const auto size = z(self.batch.size());
                check_shape(values, {size, self.tellings.size()}, "values");
                check_shape(wanted, {size}, "wanted");
                check_values(values, "values");
                const nb::gil_scoped_release free;
                self.batch.tell(self.tellings, values.data(),
                                reinterpret_cast<const char*>(wanted.data()));
            },
            nb::arg("values"), nb::arg("wanted"), "Tell those that are wanted.")
        .def(
            "begin",
            [](Many& self, Index member, const State& state, Array<const double, 1> q,
               Array<const double, 1> v) {
                checked_index(member, self.batch.size(), "member");
                const Simulation& first = self.batch.first();
                check_shape(q, {first.state().q.size()}, "q");
                check_shape(v, {first.state().v.size()}, "v");
                check_values(v, "v");
                if (!first.fits(state)) {
                    throw nb::value_error("the state is of another simulation");
                }
                if (!first.world().tree.sound(q.data())) {
                    throw nb::value_error("q must be finite, with quaternions of length one");
                }
                self.batch.begin(member, state, q.data(), v.data());
            },
            nb::arg("member"), nb::arg("state"), nb::arg("q"), nb::arg("v"),
            "Put one where a state, q and v say; motors hold it there.");
}

}  // namespace mooring::bindings
