#include "bindings/world.h"

#include <nanobind/stl/vector.h>

#include <algorithm>

namespace mooring::bindings {

namespace {

using namespace mooring::simulation;

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
