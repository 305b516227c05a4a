#include "bindings/world.h"

#include <nanobind/stl/string.h>
#include <nanobind/stl/vector.h>

#include <algorithm>
#include <string>

#include "bindings/checks.h"
#include "bindings/codes.h"
#include "simulation/laws/law_type.h"
#include "simulation/sensors/probe.h"

namespace mooring::bindings {

namespace {

using namespace mooring::simulation;

// A drive keeps this many steps of what it saw at most.
constexpr Index kLongestDelay = 10'000'000;

Index moving_freedom(Index freedom, const tree::Tree& tree) {
    checked_index(freedom, tree.freedom_count(), "freedom");
    if (tree.freedom(freedom).position < 0) {
        throw nb::index_error("the freedom of a floating joint has no position of its own");
    }
    return freedom;
}

std::vector<Motor> motors_of(nb::handle arrays, const tree::Tree& tree) {
    const auto freedom = field<Index>(arrays, "freedom");
    const std::size_t count = freedom.size();
    const auto row = [&](const char* name, Values values = Values::finite) {
        return column<double>(arrays, name, count, values);
    };
    const auto whole = [&](const char* name) { return column<Index>(arrays, name, count); };
    const auto flag = [&](const char* name) { return column<bool>(arrays, name, count); };
    const auto mode = whole("mode"), delay = whole("delay"), period = whole("period");
    const auto p = row("p"), i = row("i"), d = row("d"), efficiency = row("efficiency"),
               resolution = row("resolution"), rotor = row("rotor"), play = row("play");
    const auto effort = row("effort", Values::limits), speed = row("speed", Values::limits),
               stall = row("stall", Values::limits), no_load = row("no_load", Values::limits),
               stiffness = row("stiffness", Values::limits);
    const auto by_rotor = flag("by_rotor"), weightless = flag("weightless"), trips = flag("trips");
    std::vector<Motor> made;
    for (std::size_t k = 0; k < count; ++k) {
        made.push_back({moving_freedom(freedom.data()[k], tree),
                        code<Mode>(mode.data()[k], "the mode of a motor"), p.data()[k], i.data()[k],
                        d.data()[k], effort.data()[k], speed.data()[k], weightless.data()[k],
                        trips.data()[k], stall.data()[k], no_load.data()[k], efficiency.data()[k],
                        integer_from(delay.data()[k], 0, kLongestDelay, "delay"),
                        integer_from(period.data()[k], 1, kLongestDelay, "period"),
                        resolution.data()[k], rotor.data()[k], play.data()[k], stiffness.data()[k],
                        by_rotor.data()[k]});
    }
    return made;
}

std::vector<Cable> cables_of(nb::handle list, const tree::Tree& tree) {
    std::vector<Cable> made;
    for (const nb::handle one : list) {
        Cable cable{};
        for (const nb::handle point : one.attr("points")) {
            const auto body = nb::cast<Index>(point[nb::int_(0)]);
            cable.points.push_back({checked_index(body, tree.body_count(), "body"),
                                    vector_of(point[nb::int_(1)], "a point of a cable")});
        }
        for (const nb::handle drum : one.attr("drums")) {
            cable.drums.push_back(
                {moving_freedom(nb::cast<Index>(drum[nb::int_(0)]), tree),
                 checked(nb::cast<double>(drum[nb::int_(1)]), "the lever of a drum")});
        }
        cable.length = number(one, "length");
        cable.stiffness = number(one, "stiffness", Values::limits);
        cable.damping = number(one, "damping");
        cable.pushes = nb::cast<bool>(one.attr("pushes"));
        made.push_back(std::move(cable));
    }
    return made;
}

std::vector<Give> gives_of(nb::handle arrays, const tree::Tree& tree) {
    const auto rows = table<double>(arrays, "gives", tree.closures.size(), 5, Values::limits);
    std::vector<Give> made;
    for (std::size_t k = 0; k < tree.closures.size(); ++k) {
        const double* row = rows.data() + 5 * k;
        made.push_back({row[0], row[1], row[2], row[3], row[4]});
    }
    return made;
}

Law law_of(nb::handle given, const tree::Tree& tree) {
    Law law{};
    const auto name = nb::cast<std::string>(given.attr("type"));
    law.type = find_law_type(name);
    if (law.type == nullptr) {
        refuse("the core has no force law '" + name + "'");
    }
    law.body = checked_index(nb::cast<Index>(given.attr("body")), tree.body_count(), "body");
    const auto freedom = nb::cast<Index>(given.attr("freedom"));
    law.freedom = law.type->needs_freedom ? moving_freedom(freedom, tree) : -1;
    law.on_body = pose_at(table<double>(given, "frame", 4, 4).data(), 0);
    const auto numbers = column<double>(given, "numbers", law.type->numbers);
    law.numbers.assign(numbers.data(), numbers.data() + numbers.size());
    const auto volumes = field<double>(given, "volumes");
    const auto points = table<double>(given, "points", volumes.size(), 3);
    if (law.type->needs_points == (volumes.size() == 0)) {
        refuse("the force law '" + name + "' acts " +
               (law.type->needs_points ? "on pieces of a volume" : "at one point"));
    }
    for (std::size_t k = 0; k < volumes.size(); ++k) {
        law.points.push_back(triple_at(points.data(), k));
        law.volumes.push_back(volumes.data()[k]);
    }
    return law;
}

std::vector<Law> laws_of(nb::handle list, const tree::Tree& tree) {
    std::vector<Law> made;
    for (const nb::handle one : list) {
        made.push_back(law_of(one, tree));
    }
    return made;
}

contact::Ground ground_of(nb::handle arrays) {
    contact::Ground ground;
    ground.kind = code<contact::GroundKind>(nb::cast<Index>(arrays.attr("ground")), "the ground");
    ground.level = number(arrays, "level");
    const auto heights = field<double, 2>(arrays, "heights");
    if (heights.shape(0) < 2 || heights.shape(1) < 2) {
        refuse("uneven ground has at least 2 by 2 heights");
    }
    ground.heights.assign(heights.data(), heights.data() + heights.size());
    ground.rows = static_cast<Index>(heights.shape(0));
    ground.columns = static_cast<Index>(heights.shape(1));
    const auto grid = column<double>(arrays, "grid", 4);
    ground.x = grid.data()[0];
    ground.y = grid.data()[1];
    ground.cell_x = grid.data()[2];
    ground.cell_y = grid.data()[3];
    if (ground.cell_x <= 0.0 || ground.cell_y <= 0.0) {
        refuse("the cells of uneven ground must be larger than zero");
    }
    return ground;
}

contact::Scenery scenery_of(nb::handle arrays, const tree::Tree& tree) {
    contact::Scenery made;
    made.shapes = shapes_of(arrays.attr("shapes"));
    if (made.shapes.count() == 0) {
        refuse("the last of the shapes is the point that probes the ground");
    }
    for (const overlaps::Shape& shape : made.shapes.shapes) {
        made.moves.push_back(
            tree.tip(checked_index(shape.body, tree.body_count(), "the body of a shape")) >= 0);
    }
    const std::size_t count = made.shapes.shapes.size() + 1;
    const auto surface = table<double>(arrays, "surface", count, 6, Values::limits);
    for (std::size_t s = 0; s < count; ++s) {
        const double* row = surface.data() + 6 * s;
        made.surfaces.push_back({row[0], row[1], row[2], row[3], row[4], row[5]});
    }
    const auto group = column<Index>(arrays, "group", tree.bodies.size());
    made.group.assign(group.data(), group.data() + group.size());
    const auto apart = field<Index, 2>(arrays, "apart");
    check_shape(apart, {apart.shape(0), 2}, "apart");
    for (std::size_t k = 0; k < apart.shape(0); ++k) {
        const Index a = checked_index(apart.data()[2 * k], tree.body_count(), "body"),
                    b = checked_index(apart.data()[2 * k + 1], tree.body_count(), "body");
        made.apart.emplace_back(std::min(a, b), std::max(a, b));
    }
    std::sort(made.apart.begin(), made.apart.end());
    made.touches = nb::cast<bool>(arrays.attr("touches"));
    made.ground = ground_of(arrays);
    return made;
}

std::vector<Sensor> sensors_of(nb::handle arrays, const tree::Tree& tree) {
    const auto names = nb::cast<std::vector<std::string>>(arrays.attr("probe"));
    const std::size_t count = names.size();
    const auto body = column<Index>(arrays, "body", count),
               freedom = column<Index>(arrays, "freedom", count);
    const auto place = table<double>(arrays, "place", count, 3);
    const auto turn = matrices(arrays, "turn", count, 3);
    const auto rate = column<double>(arrays, "rate", count);
    std::vector<Sensor> made;
    for (std::size_t n = 0; n < count; ++n) {
        const Probe* probe = find_probe(names[n]);
        if (probe == nullptr) {
            refuse("the core has no probe '" + names[n] + "'");
        }
        if (!(rate.data()[n] > 0.0 && rate.data()[n] <= 1.0)) {
            refuse("a sensor measures more than zero times and at most once a step");
        }
        made.push_back(
            {probe,
             probe->needs_body ? checked_index(body.data()[n], tree.body_count(), "body") : -1,
             probe->needs_freedom ? moving_freedom(freedom.data()[n], tree) : -1,
             {matrix_at(turn.data(), n), triple_at(place.data(), n)},
             rate.data()[n],
             probe->width(tree)});
    }
    return made;
}

Timeline timeline_of(nb::handle arrays, const tree::Tree& tree) {
    const auto starts = field<double>(arrays, "starts");
    const std::size_t count = starts.size(), m = tree.freedoms.size();
    const auto ends = column<double>(arrays, "ends", count),
               ramp = column<double>(arrays, "ramp", count),
               advance = column<double>(arrays, "advance", m);
    const auto kind = column<Index>(arrays, "kind", count);
    const auto points = table<double>(arrays, "points", count + 1, m);
    const auto speeds = field<double, 3>(arrays, "speeds");
    check_shape(speeds, {count, 2, m}, "speeds");
    Timeline made;
    for (std::size_t k = 0; k < count; ++k) {
        made.ways.push_back({starts.data()[k], ends.data()[k],
                             code<Profile>(kind.data()[k], "the profile of a motion"),
                             ramp.data()[k]});
    }
    made.points.assign(points.data(), points.data() + points.size());
    made.speeds.assign(speeds.data(), speeds.data() + speeds.size());
    made.advance = copied(advance);
    made.again = number(arrays, "again", Values::limits);
    made.period = number(arrays, "period");
    return made;
}

Settings settings_of(nb::handle given) {
    constexpr Index kMost = 1'000'000'000;
    Settings made;
    made.gravity = vector_of(given.attr("gravity"), "gravity");
    made.step = number(given, "step");
    made.accuracy = number(given, "accuracy");
    if (made.step <= 0.0 || made.accuracy <= 0.0) {
        refuse("step and accuracy must be greater than zero");
    }
    made.every = integer_from(nb::cast<Index>(given.attr("every")), 0, kMost, "every");
    made.most_sweeps =
        integer_from(nb::cast<Index>(given.attr("most_sweeps")), 1, kMost, "most_sweeps");
    made.sleeps = nb::cast<bool>(given.attr("sleeps"));
    made.threads = static_cast<unsigned>(
        integer_from(nb::cast<Index>(given.attr("threads")), 1, 1024, "threads"));
    return made;
}

}  // namespace

World world_of(const tree::Tree& tree, const Given& given) {
    return {tree,
            motors_of(given.motors, tree),
            cables_of(given.forces.attr("cables"), tree),
            gives_of(given.forces, tree),
            laws_of(given.forces.attr("laws"), tree),
            scenery_of(given.scenery, tree),
            sensors_of(given.sensors, tree),
            timeline_of(given.timeline, tree),
            settings_of(given.settings)};
}

}  // namespace mooring::bindings
