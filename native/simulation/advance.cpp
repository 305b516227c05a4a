// Positions from velocities, half a step at a time.
//
// A step goes half its way at the velocities it begins with, finds new ones where it has come to,
// and goes the other half with those (the midpoint rule of Moreau 1999, which where the motion is
// smooth is Verlet's, of second order). In between, the axes in which what floats tells its
// velocities stand still.
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

Vec3 turned_back(const double* quaternion, Vec3 v) {
    const double against[4] = {-quaternion[0], -quaternion[1], -quaternion[2], quaternion[3]};
    return tree::turned(against, v);
}

// A rigid body that floats: its momentum in the world stays exactly what impulses have made it.
// `drift` is a way besides, turning and going, that leaves no velocity.
void go_loose(const Rigid& body, double* q, double* v, const double* drift, double time) {
    const Vec3 w = vec(v), c = body.centre;
    const Vec3 speed = tree::turned(q + 3, vec(v + 3) + cross(w, c));
    const Vec3 turning = vec(drift);
    const Vec3 place = vec(q) + tree::turned(q + 3, c + vec(drift + 3) + cross(turning, c));
    const FreeTurn turn = turn_freely(body.tensor, w, time);
    turn_by_cayley(q + 3, time * turn.middle);
    if (dot(turning, turning) > 0.0) {
        turn_by_cayley(q + 3, turning);
    }
    set(q, place + time * speed - tree::turned(q + 3, c));
    set(v, turn.end);
    set(v + 3, turned_back(q + 3, speed) - cross(turn.end, c));
}

// What else floats goes straight on, turning about a fixed axis: `way` is how far, in its axes.
void go_floating(double* q, double* v, const double* way) {
    tree::move_floating(q, way, 1.0);
    double turn[4] = {0.0, 0.0, 0.0, 1.0};
    tree::turn_by(turn, vec(way));
    set(v, turned_back(turn, vec(v)));
    set(v + 3, turned_back(turn, vec(v + 3)));
}

void go(const World& world, const Mechanism& own, State& state, const double* drift, double time) {
    constexpr double kNone[6] = {};
    for (const Index i : own.bodies) {
        const Body& body = world.tree.body(i);
        double* const q = state.q.data() + body.coordinate;
        double* const v = state.v.data() + body.freedom;
        const double* const more = drift == nullptr ? kNone : drift + body.freedom;
        if (body.kind == Kind::floating && own.loose) {
            go_loose(own.rigid, q, v, more, time);
        } else if (body.kind == Kind::floating) {
            double way[6];
            for (int k = 0; k < 6; ++k) {
                way[k] = time * v[k] + more[k];
            }
            go_floating(q, v, way);
        } else if (body.moves()) {
            *q += time * *v + *more;
        }
    }
}

// The momentum of bodies that hang on one that floats, about its origin in the world.
struct Momentum {
    Vec3 about;
    Wrench<double> sum;
    ArticulatedInertia<double> inertia;
};
Momentum momentum_of(const World& world, const std::vector<Index>& bodies, const double* q,
                     const double* v, Bodies<double>& space) {
    Momentum made{};
    for (const Index i : bodies) {
        dynamics::place_body(world.tree, i, q, space);
        dynamics::move_body(world.tree, i, v, static_cast<const double*>(nullptr), {}, space);
        dynamics::weigh_body(world.tree.body(i), space[i]);
        made.sum = made.sum + space[i].inertia * space[i].velocity;
        made.inertia = made.inertia + articulated(space[i].inertia);
    }
    made.about = space[bodies[0]].about;
    return made;
}

}  // namespace

void begin_step(const World& world, const Mechanism& own, State& state) {
    go(world, own, state, nullptr, 0.5 * world.settings.step);
    for (const Index k : own.rotors) {
        const auto m = static_cast<std::size_t>(k);
        state.rotor[m] += 0.5 * world.settings.step * state.rotor_speed[m];
    }
}

void add_free_turning(const Rigid& body, const double* v, double* a) {
    const Vec3 w = vec(v), c = body.centre, speed = vec(v + 3) + cross(w, c);
    const Vec3 rate = -1.0 * solve3(matrix(body.tensor), cross(w, body.tensor * w));
    set(a, vec(a) + rate);
    set(a + 3, vec(a + 3) - cross(rate, c) - cross(w, speed));
}

void end_step(const World& world, const Mechanism& own, bool flies, State& state,
              StepSpace& space) {
    const double h = world.settings.step;
    // What acted from outside is what made the momentum change, as it was in the middle.
    std::vector<Momentum> target;
    if (flies) {
        for (const std::vector<Index>& bodies : own.floats) {
            Momentum made =
                momentum_of(world, bodies, space.q.data(), space.v_before.data(), space.before);
            const Vec3 middle = space.bodies[bodies[0]].about;
            made.sum = dynamics::moved(made.sum, made.about, middle);
            for (const Index i : bodies) {
                dynamics::move_body(world.tree, i, space.middle.data(), state.a.data(), {},
                                    space.bodies);
                made.sum = made.sum + h * dynamics::force_of_motion(space.bodies[i]);
            }
            made.about = middle;
            target.push_back(made);
        }
    }
    for (const Index c : own.freedoms) {
        const auto k = static_cast<std::size_t>(c);
        state.v[k] = space.v[k];
        space.moving[k] = h * (space.moving[k] - space.v[k]);
    }
    for (const Index k : own.rotors) {
        const auto m = static_cast<std::size_t>(k);
        state.rotor_speed[m] = space.rotor_end[m];
        state.rotor[m] += 0.5 * h * state.rotor_speed[m];
    }
    go(world, own, state, space.moving.data(), 0.5 * h);
    for (std::size_t k = 0; k < target.size(); ++k) {
        const std::vector<Index>& bodies = own.floats[k];
        const Body& root = world.tree.body(bodies[0]);
        const Momentum now =
            momentum_of(world, bodies, state.q.data(), state.v.data(), space.before);
        const Wrench<double> wanted = dynamics::moved(target[k].sum, target[k].about, now.about);
        const Wrench<double> left = wanted - now.sum;
        const Twist<double> change =
            dynamics::solve_upper6(dynamics::cholesky6(now.inertia),
                                   dynamics::solve_lower6(dynamics::cholesky6(now.inertia), left));
        const Mat3& turn = space.before[bodies[0]].pose.turn;
        double* const v = state.v.data() + root.freedom;
        set(v, vec(v) + back(turn, change.angular));
        set(v + 3, vec(v + 3) + back(turn, change.linear));
    }
}

}  // namespace mooring::simulation
