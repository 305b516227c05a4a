#include "kinematics/poses.h"

#include <algorithm>
#include <vector>

namespace mooring::kinematics {

namespace {

// The column of a freedom: what one unit of its speed does.
struct Column {
    Vec3 angular, linear;
};

void set_column(Grid<double> out, Index c, const Column& column) {
    const double values[6] = {column.angular.x, column.angular.y, column.angular.z,
                              column.linear.x,  column.linear.y,  column.linear.z};
    for (Index k = 0; k < 6; ++k) {
        out(k, c) = values[k];
    }
}

// Calls `set` with each freedom that moves a body, its axis in the world, whether it turns, and the
// body that it moves first.
template <typename Set>
void each_axis(const Tree& tree, const Pose* poses, Index body, const Set& set) {
    for (Index i = body; i >= 0; i = tree.body(i).parent) {
        const Body& b = tree.body(i);
        const Pose& pose = poses[i];
        if (b.kind == Kind::floating) {
            for (int k = 0; k < 3; ++k) {
                set(b.freedom + k, column(pose.turn, k), true, i);
                set(b.freedom + 3 + k, column(pose.turn, k), false, i);
            }
        } else if (b.moves()) {
            set(b.freedom, pose.turn * b.axis, b.kind == Kind::revolute, i);
        }
    }
}

// Angular velocities, and velocities of origins.
void world_velocities(const Tree& tree, const double* v, const Pose* poses, Column* velocities) {
    for (Index i = 0; i < tree.body_count(); ++i) {
        const Body& b = tree.body(i);
        Column now{};
        if (b.parent >= 0) {
            const Column& parent = velocities[b.parent];
            now = {parent.angular,
                   parent.linear + cross(parent.angular, poses[i].place - poses[b.parent].place)};
        }
        if (b.kind == Kind::floating) {
            now.angular += poses[i].turn * vec(v + b.freedom);
            now.linear += poses[i].turn * vec(v + b.freedom + 3);
        } else if (b.moves()) {
            const Vec3 own = v[b.freedom] * (poses[i].turn * b.axis);
            (b.kind == Kind::revolute ? now.angular : now.linear) += own;
        }
        velocities[i] = now;
    }
}

}  // namespace

void world_poses(const Tree& tree, const double* q, Pose* poses) {
    for (Index i = 0; i < tree.body_count(); ++i) {
        const Body& b = tree.body(i);
        const Pose local = tree::joint_frame(b, q);
        poses[i] = b.parent < 0 ? local : poses[b.parent] * local;
    }
}

void point_jacobian(const Tree& tree, const Pose* poses, Index body, Vec3 point, Grid<double> out) {
    std::fill(out.data, out.data + 6 * out.columns, 0.0);
    each_axis(tree, poses, body, [&](Index c, Vec3 axis, bool turns, Index moved) {
        set_column(
            out, c,
            turns ? Column{axis, cross(axis, point - poses[moved].place)} : Column{{}, axis});
    });
}

void batch_poses(const Tree& tree, Grid<const double> q, double* matrices) {
    std::vector<Pose> poses(tree.bodies.size());
    for (Index b = 0; b < q.rows; ++b) {
        world_poses(tree, &q(b, 0), poses.data());
        for (const Pose& pose : poses) {
            const Mat3& r = pose.turn;
            const double rows[16] = {r.x.x, r.y.x,        r.z.x, pose.place.x, r.x.y, r.y.y,
                                     r.z.y, pose.place.y, r.x.z, r.y.z,        r.z.z, pose.place.z,
                                     0.0,   0.0,          0.0,   1.0};
            matrices = std::copy(rows, rows + 16, matrices);
        }
    }
}

void batch_jacobian(const Tree& tree, Grid<const double> q, Index body, Vec3 point,
                    double* jacobians) {
    std::vector<Pose> poses(tree.bodies.size());
    const Index m = tree.freedom_count();
    for (Index b = 0; b < q.rows; ++b) {
        world_poses(tree, &q(b, 0), poses.data());
        point_jacobian(tree, poses.data(), body, poses[static_cast<std::size_t>(body)] * point,
                       {jacobians + b * 6 * m, 6, m});
    }
}

void batch_jacobian_rate(const Tree& tree, Grid<const double> q, Grid<const double> v, Index body,
                         Vec3 point, double* rates) {
    std::vector<Pose> poses(tree.bodies.size());
    std::vector<Column> velocities(tree.bodies.size());
    const Index m = tree.freedom_count();
    for (Index b = 0; b < q.rows; ++b) {
        world_poses(tree, &q(b, 0), poses.data());
        world_velocities(tree, &v(b, 0), poses.data(), velocities.data());
        const Vec3 at = poses[static_cast<std::size_t>(body)] * point;
        const Column& own = velocities[static_cast<std::size_t>(body)];
        const Vec3 speed =
            own.linear + cross(own.angular, at - poses[static_cast<std::size_t>(body)].place);
        const Grid<double> out{rates + b * 6 * m, 6, m};
        std::fill(out.data, out.data + 6 * m, 0.0);
        each_axis(tree, poses.data(), body, [&](Index c, Vec3 axis, bool turns, Index moved) {
            // An axis is fixed to its body, and turns with it.
            const Column& carrier = velocities[static_cast<std::size_t>(moved)];
            const Vec3 change = cross(carrier.angular, axis);
            const Vec3 arm = at - poses[static_cast<std::size_t>(moved)].place;
            set_column(
                out, c,
                turns ? Column{change, cross(change, arm) + cross(axis, speed - carrier.linear)}
                      : Column{{}, change});
        });
    }
}

void batch_mass_centre(const Tree& tree, Grid<const double> q, Triples<double> centres,
                       double* jacobians) {
    std::vector<Pose> poses(tree.bodies.size());
    const Index m = tree.freedom_count();
    double total = 0.0;
    for (const Body& body : tree.bodies) {
        total += body.mass;
    }
    for (Index b = 0; b < q.rows; ++b) {
        world_poses(tree, &q(b, 0), poses.data());
        Vec3 centre;
        const Grid<double> out{jacobians + b * 3 * m, 3, m};
        std::fill(out.data, out.data + 3 * m, 0.0);
        for (Index i = 0; i < tree.body_count(); ++i) {
            const double share = tree.body(i).mass / total;
            const Vec3 at = poses[static_cast<std::size_t>(i)] * tree.body(i).centre;
            centre += share * at;
            each_axis(tree, poses.data(), i, [&](Index c, Vec3 axis, bool turns, Index moved) {
                const Vec3 arm = at - poses[static_cast<std::size_t>(moved)].place;
                const Vec3 way = share * (turns ? cross(axis, arm) : axis);
                out(0, c) += way.x;
                out(1, c) += way.y;
                out(2, c) += way.z;
            });
        }
        centres[b][0] = centre.x;
        centres[b][1] = centre.y;
        centres[b][2] = centre.z;
    }
}

}  // namespace mooring::kinematics
