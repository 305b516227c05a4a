// Kinematics and dynamics for Python. States come in rows; answers go where they are wanted.
#include "bindings/checks.h"
#include "bindings/tree.h"
#include "dynamics/batch.h"
#include "kinematics/inverse.h"
#include "overlaps/distance.h"
#include "overlaps/meetings.h"

namespace mooring::bindings {

namespace {

using tree::Tree;

Vec3 vec_at(const Array<const double, 1>& array) {
    if (array.shape(0) != 3) {
        throw nb::value_error("expected three numbers");
    }
    return vec(array.data());
}

template <typename A>
void refuse_size(const A& array, Index size) {
    if (static_cast<Index>(array.size()) != size) {
        throw nb::value_error("the room for the answer has another size");
    }
}

void refuse_body(const Tree& tree, Index body) { checked_index(body, tree.body_count(), "body"); }

void refuse_rows(Index one, Index other) {
    if (one != other) {
        throw nb::value_error("states must be as many as each other");
    }
}

kinematics::IkTask task_of(const Tree& tree, nb::handle given) {
    kinematics::IkTask task;
    task.body = nb::cast<Index>(given.attr("body"));
    refuse_body(tree, task.body);
    const auto on = table<double>(given, "on_body", 4, 4),
               goal = table<double>(given, "goal", 4, 4);
    const auto m = static_cast<std::size_t>(tree.freedom_count());
    task.on_body = pose_at(on.data(), 0);
    task.goal = pose_at(goal.data(), 0);
    const auto weights = column<double>(given, "weights", 6),
               lower = column<double>(given, "lower", m, Values::limits),
               upper = column<double>(given, "upper", m, Values::limits);
    std::copy(weights.data(), weights.data() + 6, task.weights);
    task.lower.assign(lower.data(), lower.data() + lower.size());
    task.upper.assign(upper.data(), upper.data() + upper.size());
    const auto chosen = field<Index>(given, "chosen");
    for (std::size_t k = 0; k < chosen.size(); ++k) {
        task.chosen.push_back(checked_index(chosen.data()[k], tree.freedom_count(), "freedom"));
    }
    task.length = number(given, "length");
    task.angle = number(given, "angle");
    task.loop_tolerance = number(given, "loop_tolerance");
    return task;
}

}  // namespace

void bind_kinematics(nb::module_& module) {
    module.def(
        "link_poses",
        [](const KeptTree& kept, const States& q, Room out) {
            const Tree& tree = kept.tree;
            const auto at = rows_of(q, tree.coordinates);
            refuse_size(out, at.rows * 16 * tree.body_count());
            const nb::gil_scoped_release free;
            kinematics::batch_poses(tree, at, out.data());
        },
        nb::arg("tree"), nb::arg("q"), nb::arg("out").noconvert(),
        "World poses (b, bodies, 4, 4) at positions (b, n).");
    module.def(
        "jacobian",
        [](const KeptTree& kept, const States& q, Index body, Array<const double, 1> point,
           Room out) {
            const Tree& tree = kept.tree;
            const auto at = rows_of(q, tree.coordinates);
            refuse_body(tree, body);
            refuse_size(out, at.rows * 6 * tree.freedom_count());
            const Vec3 on_body = vec_at(point);
            const nb::gil_scoped_release free;
            kinematics::batch_jacobian(tree, at, body, on_body, out.data());
        },
        nb::arg("tree"), nb::arg("q"), nb::arg("body"), nb::arg("point"),
        nb::arg("out").noconvert(), "Jacobians (b, 6, m) of a point (3,) on a body.");
    module.def(
        "jacobian_rate",
        [](const KeptTree& kept, const States& q, States v, Index body,
           Array<const double, 1> point, Room out) {
            const Tree& tree = kept.tree;
            const auto at = rows_of(q, tree.coordinates);
            const auto speed = rows_of(v, tree.freedom_count());
            refuse_rows(at.rows, speed.rows);
            refuse_body(tree, body);
            refuse_size(out, at.rows * 6 * tree.freedom_count());
            const Vec3 on_body = vec_at(point);
            const nb::gil_scoped_release free;
            kinematics::batch_jacobian_rate(tree, at, speed, body, on_body, out.data());
        },
        nb::arg("tree"), nb::arg("q"), nb::arg("v"), nb::arg("body"), nb::arg("point"),
        nb::arg("out").noconvert(), "Their rates of change at velocities (b, m).");
    module.def(
        "mass_centre",
        [](const KeptTree& kept, const States& q, Room centres, Room jacobians) {
            const Tree& tree = kept.tree;
            const auto at = rows_of(q, tree.coordinates);
            refuse_size(centres, 3 * at.rows);
            refuse_size(jacobians, at.rows * 3 * tree.freedom_count());
            const Triples<double> out{centres.data(), at.rows};
            const nb::gil_scoped_release free;
            kinematics::batch_mass_centre(tree, at, out, jacobians.data());
        },
        nb::arg("tree"), nb::arg("q"), nb::arg("centres").noconvert(),
        nb::arg("jacobians").noconvert(), "Centres of mass (b, 3), and Jacobians (b, 3, m).");
    module.def(
        "loop_count", [](const KeptTree& kept) { return kinematics::loop_count(kept.tree); },
        nb::arg("tree"), "How many equations couplings and closures make.");
    module.def(
        "loop_equations",
        [](const KeptTree& kept, Array<const double, 1> q, Array<double, 1> gap,
           Array<double, 2> jacobian) {
            const Tree& tree = kept.tree;
            const double* at = state<const double>(q, tree.coordinates);
            kinematics::LoopEquations equations(tree);
            const auto count = static_cast<std::size_t>(equations.count());
            check_shape(gap, {count}, "gap");
            check_shape(jacobian, {count, tree.freedoms.size()}, "jacobian");
            equations.evaluate(at, gap.data(), grid<double>(jacobian));
        },
        nb::arg("tree"), nb::arg("q"), nb::arg("gap").noconvert(), nb::arg("jacobian").noconvert(),
        "How far each is from holding (k,), and its derivative (k, m), at one position (n,).");
    module.def(
        "close_loops",
        [](const KeptTree& kept, Array<double, 1> q, Array<const bool, 1> free_ones,
           Array<const double, 1> lower, Array<const double, 1> upper, double tolerance,
           Index most_steps) {
            const Tree& tree = kept.tree;
            double* at = state<double>(q, tree.coordinates);
            const Index m = tree.freedom_count();
            const bool* moves = state<const bool>(free_ones, m);
            const double *least = state<const double>(lower, m),
                         *most = state<const double>(upper, m);
            const nb::gil_scoped_release free;
            return kinematics::close_loops(tree, at, moves, least, most, tolerance, most_steps);
        },
        nb::arg("tree"), nb::arg("q").noconvert(), nb::arg("free"), nb::arg("lower"),
        nb::arg("upper"), nb::arg("tolerance"), nb::arg("most_steps"),
        "Move free freedoms (m,) of q until all loops hold; returns the largest gap.");
    module.def(
        "solve_ik",
        [](const KeptTree& kept, nb::handle given, Array<const double, 1> near, Index starts,
           Index most_steps, std::uint64_t seed, bool wants_nearest, Array<double, 1> q) {
            const Tree& tree = kept.tree;
            const kinematics::IkTask task = task_of(tree, given);
            const double* towards = state<const double>(near, tree.coordinates);
            double* at = state<double>(q, tree.coordinates);
            kinematics::IkReport report;
            {
                const nb::gil_scoped_release free;
                report = kinematics::solve_ik(tree, task, towards,
                                              {starts, most_steps, seed, wants_nearest}, at);
            }
            return nb::make_tuple(report.reached, report.starts, report.distance);
        },
        nb::arg("tree"), nb::arg("task"), nb::arg("near"), nb::arg("starts"), nb::arg("most_steps"),
        nb::arg("seed"), nb::arg("wants_nearest"), nb::arg("q").noconvert(),
        "Find a solution, in q (n,): whether it is one, starts it took, distance from `near`.");
    module.def(
        "pair_distances",
        [](const KeptTree& kept, const overlaps::Shapes& shapes, Array<const Index, 2> pairs,
           const States& q, double beyond, Room distances, Room contacts) {
            const Tree& tree = kept.tree;
            const auto at = rows_of(q, tree.coordinates);
            check_shape(pairs, {pairs.shape(0), 4}, "pairs");
            const auto wanted = grid<const Index>(pairs);
            refuse_size(distances, at.rows * wanted.rows);
            refuse_size(contacts, at.rows * wanted.rows * 9);
            for (Index p = 0; p < wanted.rows; ++p) {
                for (Index side = 0; side < 4; side += 2) {
                    const Index from = wanted(p, side), to = wanted(p, side + 1);
                    if (from < 0 || to < from || to > shapes.count()) {
                        throw nb::index_error("a pair names a shape that is not there");
                    }
                }
            }
            for (const overlaps::Shape& shape : shapes.shapes) {
                refuse_body(tree, shape.body);
            }
            const nb::gil_scoped_release free;
            overlaps::batch_pair_distances(tree, shapes, wanted, at, beyond,
                                           Grid<double>{distances.data(), at.rows, wanted.rows},
                                           contacts.data());
        },
        nb::arg("tree"), nb::arg("shapes"), nb::arg("pairs"), nb::arg("q"), nb::arg("beyond"),
        nb::arg("distances").noconvert(), nb::arg("contacts").noconvert(),
        "Signed distances (b, p) of pairs (p, 4), and where they are (b, p, 9).");
    module.def(
        "meetings",
        [](const KeptTree& kept, const overlaps::Shapes& shapes,
           Array<const std::uint8_t, 2> judged, const States& q,
           Array<const std::uint8_t, 2> moving, double below) {
            const Tree& tree = kept.tree;
            const auto at = rows_of(q, tree.coordinates);
            const auto wanted = grid<const std::uint8_t>(judged);
            const auto moves = grid<const std::uint8_t>(moving);
            const std::size_t bodies = tree.bodies.size();
            check_shape(judged, {bodies, bodies}, "judged");
            check_shape(moving, {static_cast<std::size_t>(at.rows), bodies}, "moving");
            for (const overlaps::Shape& shape : shapes.shapes) {
                refuse_body(tree, shape.body);
            }
            overlaps::Meetings found;
            {
                const nb::gil_scoped_release free;
                found = overlaps::meetings(tree, shapes, wanted, at, moves, below);
            }
            return nb::make_tuple(given_away(std::move(found.where), 3),
                                  given_away(std::move(found.distances), 1, true));
        },
        nb::arg("tree"), nb::arg("shapes"), nb::arg("judged"), nb::arg("q"), nb::arg("moving"),
        nb::arg("below"),
        "Bodies nearer than `below`: state, first, second (k, 3), and their distances (k,).");
}

void bind_dynamics(nb::module_& module) {
    using Batch = void (*)(const Tree&, dynamics::Workspaces&, Grid<const double>,
                           Grid<const double>, Grid<const double>, Vec3, unsigned, Grid<double>);
    const auto def = [&module](const char* name, Batch batch, const char* doc) {
        module.def(
            name,
            [batch](const KeptTree& kept, const States& q, States v, States third,
                    Array<const double, 1> gravity, unsigned threads, Room out) {
                const Tree& tree = kept.tree;
                const Index m = tree.freedom_count();
                const auto at = rows_of(q, tree.coordinates);
                const auto speed = rows_of(v, m), last = rows_of(third, m);
                const auto room = rows_of(out, m);
                refuse_rows(at.rows, speed.rows);
                refuse_rows(at.rows, last.rows);
                refuse_rows(at.rows, room.rows);
                const Vec3 pull = vec_at(gravity);
                const nb::gil_scoped_release free;
                batch(tree, kept.workspaces, at, speed, last, pull, threads, room);
            },
            nb::arg("tree"), nb::arg("q"), nb::arg("v"), nb::arg("third"), nb::arg("gravity"),
            nb::arg("threads"), nb::arg("out").noconvert(), doc);
    };
    def("inverse_dynamics", dynamics::batch_inverse_dynamics,
        "Efforts (b, m) of positions (b, n), velocities and accelerations (b, m).");
    def("forward_dynamics", dynamics::batch_forward_dynamics,
        "Accelerations (b, m) of positions (b, n), velocities and efforts (b, m).");
    module.def(
        "mass_matrix",
        [](const KeptTree& kept, const States& q, Room out) {
            const Tree& tree = kept.tree;
            const auto at = rows_of(q, tree.coordinates);
            refuse_size(out, at.rows * tree.freedom_count() * tree.freedom_count());
            const nb::gil_scoped_release free;
            dynamics::batch_mass_matrix(tree, kept.workspaces, at, out.data());
        },
        nb::arg("tree"), nb::arg("q"), nb::arg("out").noconvert(),
        "Mass matrices (b, m, m) at positions (b, n).");
    module.def(
        "spring_efforts",
        [](const KeptTree& kept, const States& q, Room out) {
            const Tree& tree = kept.tree;
            const auto at = rows_of(q, tree.coordinates);
            const auto room = rows_of(out, tree.freedom_count());
            refuse_rows(at.rows, room.rows);
            const nb::gil_scoped_release free;
            dynamics::batch_spring_efforts(tree, kept.workspaces, at, room);
        },
        nb::arg("tree"), nb::arg("q"), nb::arg("out").noconvert(),
        "Efforts (b, m) of all springs at rest, at positions (b, n).");
}

}  // namespace mooring::bindings
