// The tree for Python: made of the arrays of `mooring.tree.arrays`.
#include "bindings/tree.h"

#include <algorithm>

#include "tree/joints.h"

namespace mooring::bindings {

namespace {

using tree::Tree;

void read_bodies(nb::handle arrays, Tree& made) {
    const auto parent = field<const Index, 1>(arrays, "parent"),
               kind = field<const Index, 1>(arrays, "kind"),
               coordinate = field<const Index, 1>(arrays, "coordinate"),
               freedom = field<const Index, 1>(arrays, "freedom"),
               tip = field<const Index, 1>(arrays, "tip");
    const auto rotation = field<const double, 3>(arrays, "rotation"),
               tensor = field<const double, 3>(arrays, "tensor");
    const auto translation = field<const double, 2>(arrays, "translation"),
               axis = field<const double, 2>(arrays, "axis"),
               centre = field<const double, 2>(arrays, "centre");
    const auto mass = field<const double, 1>(arrays, "mass");
    const std::size_t n = parent.shape(0);
    for (const auto* row : {&kind, &coordinate, &freedom, &tip}) {
        refuse_length(*row, n, "a row of bodies");
    }
    refuse_length(mass, n, "mass");
    refuse_length(rotation, n, "rotation");
    refuse_length(tensor, n, "tensor");
    for (const auto* row : {&translation, &axis, &centre}) {
        refuse_length(*row, n, "a row of bodies");
        triples<const double>(*row);
    }
    for (std::size_t i = 0; i < n; ++i) {
        if (kind.data()[i] < 0 || kind.data()[i] > 3) {
            throw nb::value_error("there is no such kind of joint");
        }
        const double* t = tensor.data() + 9 * i;
        made.bodies.push_back({parent.data()[i],
                               static_cast<tree::Kind>(kind.data()[i]),
                               coordinate.data()[i],
                               freedom.data()[i],
                               tip.data()[i],
                               {matrix_at(rotation.data(), i), triple_at(translation.data(), i)},
                               triple_at(axis.data(), i),
                               mass.data()[i],
                               triple_at(centre.data(), i),
                               {t[0], t[1], t[2], t[4], t[5], t[8]}});
        const tree::Body& body = made.bodies.back();
        if (body.moves()) {
            made.coordinates += body.kind == tree::Kind::floating ? 7 : 1;
        }
    }
}

void read_freedoms(nb::handle arrays, nb::handle joints, Tree& made) {
    const auto position = field<const Index, 1>(arrays, "position"),
               before = field<const Index, 1>(arrays, "before");
    const std::size_t m = position.shape(0);
    refuse_length(before, m, "a row of freedoms");
    const auto row = [m](nb::handle tuple, const char* name) {
        auto values = field<const double, 1>(tuple, name);
        refuse_length(values, m, name);
        return values;
    };
    const auto rotor = row(arrays, "rotor"), lower = row(joints, "lower"),
               upper = row(joints, "upper"), velocity = row(joints, "velocity"),
               effort = row(joints, "effort"), damping = row(joints, "damping"),
               friction = row(joints, "friction"), stiffness = row(joints, "stiffness"),
               rest = row(joints, "rest");
    for (std::size_t c = 0; c < m; ++c) {
        if (before.data()[c] >= static_cast<Index>(c)) {
            throw nb::value_error("a freedom must come after the one before it");
        }
        made.freedoms.push_back({position.data()[c], before.data()[c], -1, rotor.data()[c],
                                 lower.data()[c], upper.data()[c], velocity.data()[c],
                                 effort.data()[c], damping.data()[c], friction.data()[c],
                                 stiffness.data()[c], rest.data()[c]});
    }
    for (Index i = 0; i < made.body_count(); ++i) {
        const tree::Body& b = made.body(i);
        for (Index c = b.freedom; c < b.freedom + b.freedoms(); ++c) {
            if (c < 0 || c >= made.freedom_count()) {
                throw nb::value_error("a joint names a freedom that is not there");
            }
            made.freedoms[static_cast<std::size_t>(c)].body = i;
        }
    }
}

void read_loops(nb::handle loops, Tree& made) {
    const auto follower = field<const Index, 1>(loops, "follower"),
               leader = field<const Index, 1>(loops, "leader"),
               coupling = field<const Index, 1>(loops, "coupling");
    const auto ratio = field<const double, 1>(loops, "ratio"),
               offset = field<const double, 1>(loops, "offset");
    refuse_length(ratio, leader.shape(0), "ratio");
    refuse_length(coupling, leader.shape(0), "coupling");
    refuse_length(offset, follower.shape(0), "offset");
    for (std::size_t k = 0; k < follower.shape(0); ++k) {
        made.couplings.push_back({follower.data()[k], offset.data()[k], {}});
    }
    for (std::size_t k = 0; k < leader.shape(0); ++k) {
        const Index which = coupling.data()[k];
        if (which < 0 || static_cast<std::size_t>(which) >= made.couplings.size()) {
            throw nb::index_error("a leader is of a coupling that is not there");
        }
        made.couplings[static_cast<std::size_t>(which)].leads.push_back(
            {leader.data()[k], ratio.data()[k]});
    }
    const auto first = field<const Index, 1>(loops, "first"),
               second = field<const Index, 1>(loops, "second");
    const auto on_first = field<const double, 3>(loops, "frame_on_first"),
               on_second = field<const double, 3>(loops, "frame_on_second");
    const auto held = field<const bool, 2>(loops, "held");
    refuse_length(second, first.shape(0), "second");
    refuse_length(on_first, first.shape(0), "frame_on_first");
    refuse_length(on_second, first.shape(0), "frame_on_second");
    refuse_length(held, first.shape(0), "held");
    for (std::size_t k = 0; k < first.shape(0); ++k) {
        tree::Closure closure{first.data()[k],
                              second.data()[k],
                              pose_at(on_first.data(), k),
                              pose_at(on_second.data(), k),
                              {}};
        std::copy(held.data() + 6 * k, held.data() + 6 * (k + 1), closure.held);
        made.closures.push_back(closure);
    }
}

void read_springs(nb::handle springs, Tree& made) {
    const auto first = field<const Index, 1>(springs, "first"),
               second = field<const Index, 1>(springs, "second");
    const auto on_first = field<const double, 2>(springs, "on_first"),
               on_second = field<const double, 2>(springs, "on_second");
    const auto stiffness = field<const double, 1>(springs, "stiffness"),
               damping = field<const double, 1>(springs, "damping"),
               length = field<const double, 1>(springs, "length");
    const std::size_t count = first.shape(0);
    refuse_length(second, count, "second");
    refuse_length(on_first, count, "on_first");
    refuse_length(on_second, count, "on_second");
    for (const auto* row : {&stiffness, &damping, &length}) {
        refuse_length(*row, count, "a row of springs");
    }
    for (std::size_t k = 0; k < count; ++k) {
        made.springs.push_back({first.data()[k], second.data()[k], triple_at(on_first.data(), k),
                                triple_at(on_second.data(), k), stiffness.data()[k],
                                damping.data()[k], length.data()[k]});
    }
}

}  // namespace

overlaps::Shapes shapes_of(nb::handle arrays) {
    const auto body = field<const Index, 1>(arrays, "body"),
               kind = field<const Index, 1>(arrays, "kind"),
               first = field<const Index, 1>(arrays, "first"),
               last = field<const Index, 1>(arrays, "last");
    const auto points = field<const double, 2>(arrays, "points"),
               size = field<const double, 2>(arrays, "size"),
               translation = field<const double, 2>(arrays, "translation"),
               ball = field<const double, 2>(arrays, "ball");
    const auto rotation = field<const double, 3>(arrays, "rotation");
    const auto radius = field<const double, 1>(arrays, "radius");
    const std::size_t count = body.shape(0);
    for (const auto* row : {&kind, &first, &last}) {
        refuse_length(*row, count, "a row of shapes");
    }
    for (const auto* row : {&size, &translation, &ball}) {
        refuse_length(*row, count, "a row of shapes");
    }
    refuse_length(rotation, count, "rotation");
    refuse_length(radius, count, "radius");
    overlaps::Shapes made;
    const auto cloud = triples<const double>(points);
    for (Index k = 0; k < cloud.count; ++k) {
        made.points.push_back(vec(cloud[k]));
    }
    for (std::size_t s = 0; s < count; ++s) {
        const bool cylinder = kind.data()[s] == 1;
        const Index from = first.data()[s], to = last.data()[s];
        if (!cylinder && (from < 0 || to <= from || to > cloud.count)) {
            throw nb::value_error("a shape has no points");
        }
        const double* around = ball.data() + 4 * s;
        made.shapes.push_back({body.data()[s],
                               cylinder,
                               from,
                               to,
                               size.data()[2 * s],
                               size.data()[2 * s + 1],
                               radius.data()[s],
                               {matrix_at(rotation.data(), s), triple_at(translation.data(), s)},
                               vec(around),
                               around[3]});
    }
    return made;
}

void bind_tree(nb::module_& module) {
    nb::class_<KeptTree>(module, "Tree", "A kinematic tree, made of arrays; it copies them.")
        .def(
            "__init__",
            [](KeptTree* self, nb::handle arrays, nb::handle loops, nb::handle joints,
               nb::handle springs) {
                Tree made;
                read_bodies(arrays, made);
                read_freedoms(arrays, joints, made);
                read_loops(loops, made);
                read_springs(springs, made);
                if (const std::string fault = made.fault(); !fault.empty()) {
                    throw nb::value_error(fault.c_str());
                }
                new (self) KeptTree{std::move(made), {}};
            },
            nb::arg("arrays"), nb::arg("loops"), nb::arg("joints"), nb::arg("springs"))
        .def(
            "sound",
            [](const KeptTree& kept, const States& q) {
                const Tree& self = kept.tree;
                const auto rows = rows_of(q, self.coordinates);
                for (Index b = 0; b < rows.rows; ++b) {
                    if (!self.sound(rows.data + b * rows.columns)) {
                        return false;
                    }
                }
                return true;
            },
            nb::arg("q"), "Whether positions (..., n) are finite, and quaternions of length one.")
        .def(
            "fit",
            [](const KeptTree& kept, const States& q, nb::args others) {
                const Tree& self = kept.tree;
                if (q.ndim() == 0 ||
                    static_cast<Index>(q.shape(q.ndim() - 1)) != self.coordinates) {
                    return false;
                }
                const auto at = rows_of(q, self.coordinates);
                for (Index b = 0; b < at.rows; ++b) {
                    if (!self.sound(&at(b, 0))) {
                        return false;
                    }
                }
                for (const nb::handle other : others) {
                    const auto values = nb::cast<States>(other, false);
                    if (values.ndim() != q.ndim() ||
                        static_cast<Index>(values.shape(q.ndim() - 1)) != self.freedom_count() ||
                        !std::equal(q.shape_ptr(), q.shape_ptr() + q.ndim() - 1,
                                    values.shape_ptr()) ||
                        !std::all_of(values.data(), values.data() + values.size(),
                                     [](double v) { return std::isfinite(v); })) {
                        return false;
                    }
                }
                return true;
            },
            nb::arg("q"), nb::arg("others"),
            "Whether positions (..., n), and values of freedoms (..., m) beside them, are sound "
            "and "
            "of one leading shape.")
        .def(
            "move",
            [](const KeptTree& kept, Array<double, 1> q, Array<const double, 1> v, double time) {
                const Tree& self = kept.tree;
                double* at = state<double>(q, self.coordinates);
                tree::move(self, at, state<const double>(v, self.freedom_count()), time);
            },
            nb::arg("q").noconvert(), nb::arg("v"), nb::arg("time"),
            "Replace q (n,) by where velocities v (m,), kept for a time, lead.");
    nb::class_<overlaps::Shapes>(module, "Shapes", "Convex shapes, made of arrays; it copies them.")
        .def(
            "__init__",
            [](overlaps::Shapes* self, nb::handle arrays) {
                new (self) overlaps::Shapes(shapes_of(arrays));
            },
            nb::arg("arrays"));
    module.def(
        "finite",
        [](const States& values) {
            const double* end = values.data() + values.size();
            return std::all_of(values.data(), end, [](double v) { return std::isfinite(v); });
        },
        nb::arg("values"), "Whether all of (b, m) is finite.");
}

}  // namespace mooring::bindings
