// The tree for Python: made of the arrays of `mooring.tree.arrays`.
#include "bindings/tree.h"

#include <algorithm>

#include "bindings/checks.h"
#include "bindings/codes.h"
#include "tree/joints.h"

namespace mooring::bindings {

namespace {

using tree::Tree;

void read_bodies(nb::handle arrays, Tree& made) {
    const auto parent = field<Index>(arrays, "parent");
    const std::size_t n = parent.shape(0);
    const auto whole = [&](const char* name) { return column<Index>(arrays, name, n); };
    const auto vectors = [&](const char* name) { return table<double>(arrays, name, n, 3); };
    const auto kind = whole("kind"), coordinate = whole("coordinate"), freedom = whole("freedom"),
               tip = whole("tip");
    const auto rotation = matrices(arrays, "rotation", n, 3),
               tensor = matrices(arrays, "tensor", n, 3);
    const auto translation = vectors("translation"), axis = vectors("axis"),
               centre = vectors("centre");
    const auto mass = column<double>(arrays, "mass", n);
    for (std::size_t i = 0; i < n; ++i) {
        const double* t = tensor.data() + 9 * i;
        made.bodies.push_back({parent.data()[i],
                               code<tree::Kind>(kind.data()[i], "the kind of a joint"),
                               coordinate.data()[i],
                               freedom.data()[i],
                               tip.data()[i],
                               {matrix_at(rotation.data(), i), triple_at(translation.data(), i)},
                               triple_at(axis.data(), i),
                               mass.data()[i],
                               triple_at(centre.data(), i),
                               {t[0], t[1], t[2], t[4], t[5], t[8]}});
        made.coordinates += made.bodies.back().positions();
    }
}

void read_freedoms(nb::handle arrays, nb::handle joints, Tree& made) {
    const auto position = field<Index>(arrays, "position");
    const std::size_t m = position.shape(0);
    const auto before = column<Index>(arrays, "before", m);
    const auto row = [m](nb::handle tuple, const char* name, Values values = Values::finite) {
        return column<double>(tuple, name, m, values);
    };
    const auto rotor = row(arrays, "rotor"), lower = row(joints, "lower", Values::limits),
               upper = row(joints, "upper", Values::limits),
               velocity = row(joints, "velocity", Values::limits),
               effort = row(joints, "effort", Values::limits), damping = row(joints, "damping"),
               friction = row(joints, "friction"), stiffness = row(joints, "stiffness"),
               rest = row(joints, "rest");
    for (std::size_t c = 0; c < m; ++c) {
        if (before.data()[c] < -1 || before.data()[c] >= static_cast<Index>(c)) {
            refuse("a freedom must come after the one before it");
        }
        made.freedoms.push_back({position.data()[c], before.data()[c], -1, rotor.data()[c],
                                 lower.data()[c], upper.data()[c], velocity.data()[c],
                                 effort.data()[c], damping.data()[c], friction.data()[c],
                                 stiffness.data()[c], rest.data()[c]});
    }
    for (Index i = 0; i < made.body_count(); ++i) {
        const tree::Body& b = made.body(i);
        for (Index c = b.freedom; c < b.freedom + b.freedoms(); ++c) {
            checked_index(c, made.freedom_count(), "the freedom of a joint");
            made.freedoms[static_cast<std::size_t>(c)].body = i;
        }
    }
}

void read_couplings(nb::handle loops, Tree& made) {
    const auto follower = field<Index>(loops, "follower"), leader = field<Index>(loops, "leader");
    const auto coupling = column<Index>(loops, "coupling", leader.size());
    const auto ratio = column<double>(loops, "ratio", leader.size()),
               offset = column<double>(loops, "offset", follower.size());
    for (std::size_t k = 0; k < follower.size(); ++k) {
        made.couplings.push_back({follower.data()[k], offset.data()[k], {}});
    }
    for (std::size_t k = 0; k < leader.size(); ++k) {
        const Index which = checked_index(coupling.data()[k],
                                          static_cast<Index>(made.couplings.size()), "coupling");
        made.couplings[static_cast<std::size_t>(which)].leads.push_back(
            {leader.data()[k], ratio.data()[k]});
    }
}

void read_closures(nb::handle loops, Tree& made) {
    const auto first = field<Index>(loops, "first");
    const std::size_t count = first.size();
    const auto second = column<Index>(loops, "second", count);
    const auto on_first = matrices(loops, "frame_on_first", count, 4),
               on_second = matrices(loops, "frame_on_second", count, 4);
    const auto held = table<bool>(loops, "held", count, 6);
    for (std::size_t k = 0; k < count; ++k) {
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
    const auto first = field<Index>(springs, "first");
    const std::size_t count = first.size();
    const auto second = column<Index>(springs, "second", count);
    const auto on_first = table<double>(springs, "on_first", count, 3),
               on_second = table<double>(springs, "on_second", count, 3);
    const auto stiffness = column<double>(springs, "stiffness", count),
               damping = column<double>(springs, "damping", count),
               length = column<double>(springs, "length", count);
    for (std::size_t k = 0; k < count; ++k) {
        made.springs.push_back({first.data()[k], second.data()[k], triple_at(on_first.data(), k),
                                triple_at(on_second.data(), k), stiffness.data()[k],
                                damping.data()[k], length.data()[k]});
    }
}

}  // namespace

overlaps::Shapes shapes_of(nb::handle arrays) {
    const auto body = field<Index>(arrays, "body");
    const std::size_t count = body.size();
    const auto kind = column<Index>(arrays, "kind", count),
               first = column<Index>(arrays, "first", count),
               last = column<Index>(arrays, "last", count);
    const auto points = field<double, 2>(arrays, "points");
    const auto size = table<double>(arrays, "size", count, 2),
               translation = table<double>(arrays, "translation", count, 3),
               ball = table<double>(arrays, "ball", count, 4);
    const auto rotation = matrices(arrays, "rotation", count, 3);
    const auto radius = column<double>(arrays, "radius", count);
    overlaps::Shapes made;
    const auto cloud = triples<const double>(points);
    for (Index k = 0; k < cloud.count; ++k) {
        made.points.push_back(vec(cloud[k]));
    }
    for (std::size_t s = 0; s < count; ++s) {
        const bool cylinder = code<overlaps::CoreKind>(kind.data()[s], "the core of a shape") ==
                              overlaps::CoreKind::cylinder;
        const Index from = first.data()[s], to = last.data()[s];
        if (!cylinder && (from < 0 || to <= from || to > cloud.count)) {
            refuse("a shape has no points");
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
    module.attr("JOINT_CODES") = codes<tree::Kind>();
    module.attr("CORE_CODES") = codes<overlaps::CoreKind>();
    nb::class_<KeptTree>(module, "Tree", "A kinematic tree, made of arrays; it copies them.")
        .def(
            "__init__",
            [](KeptTree* self, nb::handle arrays, nb::handle loops, nb::handle joints,
               nb::handle springs) {
                Tree made;
                read_bodies(arrays, made);
                read_freedoms(arrays, joints, made);
                read_couplings(loops, made);
                read_closures(loops, made);
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
