#include "simulation/mechanisms.h"

#include <algorithm>
#include <iterator>

namespace mooring::simulation {

namespace {

// Of bodies that are fixed to the first, in its axes.
Rigid rigid_of(const Tree& tree, const std::vector<Index>& bodies) {
    std::vector<Pose> poses(tree.bodies.size(), Pose{kIdentity, {}});
    Rigid whole;
    Vec3 moment;
    for (const Index i : bodies) {
        const Body& b = tree.body(i);
        if (i != bodies[0]) {
            poses[static_cast<std::size_t>(i)] =
                poses[static_cast<std::size_t>(b.parent)] * b.joint;
        }
        whole.mass += b.mass;
        moment += b.mass * (poses[static_cast<std::size_t>(i)] * b.centre);
    }
    whole.centre = moment / std::max(whole.mass, kMassless);
    for (const Index i : bodies) {
        const Body& b = tree.body(i);
        const Pose& pose = poses[static_cast<std::size_t>(i)];
        const Vec3 arm = pose * b.centre - whole.centre;
        const double square = dot(arm, arm);
        whole.tensor =
            whole.tensor + turned(pose.turn, b.tensor) +
            Sym3<double>{b.mass * (square - arm.x * arm.x), -b.mass * arm.x * arm.y,
                         -b.mass * arm.x * arm.z,           b.mass * (square - arm.y * arm.y),
                         -b.mass * arm.y * arm.z,           b.mass * (square - arm.z * arm.z)};
    }
    return whole;
}

}  // namespace

Mechanisms::Mechanisms(const World& world, const std::vector<Bond>& bonds)
    : of_body(world.tree.bodies.size(), -1), local(world.tree.freedoms.size()) {
    const Tree& tree = world.tree;
    UnionFind sets(tree.bodies.size());
    const auto join = [&](Index a, Index b) {
        if (tree.tip(a) >= 0 && tree.tip(b) >= 0) {
            sets.join(a, b);
        }
    };
    for (Index i = 1; i < tree.body_count(); ++i) {
        join(i, tree.body(i).parent);
    }
    const auto body_of = [&](Index freedom) { return tree.freedom(freedom).body; };
    for (const tree::Coupling& c : tree.couplings) {
        for (const tree::Lead& lead : c.leads) {
            join(body_of(c.follower), body_of(lead.leader));
        }
    }
    for (const tree::Closure& c : tree.closures) {
        join(c.first, c.second);
    }
    for (const tree::Spring& s : tree.springs) {
        join(s.first, s.second);
    }
    for (const Bond& b : bonds) {
        join(b.first, b.second);
    }
    // One of what a cable ties that moves, to which it belongs.
    std::vector<Index> held_by_cable;
    for (const Cable& cable : world.cables) {
        Index some = -1;
        const auto tie = [&](Index body) {
            if (tree.tip(body) >= 0) {
                join(some < 0 ? body : some, body);
                some = body;
            }
        };
        for (const Cable::Point& point : cable.points) {
            tie(point.body);
        }
        for (const Cable::Drum& drum : cable.drums) {
            tie(body_of(drum.freedom));
        }
        held_by_cable.push_back(some);
    }
    std::vector<Index> number(tree.bodies.size(), -1);
    for (Index i = 0; i < tree.body_count(); ++i) {
        if (tree.tip(i) < 0) {
            continue;
        }
        Index& own = number[static_cast<std::size_t>(sets.find(i))];
        if (own < 0) {
            own = static_cast<Index>(all.size());
            all.emplace_back();
        }
        of_body[static_cast<std::size_t>(i)] = own;
        (*this)[own].bodies.push_back(i);
    }
    for (Index c = 0; c < tree.freedom_count(); ++c) {
        Mechanism& own = (*this)[of(body_of(c))];
        local[static_cast<std::size_t>(c)] = static_cast<Index>(own.freedoms.size());
        own.freedoms.push_back(c);
    }
    // What ties a mechanism to what nothing moves belongs to the mechanism.
    const auto each = [&](const auto& items, auto ends, auto list) {
        for (std::size_t k = 0; k < items.size(); ++k) {
            const auto [first, second] = ends(items[k]);
            const Index own = std::max(of(first), of(second));
            if (own >= 0) {
                ((*this)[own].*list).push_back(static_cast<Index>(k));
            }
        }
    };
    const auto between = [](const auto& item) { return std::pair(item.first, item.second); };
    each(tree.closures, between, &Mechanism::closures);
    each(tree.springs, between, &Mechanism::springs);
    each(bonds, between, &Mechanism::bonds);
    each(
        tree.couplings,
        [&](const tree::Coupling& c) {
            return std::pair(body_of(c.follower), body_of(c.leads[0].leader));
        },
        &Mechanism::couplings);
    each(
        world.motors,
        [&](const Motor& m) { return std::pair(body_of(m.freedom), body_of(m.freedom)); },
        &Mechanism::motors);
    for (std::size_t k = 0; k < held_by_cable.size(); ++k) {
        if (const Index own = of(held_by_cable[k]); own >= 0) {
            (*this)[own].cables.push_back(static_cast<Index>(k));
        }
    }
    for (std::size_t k = 0; k < world.laws.size(); ++k) {
        if (const Index own = of(world.laws[k].body); own >= 0) {
            (*this)[own].laws.push_back(static_cast<Index>(k));
        }
    }
    for (Mechanism& own : all) {
        std::copy_if(own.motors.begin(), own.motors.end(), std::back_inserter(own.rotors),
                     [&](Index k) { return world.motors[static_cast<std::size_t>(k)].geared(); });
        own.loose = own.freedoms.size() == 6 && tree.freedom(own.freedoms[0]).position < 0 &&
                    tree.tip(tree.body(body_of(own.freedoms[0])).parent) < 0 &&
                    own.springs.empty() && own.closures.empty() && own.bonds.empty() &&
                    own.cables.empty();
        if (own.loose) {
            own.rigid = rigid_of(tree, own.bodies);
            continue;
        }
        std::vector<Index> place(tree.bodies.size(), -1);
        for (const Index i : own.bodies) {
            const Body& b = tree.body(i);
            Index& here = place[static_cast<std::size_t>(i)];
            if (tree.tip(b.parent) >= 0) {
                here = place[static_cast<std::size_t>(b.parent)];
            } else if (b.kind == Kind::floating) {
                here = static_cast<Index>(own.floats.size());
                own.floats.emplace_back();
            }
            if (here >= 0) {
                own.floats[static_cast<std::size_t>(here)].push_back(i);
            }
        }
    }
}

}  // namespace mooring::simulation
