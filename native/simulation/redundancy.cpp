#include "simulation/redundancy.h"

#include <algorithm>
#include <limits>
#include <memory>

#include "kinematics/loops.h"

namespace mooring::simulation {

namespace {

constexpr double kWays[] = {0.0, 0.1, -0.2, 0.35};  // where it is looked at [rad or m]
constexpr Index kMostSteps = 40;
constexpr double kSuspect = 30.0;  // so much farther off an equation may have been meant to repeat

}  // namespace

void leave_repeating(const World& world, const std::vector<Bond>& bonds,
                     const std::vector<double>& start, Mechanisms& mechanisms) {
    const Tree& tree = world.tree;
    const std::size_t m = tree.freedoms.size();
    constexpr double kNoLimit = std::numeric_limits<double>::infinity();
    const std::vector<double> lower(m, -kNoLimit), upper(m, kNoLimit);
    Bodies<double> bodies(tree);
    dynamics::Articulated<double> made(tree);
    EquationSystem system;
    std::vector<double> positions(m), half(m), speeds(m), scratch;
    for (Index own = 0; own < static_cast<Index>(mechanisms.all.size()); ++own) {
        Mechanism& mechanism = mechanisms[own];
        mechanism.repeats = 0;
        if (mechanism.closures.empty() && mechanism.bonds.empty()) {
            continue;
        }
        Index repeats = 0;
        const auto free = std::make_unique<bool[]>(m);
        for (const Index c : mechanism.freedoms) {
            free[static_cast<std::size_t>(c)] = true;
        }
        std::vector<double> q = start;
        for (const double way : kWays) {
            if (way != 0.0) {
                // Along what the loops leave free, then back onto the loops.
                q = start;
                tree::move(tree, q.data(), speeds.data(), way);
                kinematics::close_loops(tree, q.data(), free.get(), lower.data(), upper.data(),
                                        1e-9, kMostSteps);
            }
            dynamics::place_bodies(tree, q.data(), bodies);
            dynamics::weigh_bodies(tree, bodies);
            tree::joint_positions(tree, q.data(), positions.data());
            factorise_bodies(tree, mechanism.bodies, bodies, made);
            std::vector<Equation> equations;
            add_holding(world, mechanism, bonds, bodies, positions.data(), equations);
            // What gives shares its load, however often others hold the same.
            std::erase_if(equations, [&](const Equation& row) {
                return row.kind == Ties::closure &&
                       world.gives[static_cast<std::size_t>(row.item)].soft();
            });
            mechanism.repeats = 0;
            system.build(tree, mechanisms, own, equations, bodies, made, kRepeated);
            const auto repeating = [&](double angle) {
                const std::vector<char> found =
                    system.repeating(tree, mechanism, equations, bodies, angle);
                return static_cast<Index>(std::count(found.begin(), found.end(), char{1}));
            };
            const Index here = repeating(kAligned);
            if (way == 0.0) {
                repeats = here;
                mechanism.nearly = repeating(kSuspect * kAligned) - here;
                // Some motion that the equations allow, those that repeat others left out.
                mechanism.repeats = here;
                system.build(tree, mechanisms, own, equations, bodies, made, kRepeated);
                std::vector<double> some(static_cast<std::size_t>(mechanism.size())),
                    allowed(some.size());
                for (std::size_t j = 0; j < some.size(); ++j) {
                    some[j] = 1.0 + 0.1 * static_cast<double>(j % 7);
                }
                system.project(some.data(), allowed.data(), scratch);
                for (std::size_t j = 0; j < mechanism.freedoms.size(); ++j) {
                    half[static_cast<std::size_t>(mechanism.freedoms[j])] = allowed[j];
                }
                velocities_from(tree, mechanism.bodies, bodies, made, half.data(), speeds.data());
                double fastest = 0.0;
                for (const Index c : mechanism.freedoms) {
                    fastest = std::max(fastest, std::fabs(speeds[static_cast<std::size_t>(c)]));
                }
                for (std::size_t c = 0; c < m; ++c) {
                    speeds[c] = free[c] && fastest > 0.0 ? speeds[c] / fastest : 0.0;
                }
            } else {
                repeats = std::min(repeats, here);
            }
        }
        mechanism.repeats = repeats;
    }
}

}  // namespace mooring::simulation
