// Positions from velocities, and what floats told in its axes as they have become.
//
// Velocities of what floats are told in its own axes, which turn with it. Left to an explicit step,
// the terms that stand for this turning feed energy into everything that spins. So a step treats
// these axes as standing still, and afterwards the velocities are told anew.
#include "simulation/island.h"

namespace mooring::simulation {

namespace {

// Solve m x = b for a general matrix.
Vec3 solve3(const Mat3& m, Vec3 b) {
    const Vec3 yz = cross(m.y, m.z);
    const double over = 1.0 / dot(m.x, yz);
    return {over * dot(b, yz), over * dot(m.x, cross(b, m.z)), over * dot(m.x, cross(m.y, b))};
}

Mat3 matrix(const Sym3<double>& s) {
    return {{s.xx, s.xy, s.xz}, {s.xy, s.yy, s.yz}, {s.xz, s.yz, s.zz}};
}

Mat3 cross_matrix(Vec3 v) { return {{0.0, v.z, -v.y}, {-v.z, 0.0, v.x}, {v.y, -v.x, 0.0}}; }

// How a body with inertia j about its centre turns freely for a time, in axes that turn with it.
struct FreeTurn {
    Vec3 middle;  // angular velocity at the middle, about which it turns by Cayley's map
    Vec3 end;     // angular velocity at the end, in the axes as they have become
};

// The implicit midpoint rule, which with Cayley's map keeps both the momentum in the world and the
// energy, whatever the moments of inertia and the step (Austin, Krishnaprasad and Wang, "Almost
// Poisson Integration of Rigid Body Systems", 1993).
FreeTurn turn_freely(const Sym3<double>& j, Vec3 w, double h) {
    constexpr int kMostSteps = 20;
    const Vec3 momentum = j * w;
    const double size = norm(momentum);
    if (size == 0.0) {
        return {w, w};
    }
    Vec3 m = w;
    for (int k = 0; k < kMostSteps; ++k) {
        const Vec3 jm = j * m;
        const Vec3 off = jm + 0.5 * h * cross(m, jm) - momentum;
        if (norm(off) <= 1e-15 * size) {
            break;
        }
        const Mat3 turning = cross_matrix(m) * matrix(j) - cross_matrix(jm);
        const double half = 0.5 * h;
        const Mat3 slope = matrix(j) + Mat3{half * turning.x, half * turning.y, half * turning.z};
        m = m - solve3(slope, off);
    }
    return {m, 2.0 * m - w};
}

// Turn a quaternion by Cayley's map of a rotation vector in its own axes.
void turn_by_cayley(double* r, Vec3 way) {
    const Vec3 half = 0.5 * way, a = vec(r);
    const double w = r[3];
    const Vec3 axis = w * half + a + cross(a, half);
    r[3] = w - dot(half, a);
    r[0] = axis.x;
    r[1] = axis.y;
    r[2] = axis.z;
    tree::make_unit(r);
}

void set(double* out, Vec3 v) {
    out[0] = v.x;
    out[1] = v.y;
    out[2] = v.z;
}

// A rigid body that floats: its momentum in the world stays exactly what impulses have made it.
void advance_loose(const World& world, const Body& body, Index i, State& state, StepSpace& space) {
    const double h = world.settings.step;
    const dynamics::BodyState<double>& now = space.bodies[i];
    // The inertia of all that is fixed to it, about its origin.
    const ArticulatedInertia<double>& all = space.made.inertia[static_cast<std::size_t>(i)];
    const double mass = all.c.xx;
    const Vec3 moment{all.b.y.z, all.b.z.x, all.b.x.y}, centre = moment / mass;
    const double cc = dot(centre, centre);
    Sym3<double> own = all.a;
    own.xx -= mass * (cc - centre.x * centre.x);
    own.yy -= mass * (cc - centre.y * centre.y);
    own.zz -= mass * (cc - centre.z * centre.z);
    own.xy += mass * centre.x * centre.y;
    own.xz += mass * centre.x * centre.z;
    own.yz += mass * centre.y * centre.z;
    const Mat3& r = now.pose.turn;
    double* const v = state.v.data() + body.freedom;
    double* const q = state.q.data() + body.coordinate;
    const double* const moving = space.moving.data() + body.freedom;
    const Vec3 turning = r * vec(v), going = r * vec(v + 3);
    const Vec3 centre_speed = going + cross(turning, centre);
    const FreeTurn turn = turn_freely(own, turning, h);
    turn_by_cayley(q + 3, h * back(r, turn.middle));
    // Drift is taken back besides.
    const Vec3 drift_turning = back(r, r * vec(moving) - turning);
    const Vec3 drift_going = r * vec(moving + 3) - going;
    const Vec3 drift_centre = drift_going + cross(r * drift_turning, centre);
    if (dot(drift_turning, drift_turning) > 0.0) {
        turn_by_cayley(q + 3, h * drift_turning);
    }
    const Pose carrier = body.parent < 0 ? body.joint : space.bodies[body.parent].pose * body.joint;
    const Vec3 own_centre = back(r, centre), end = back(r, turn.end);
    const Vec3 centre_place =
        now.pose.place + centre + h * (centre_speed + drift_centre) - carrier.place;
    set(q, back(carrier.turn, centre_place) - tree::turned(q + 3, own_centre));
    const double against[4] = {-q[3], -q[4], -q[5], q[6]};
    set(v, end);
    set(v + 3, tree::turned(against, back(carrier.turn, centre_speed)) - cross(end, own_centre));
}

}  // namespace

void advance(const World& world, const Mechanism& own, State& state, StepSpace& space) {
    const double h = world.settings.step;
    for (const Index c : own.freedoms) {
        state.v[static_cast<std::size_t>(c)] = space.v[static_cast<std::size_t>(c)];
    }
    for (const Index i : own.bodies) {
        const Body& body = world.tree.body(i);
        const double* const moving = space.moving.data() + body.freedom;
        double* const q = state.q.data() + body.coordinate;
        if (body.kind == Kind::floating && own.loose) {
            advance_loose(world, body, i, state, space);
        } else if (body.kind == Kind::floating) {
            tree::move_floating(q, moving, h);
            double against[4] = {0.0, 0.0, 0.0, 1.0};
            tree::turn_by(against, -h * vec(moving));
            double* const going = state.v.data() + body.freedom + 3;
            set(going, tree::turned(against, vec(going)));
        } else if (body.moves()) {
            *q += h * *moving;
        }
    }
}

}  // namespace mooring::simulation
