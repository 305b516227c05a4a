// The simulation for Python: made of the arrays of `mooring.simulation`.
#include <nanobind/stl/pair.h>
#include <nanobind/stl/tuple.h>
#include <nanobind/stl/vector.h>

#include <limits>
#include <span>
#include <utility>

#include "bindings/checks.h"
#include "bindings/codes.h"
#include "bindings/owned.h"
#include "bindings/tree.h"
#include "bindings/world.h"
#include "simulation/laws/law_type.h"
#include "simulation/saving.h"

namespace mooring::bindings {

namespace {

using namespace mooring::simulation;

// An array of numbers in C++ that lives as long as the object it belongs to.
template <typename T>
nb::ndarray<nb::numpy, T> view(nb::handle owner, T* data,
                               std::initializer_list<std::size_t> shape) {
    return nb::ndarray<nb::numpy, T>(data, shape, owner);
}

nb::dict taken(Simulation& simulation) {
    Records& records = simulation.records();
    const World& world = simulation.world();
    const std::size_t m = world.tree.freedoms.size(), motors = world.motors.size(),
                      n = static_cast<std::size_t>(world.tree.coordinates);
    nb::dict out;
    const auto rows = static_cast<std::size_t>(records.rows);
    const auto table = [&](const char* name, std::vector<double>&& values, std::size_t columns) {
        // Nothing has columns, and still as many rows.
        if (columns == 0) {
            values.clear();
            auto* none = new std::vector<double>(1);
            const nb::capsule owner(
                none, [](void* p) noexcept { delete static_cast<std::vector<double>*>(p); });
            out[name] = nb::cast(
                nb::ndarray<nb::numpy, double>(none->data(), {rows, std::size_t{0}}, owner));
            return;
        }
        out[name] = given_away(std::move(values), columns);
    };
    out["time"] = given_away(std::move(records.time), 1, true);
    table("position", std::move(records.position), n);
    table("velocity", std::move(records.velocity), m);
    table("target", std::move(records.target), 2 * motors);
    table("effort", std::move(records.effort), motors);
    table("integral", std::move(records.integral), motors);
    table("energy", std::move(records.energy), 7);
    out["gap"] = given_away(std::move(records.gap), 1, true);
    out["touching"] = given_away(std::move(records.touching), 3);
    out["force"] = given_away(std::move(records.force), 7);
    records.rows = 0;
    return out;
}

nb::tuple measured(Simulation& simulation) {
    const std::size_t widest = widest_of(simulation.world().sensors);
    Records& records = simulation.records();
    return nb::make_tuple(given_away(std::move(records.sensor), 1, true),
                          given_away(std::move(records.measured), 1, true),
                          given_away(std::move(records.values), widest));
}

nb::dict noted(const State& state) {
    const Watch& watch = state.watch;
    const auto copy = [](const std::vector<double>& values, std::size_t columns, bool flat) {
        return given_away(std::vector<double>(values), columns, flat);
    };
    nb::dict out;
    out["tripped"] = copy(watch.tripped, 1, true);
    out["saturated"] = copy(watch.saturated, 3, false);
    out["stop"] = copy(watch.stop, 3, false);
    out["slip"] = copy(watch.slip, 1, true);
    out["resonance"] = copy(watch.resonance, 2, false);
    std::vector<Index> shapes;
    std::vector<double> overlaps;
    for (const Overlap& o : watch.overlaps) {
        shapes.insert(shapes.end(), {o.first, o.second});
        overlaps.insert(overlaps.end(), {o.since, o.depth, o.duration, o.parting});
    }
    out["overlapping"] = given_away(std::move(shapes), 2);
    out["overlap"] = given_away(std::move(overlaps), 4);
    out["gap"] = copy({watch.gap, watch.gap + 3}, 1, true);
    out["sweeps"] = copy({watch.sweeps, watch.sweeps + 3}, 1, true);
    out["fastest"] = copy({watch.fastest, watch.fastest + 3}, 1, true);
    return out;
}

template <typename T>
nb::list names_of(std::span<const T* const> all) {
    nb::list names;
    for (const T* one : all) {
        names.append(nb::str(one->name.data(), one->name.size()));
    }
    return names;
}

}  // namespace

void bind_simulation(nb::module_& module) {
    nb::class_<State>(module, "State", "All that the steps to come depend on.")
        .def_static(
            "of", [](const nb::bytes& bytes) { return unpacked({bytes.c_str(), bytes.size()}); },
            nb::arg("bytes"), "From what `packed` gave; ValueError if the bytes are no state.")
        .def(
            "packed",
            [](const State& self) {
                const std::string bytes = packed(self);
                return nb::bytes(bytes.data(), bytes.size());
            },
            "As bytes, for the same build of the core.");
    const auto of = [](nb::handle self) -> State& {
        return nb::cast<Owned&>(self).unguarded().state();
    };
    const auto property = [of](std::vector<double> State::* member) {
        return [of, member](nb::handle self) {
            std::vector<double>& values = of(self).*member;
            return view<double>(self, values.data(), {values.size()});
        };
    };
    const auto command = [of](std::vector<double> Commands::* member) {
        return [of, member](nb::handle self) {
            std::vector<double>& values = of(self).commands.*member;
            return view<double>(self, values.data(), {values.size()});
        };
    };
    module.attr("MODE_CODES") = codes<Mode>();
    module.attr("PROFILE_CODES") = codes<Profile>();
    module.attr("GROUND_CODES") = codes<contact::GroundKind>();
    module.attr("PROBES") = names_of(probes());
    module.attr("LAWS") = names_of(law_types());
    bind_batch(module);
    nb::class_<Owned>(module, "Simulation", "A scene that is stepped.")
        .def(
            "__init__",
            [](Owned* self, const KeptTree& kept, nb::handle motors, nb::handle forces,
               nb::handle scenery, nb::handle sensors, nb::handle timeline, nb::handle settings,
               bool accurate, Array<const double, 1> q, Array<const double, 1> v) {
                const tree::Tree& tree = kept.tree;
                check_shape(q, {static_cast<std::size_t>(tree.coordinates)}, "q");
                check_shape(v, {tree.freedoms.size()}, "v");
                check_values(v, "v");
                if (!tree.sound(q.data())) {
                    refuse("q must be finite, with quaternions of length one");
                }
                const Given given{motors, forces, scenery, sensors, timeline, settings};
                new (self) Owned(world_of(tree, given), accurate, copied(q), copied(v));
            },
            nb::arg("tree"), nb::arg("motors"), nb::arg("forces"), nb::arg("scenery"),
            nb::arg("sensors"), nb::arg("timeline"), nb::arg("settings"), nb::arg("accurate"),
            nb::arg("q"), nb::arg("v"))
        .def(
            "run",
            [](Owned& self, Index count) {
                integer_from(count, 0, 1'000'000'000, "count");
                const Owned::Turn turn(self);
                std::pair<End, Index> ended;
                {
                    const nb::gil_scoped_release free;
                    ended = turn->run(count);
                }
                return nb::make_tuple(ended.first == End::done, ended.second);
            },
            nb::arg("count"), "Take steps: whether all went well, and how many were taken.")
        .def(
            "take", [](Owned& self) { return taken(*Owned::Turn(self).operator->()); },
            "What was recorded since it was last taken, by name.")
        .def(
            "recorded",
            [](Owned& self) {
                const Records& records = self.unguarded().records();
                return std::pair(records.rows, static_cast<Index>(records.sensor.size()));
            },
            "How many rows, and how many measurements, wait to be taken.")
        .def(
            "measured", [](Owned& self) { return measured(*Owned::Turn(self).operator->()); },
            "Measurements since they were last taken: of which sensor, when, and the numbers.")
        .def(
            "noted",
            [](Owned& self) {
                const Owned::Turn turn(self);
                return noted(turn->state());
            },
            "What was noted for the diagnosis, by name.")
        .def(
            "save", [](Owned& self) { return State(Owned::Turn(self)->state()); },
            "The state, to be restored.")
        .def(
            "restore",
            [](Owned& self, const State& saved) {
                const Owned::Turn turn(self);
                if (!turn->fits(saved)) {
                    throw nb::value_error("the state is of another simulation");
                }
                turn->restore(saved);
            },
            nb::arg("saved"))
        .def(
            "set_bonds",
            [](Owned& self, Array<const Index, 1> first, Array<const Index, 1> second,
               Array<const double, 3> frames, Array<const double, 2> limits) {
                const Owned::Turn turn(self);
                const std::size_t count = first.size();
                const Index bodies = turn->world().tree.body_count();
                check_shape(second, {count}, "second");
                check_shape(frames, {count, 4, 4}, "frames");
                check_shape(limits, {count, 6}, "limits");
                check_values(frames, "frames");
                check_values(limits, "limits", Values::limits);
                std::vector<Bond> bonds;
                for (std::size_t k = 0; k < count; ++k) {
                    const double* row = limits.data() + 6 * k;
                    bonds.push_back({checked_index(first.data()[k], bodies, "body"),
                                     checked_index(second.data()[k], bodies, "body"),
                                     pose_at(frames.data(), k), Vec3{row[0], row[1], row[2]},
                                     row[3], row[4], row[5]});
                }
                turn->set_bonds(std::move(bonds));
            },
            nb::arg("first"), nb::arg("second"), nb::arg("frames"), nb::arg("limits"),
            "Hold pairs of bodies together, the second at a place (4, 4) on the first, up to "
            "limits "
            "(6,): an axis of the first, and what holds pulled along it, across it, and turned.")
        .def_prop_ro("bonds",
                     [of](nb::handle self) {
                         std::vector<std::pair<Index, Index>> pairs;
                         for (const Bond& bond : of(self).bonds) {
                             pairs.emplace_back(bond.first, bond.second);
                         }
                         return pairs;
                     })
        .def_prop_ro("touching",
                     [of](nb::handle self) {
                         std::vector<std::tuple<Index, Index, double>> found;
                         for (const contact::Contact& c : of(self).contact.contacts) {
                             found.emplace_back(c.body[0], c.body[1], c.gap);
                         }
                         return found;
                     })
        .def_prop_ro("rotor", property(&State::rotor))
        .def_prop_ro("rotor_speed", property(&State::rotor_speed))
        .def_prop_ro("belt", command(&Commands::belt))
        .def_prop_ro(
            "widths",
            [](nb::handle self) {
                std::vector<std::size_t> widths;
                for (const Sensor& sensor : nb::cast<Owned&>(self).unguarded().world().sensors) {
                    widths.push_back(sensor.width);
                }
                return widths;
            })
        .def_prop_ro("repeating",
                     [](nb::handle self) { return nb::cast<Owned&>(self).unguarded().repeating(); })
        .def_prop_rw(
            "steps", [of](nb::handle self) { return of(self).steps; },
            [of](nb::handle self, Index steps) {
                of(self).steps =
                    integer_from(steps, 0, std::numeric_limits<Index>::max() / 2, "steps");
            })
        .def_prop_ro("q", property(&State::q))
        .def_prop_ro("v", property(&State::v))
        .def_prop_ro("effort", property(&State::effort))
        .def_prop_ro("integral", property(&State::integral))
        .def_prop_ro("position", command(&Commands::position))
        .def_prop_ro("velocity", command(&Commands::velocity))
        .def_prop_ro("added", command(&Commands::effort))
        .def_prop_ro("held",
                     [of](nb::handle self) {
                         auto& held = of(self).commands.held;
                         return view<bool>(self, reinterpret_cast<bool*>(held.data()),
                                           {held.size()});
                     })
        .def_prop_ro("relaxed",
                     [of](nb::handle self) {
                         auto& relaxed = of(self).commands.relaxed;
                         return view<bool>(self, reinterpret_cast<bool*>(relaxed.data()),
                                           {relaxed.size()});
                     })
        .def_prop_ro("push",
                     [of](nb::handle self) {
                         auto& push = of(self).commands.push;
                         return view<double>(self, push.data(), {push.size() / 6, std::size_t{6}});
                     })
        .def_prop_ro("awake", [of](nb::handle self) {
            auto& awake = of(self).awake;
            return view<bool>(self, reinterpret_cast<bool*>(awake.data()), {awake.size()});
        });
}

}  // namespace mooring::bindings
