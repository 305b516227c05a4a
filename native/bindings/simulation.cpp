// The simulation for Python: made of the arrays of `mooring.simulation`.
#include <nanobind/stl/pair.h>
#include <nanobind/stl/tuple.h>
#include <nanobind/stl/vector.h>

#include <utility>

#include "bindings/owned.h"
#include "bindings/tree.h"
#include "simulation/saving.h"

namespace mooring::bindings {

namespace {

using namespace mooring::simulation;

std::vector<double> copied(const Array<const double, 1>& values) {
    return {values.data(), values.data() + values.size()};
}

// An array of numbers in C++ that lives as long as the object it belongs to.
template <typename T>
nb::ndarray<nb::numpy, T> view(nb::handle owner, T* data,
                               std::initializer_list<std::size_t> shape) {
    return nb::ndarray<nb::numpy, T>(data, shape, owner);
}

std::vector<Motor> motors_of(nb::handle arrays, const tree::Tree& tree) {
    const auto freedom = field<const Index, 1>(arrays, "freedom"),
               mode = field<const Index, 1>(arrays, "mode");
    const auto row = [&](const char* name) {
        auto values = field<const double, 1>(arrays, name);
        refuse_length(values, freedom.size(), name);
        return values;
    };
    const auto p = row("p"), i = row("i"), d = row("d"), effort = row("effort"),
               speed = row("speed"), stall = row("stall"), no_load = row("no_load"),
               efficiency = row("efficiency"), resolution = row("resolution"), rotor = row("rotor"),
               play = row("play"), stiffness = row("stiffness");
    const auto by_rotor = field<const bool, 1>(arrays, "by_rotor");
    refuse_length(by_rotor, freedom.size(), "by_rotor");
    const auto delay = field<const Index, 1>(arrays, "delay"),
               period = field<const Index, 1>(arrays, "period");
    refuse_length(delay, freedom.size(), "delay");
    refuse_length(period, freedom.size(), "period");
    const auto weightless = field<const bool, 1>(arrays, "weightless"),
               trips = field<const bool, 1>(arrays, "trips");
    refuse_length(mode, freedom.size(), "mode");
    refuse_length(weightless, freedom.size(), "weightless");
    refuse_length(trips, freedom.size(), "trips");
    std::vector<Motor> made;
    for (std::size_t k = 0; k < freedom.size(); ++k) {
        const Index c = freedom.data()[k];
        if (c < 0 || c >= tree.freedom_count() || tree.freedom(c).position < 0) {
            throw nb::index_error("a motor names a freedom that is not there");
        }
        made.push_back({c, static_cast<Mode>(mode.data()[k]), p.data()[k], i.data()[k], d.data()[k],
                        effort.data()[k], speed.data()[k], weightless.data()[k], trips.data()[k],
                        stall.data()[k], no_load.data()[k], efficiency.data()[k], delay.data()[k],
                        std::max<Index>(1, period.data()[k]), resolution.data()[k], rotor.data()[k],
                        play.data()[k], stiffness.data()[k], by_rotor.data()[k]});
    }
    return made;
}

Index body_in(nb::handle value, const tree::Tree& tree) {
    const auto body = nb::cast<Index>(value);
    if (body < 0 || body >= tree.body_count()) {
        throw nb::index_error("a body that is not there");
    }
    return body;
}

Index freedom_in(nb::handle value, const tree::Tree& tree) {
    const auto freedom = nb::cast<Index>(value);
    if (freedom < 0 || freedom >= tree.freedom_count() || tree.freedom(freedom).position < 0) {
        throw nb::index_error("a freedom that is not there");
    }
    return freedom;
}

std::vector<Cable> cables_of(nb::handle list, const tree::Tree& tree) {
    std::vector<Cable> made;
    for (const nb::handle one : list) {
        Cable cable{};
        for (const nb::handle point : one.attr("points")) {
            cable.points.push_back({body_in(point[nb::int_(0)], tree), vec_of(point[nb::int_(1)])});
        }
        for (const nb::handle drum : one.attr("drums")) {
            cable.drums.push_back(
                {freedom_in(drum[nb::int_(0)], tree), nb::cast<double>(drum[nb::int_(1)])});
        }
        cable.length = nb::cast<double>(one.attr("length"));
        cable.stiffness = nb::cast<double>(one.attr("stiffness"));
        cable.damping = nb::cast<double>(one.attr("damping"));
        cable.pushes = nb::cast<bool>(one.attr("pushes"));
        made.push_back(cable);
    }
    return made;
}

std::vector<Give> gives_of(nb::handle arrays, const tree::Tree& tree) {
    const auto rows = field<const double, 2>(arrays, "gives");
    refuse_length(rows, tree.closures.size(), "gives");
    std::vector<Give> made;
    for (std::size_t k = 0; k < tree.closures.size(); ++k) {
        const double* row = rows.data() + 5 * k;
        made.push_back({row[0], row[1], row[2], row[3], row[4]});
    }
    return made;
}

std::vector<Law> laws_of(nb::handle list, const tree::Tree& tree) {
    std::vector<Law> made;
    for (const nb::handle one : list) {
        Law law{};
        law.kind = static_cast<Pushes>(nb::cast<int>(one.attr("kind")));
        law.body = body_in(one.attr("body"), tree);
        law.freedom = law.kind == Pushes::rotor ? freedom_in(one.attr("freedom"), tree) : -1;
        const auto frame = field<const double, 2>(one, "frame");
        if (frame.size() != 16) {
            throw nb::value_error("a frame is (4, 4)");
        }
        law.on_body = pose_at(frame.data(), 0);
        const auto numbers = field<const double, 1>(one, "numbers");
        refuse_length(numbers, 3, "numbers");
        law.a = numbers.data()[0];
        law.b = numbers.data()[1];
        law.c = numbers.data()[2];
        const auto points = field<const double, 2>(one, "points");
        const auto volumes = field<const double, 1>(one, "volumes");
        refuse_length(points, volumes.size(), "points");
        for (std::size_t k = 0; k < volumes.size(); ++k) {
            law.points.push_back(triple_at(points.data(), k));
            law.volumes.push_back(volumes.data()[k]);
        }
        made.push_back(law);
    }
    return made;
}

contact::Scenery scenery_of(nb::handle arrays, const tree::Tree& tree) {
    contact::Scenery made;
    made.shapes = shapes_of(arrays.attr("shapes"));
    if (made.shapes.count() == 0) {
        throw nb::value_error("the last of the shapes is the point that probes the ground");
    }
    for (const overlaps::Shape& shape : made.shapes.shapes) {
        if (shape.body < 0 || shape.body >= tree.body_count()) {
            throw nb::index_error("a shape is on a body that is not there");
        }
        made.moves.push_back(tree.tip(shape.body) >= 0);
    }
    const auto surface = field<const double, 2>(arrays, "surface");
    refuse_length(surface, made.shapes.shapes.size() + 1, "surface");
    for (std::size_t s = 0; s < surface.shape(0); ++s) {
        const double* row = surface.data() + 6 * s;
        made.surfaces.push_back({row[0], row[1], row[2], row[3], row[4], row[5]});
    }
    const auto group = field<const Index, 1>(arrays, "group");
    refuse_length(group, tree.bodies.size(), "group");
    made.group.assign(group.data(), group.data() + group.size());
    const auto apart = field<const Index, 2>(arrays, "apart");
    for (std::size_t k = 0; k < apart.shape(0); ++k) {
        const Index a = apart.data()[2 * k], b = apart.data()[2 * k + 1];
        made.apart.emplace_back(std::min(a, b), std::max(a, b));
    }
    std::sort(made.apart.begin(), made.apart.end());
    made.touches = nb::cast<bool>(arrays.attr("touches"));
    contact::Ground& ground = made.ground;
    ground.kind = static_cast<contact::GroundKind>(nb::cast<int>(arrays.attr("ground")));
    ground.level = nb::cast<double>(arrays.attr("level"));
    const auto heights = field<const double, 2>(arrays, "heights");
    ground.heights.assign(heights.data(), heights.data() + heights.size());
    ground.rows = static_cast<Index>(heights.shape(0));
    ground.columns = static_cast<Index>(heights.shape(1));
    const auto grid = field<const double, 1>(arrays, "grid");
    refuse_length(grid, 4, "grid");
    ground.x = grid.data()[0];
    ground.y = grid.data()[1];
    ground.cell_x = grid.data()[2];
    ground.cell_y = grid.data()[3];
    return made;
}

std::vector<Sensor> sensors_of(nb::handle arrays, const tree::Tree& tree) {
    const auto kind = field<const Index, 1>(arrays, "kind"),
               body = field<const Index, 1>(arrays, "body"),
               freedom = field<const Index, 1>(arrays, "freedom"),
               width = field<const Index, 1>(arrays, "width");
    const auto place = field<const double, 2>(arrays, "place");
    const auto turn = field<const double, 3>(arrays, "turn");
    const auto rate = field<const double, 1>(arrays, "rate");
    for (const auto* row : {&body, &freedom, &width}) {
        refuse_length(*row, kind.size(), "a row of sensors");
    }
    refuse_length(place, kind.size(), "place");
    refuse_length(turn, kind.size(), "turn");
    refuse_length(rate, kind.size(), "rate");
    std::vector<Sensor> made;
    for (std::size_t n = 0; n < kind.size(); ++n) {
        if (body.data()[n] < 0 || body.data()[n] >= tree.body_count() || freedom.data()[n] < 0 ||
            freedom.data()[n] >= std::max<Index>(1, tree.freedom_count())) {
            throw nb::index_error("a sensor is on something that is not there");
        }
        made.push_back({static_cast<Sees>(kind.data()[n]),
                        body.data()[n],
                        freedom.data()[n],
                        {matrix_at(turn.data(), n), triple_at(place.data(), n)},
                        rate.data()[n],
                        width.data()[n]});
    }
    return made;
}

Timeline timeline_of(nb::handle arrays, const tree::Tree& tree) {
    const auto starts = field<const double, 1>(arrays, "starts"),
               ends = field<const double, 1>(arrays, "ends"),
               ramp = field<const double, 1>(arrays, "ramp"),
               advance = field<const double, 1>(arrays, "advance");
    const auto kind = field<const Index, 1>(arrays, "kind");
    const auto points = field<const double, 2>(arrays, "points");
    const auto speeds = field<const double, 3>(arrays, "speeds");
    const std::size_t count = starts.size(), m = tree.freedoms.size();
    refuse_length(ends, count, "ends");
    refuse_length(ramp, count, "ramp");
    refuse_length(kind, count, "kind");
    refuse_length(points, count + 1, "points");
    refuse_length(speeds, count, "speeds");
    refuse_length(advance, m, "advance");
    if (points.size() != (count + 1) * m || speeds.size() != 2 * count * m) {
        throw nb::value_error("targets must be of all freedoms");
    }
    Timeline made;
    for (std::size_t k = 0; k < count; ++k) {
        made.ways.push_back({starts.data()[k], ends.data()[k], static_cast<Profile>(kind.data()[k]),
                             ramp.data()[k]});
    }
    made.points.assign(points.data(), points.data() + points.size());
    made.speeds.assign(speeds.data(), speeds.data() + speeds.size());
    made.advance = copied(advance);
    made.again = nb::cast<double>(arrays.attr("again"));
    made.period = nb::cast<double>(arrays.attr("period"));
    return made;
}

Settings settings_of(nb::handle given) {
    Settings made;
    made.gravity = vec_of(given.attr("gravity"));
    made.step = nb::cast<double>(given.attr("step"));
    made.every = nb::cast<Index>(given.attr("every"));
    made.most_sweeps = nb::cast<Index>(given.attr("most_sweeps"));
    made.accuracy = nb::cast<double>(given.attr("accuracy"));
    made.sleeps = nb::cast<bool>(given.attr("sleeps"));
    made.threads = nb::cast<unsigned>(given.attr("threads"));
    return made;
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
    std::size_t widest = 1;
    for (const Sensor& sensor : simulation.world().sensors) {
        widest = std::max(widest, static_cast<std::size_t>(sensor.width));
    }
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
    bind_batch(module);
    nb::class_<Owned>(module, "Simulation", "A scene that is stepped.")
        .def(
            "__init__",
            [](Owned* self, const KeptTree& kept, nb::handle motors, nb::handle forces,
               nb::handle scenery, nb::handle sensors, nb::handle timeline, nb::handle settings,
               bool accurate, Array<const double, 1> q, Array<const double, 1> v) {
                const tree::Tree& tree = kept.tree;
                state<const double>(q, tree.coordinates);
                state<const double>(v, tree.freedom_count());
                World world{tree,
                            motors_of(motors, tree),
                            cables_of(forces.attr("cables"), tree),
                            gives_of(forces, tree),
                            laws_of(forces.attr("laws"), tree),
                            scenery_of(scenery, tree),
                            sensors_of(sensors, tree),
                            timeline_of(timeline, tree),
                            settings_of(settings)};
                new (self) Owned(std::move(world), accurate, copied(q), copied(v));
            },
            nb::arg("tree"), nb::arg("motors"), nb::arg("forces"), nb::arg("scenery"),
            nb::arg("sensors"), nb::arg("timeline"), nb::arg("settings"), nb::arg("accurate"),
            nb::arg("q"), nb::arg("v"))
        .def(
            "run",
            [](Owned& self, Index count) {
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
                refuse_length(second, first.size(), "second");
                refuse_length(frames, first.size(), "frames");
                refuse_length(limits, first.size(), "limits");
                std::vector<Bond> bonds;
                for (std::size_t k = 0; k < first.size(); ++k) {
                    const double* row = limits.data() + 6 * k;
                    bonds.push_back({first.data()[k], second.data()[k], pose_at(frames.data(), k),
                                     Vec3{row[0], row[1], row[2]}, row[3], row[4], row[5]});
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
        .def_prop_ro("repeating",
                     [](nb::handle self) { return nb::cast<Owned&>(self).unguarded().repeating(); })
        .def_prop_rw(
            "steps", [of](nb::handle self) { return of(self).steps; },
            [of](nb::handle self, Index steps) { of(self).steps = steps; })
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
