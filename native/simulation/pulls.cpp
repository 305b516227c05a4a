#include "simulation/pulls.h"

#include "kinematics/loops.h"

namespace mooring::simulation {

namespace {

std::size_t z(Index k) { return static_cast<std::size_t>(k); }

Pull cable_pull(const Cable& cable, const Bodies<double>& bodies, const double* positions) {
    Pull pull;
    double length = 0.0;
    for (std::size_t k = 1; k < cable.points.size(); ++k) {
        const Cable::Point &one = cable.points[k - 1], &other = cable.points[k];
        const Vec3 start = bodies[one.body].pose * one.place,
                   end = bodies[other.body].pose * other.place;
        const double far = norm(end - start);
        length += far;
        if (far > 1e-12) {
            // Its tension pulls either end towards the other.
            const Vec3 way = (end - start) / far;
            pull.parts.push_back(force_between(bodies, one.body, -1, start, -way));
            pull.parts.push_back(force_between(bodies, -1, other.body, end, -way));
        }
    }
    for (const Cable::Drum& drum : cable.drums) {
        length += drum.lever * positions[drum.freedom];
        pull.parts.push_back(effort_at(drum.freedom, -drum.lever));
    }
    pull.over = length - cable.length;
    pull.stiffness = cable.stiffness;
    pull.damping = cable.damping;
    pull.both_ways = cable.pushes;
    return pull;
}

// A gear pushes its joint one way or the other, once its play is used up.
void add_gear(const Motor& motor, Index k, double joint, double rotor, std::vector<Pull>& pulls) {
    const double ahead = rotor - joint;
    for (const double sense : {1.0, -1.0}) {
        Pull pull;
        pull.parts.push_back(effort_at(motor.freedom, sense));
        pull.rotor = k;
        pull.effort = -sense;
        pull.over = sense * ahead - 0.5 * motor.play;
        pull.stiffness = motor.stiffness;
        if (motor.stiffness < kNever) {
            // Teeth and shafts of steel: a twentieth of what would be critical.
            pull.damping = 0.1 * std::sqrt(motor.stiffness * motor.rotor);
        }
        pulls.push_back(pull);
    }
}

// A pin in a bore wider than itself, that may be off its middle by so much.
void add_play(const tree::Closure& closure, double play, const Bodies<double>& bodies,
              std::vector<Pull>& pulls) {
    const Pose first = bodies[closure.first].pose * closure.on_first,
               second = bodies[closure.second].pose * closure.on_second;
    Vec3 off = second.place - first.place;
    for (int k = 0; k < 3; ++k) {
        if (!across_play(closure, k)) {
            const Vec3 axis = column(first.turn, k);
            off = off - dot(off, axis) * axis;
        }
    }
    const double far = norm(off);
    Pull pull;
    pull.over = far - play;
    const Vec3 way = far > 1e-12 ? off / far : column(first.turn, 0);
    pull.parts.push_back(force_between(bodies, closure.first, closure.second, second.place, -way));
    pulls.push_back(pull);
}

}  // namespace

bool across_play(const tree::Closure& closure, int axis) {
    // What slides has its play across the way it slides; a hinge keeps its ends where they are.
    const bool hinge = closure.held[0] && closure.held[1] && !closure.held[2];
    return closure.held[3 + axis] && !(hinge && axis == 2);
}

void add_pulls(const World& world, const Mechanism& own, const Bodies<double>& bodies,
               const double* positions, const std::vector<double>& rotors,
               std::vector<Pull>& pulls) {
    for (const Index k : own.cables) {
        pulls.push_back(cable_pull(world.cables[z(k)], bodies, positions));
    }
    for (const Index k : own.rotors) {
        const Motor& motor = world.motors[z(k)];
        add_gear(motor, k, positions[motor.freedom], rotors[z(k)], pulls);
    }
    for (const Index k : own.closures) {
        if (world.gives[z(k)].play > 0.0) {
            add_play(world.tree.closures[z(k)], world.gives[z(k)].play, bodies, pulls);
        }
    }
}

double held_by_pulls(const World& world, const Mechanism& own, const Bodies<double>& bodies,
                     const double* positions, const std::vector<double>& rotors) {
    std::vector<Pull> pulls;
    add_pulls(world, own, bodies, positions, rotors, pulls);
    double energy = 0.0;
    for (const Pull& pull : pulls) {
        if (pull.stiffness < kNever && (pull.over > 0.0 || pull.both_ways)) {
            energy += 0.5 * pull.stiffness * pull.over * pull.over;
        }
    }
    return energy;
}

double held_by_gives(const World& world, const Bodies<double>& bodies) {
    double energy = 0.0;
    for (std::size_t k = 0; k < world.gives.size(); ++k) {
        const Give& give = world.gives[k];
        if (!give.soft()) {
            continue;
        }
        const tree::Closure& closure = world.tree.closures[k];
        const kinematics::Opening open =
            kinematics::opening(bodies[closure.first].pose * closure.on_first,
                                bodies[closure.second].pose * closure.on_second, closure.held);
        for (int row = 0; row < 6; ++row) {
            const double gap = component(row < 3 ? open.turn : open.way, row % 3);
            const double stiffness = row < 3 ? give.turning_stiffness : give.stiffness;
            if (closure.held[row] && stiffness < kNever) {
                energy += 0.5 * stiffness * gap * gap;
            }
        }
    }
    return energy;
}

}  // namespace mooring::simulation
