#include "overlaps/meetings.h"

#include <algorithm>
#include <numeric>

#include "kinematics/poses.h"
#include "overlaps/distance.h"

namespace mooring::overlaps {

namespace {

struct Met {
    Index first, second;
    double distance;
};

double along(Vec3 v, int axis) { return axis == 0 ? v.x : axis == 1 ? v.y : v.z; }

// The axis along which the shapes are spread the most.
int longest(const std::vector<PlacedShape>& where) {
    Vec3 low = where.front().middle, high = low;
    for (const PlacedShape& one : where) {
        low = {std::min(low.x, one.middle.x), std::min(low.y, one.middle.y),
               std::min(low.z, one.middle.z)};
        high = {std::max(high.x, one.middle.x), std::max(high.y, one.middle.y),
                std::max(high.z, one.middle.z)};
    }
    const Vec3 size = high - low;
    return size.x >= size.y && size.x >= size.z ? 0 : size.y >= size.z ? 1 : 2;
}

}  // namespace

Meetings meetings(const tree::Tree& tree, const Shapes& shapes, Grid<const std::uint8_t> judged,
                  Grid<const double> q, Grid<const std::uint8_t> moving, double below) {
    Meetings found;
    const auto count = static_cast<std::size_t>(shapes.count());
    if (count == 0) {
        return found;
    }
    std::vector<Pose> poses(tree.bodies.size());
    std::vector<PlacedShape> where(count);
    std::vector<std::size_t> order(count), active;
    std::vector<double> start(count), end(count);
    std::vector<Met> met;
    std::iota(order.begin(), order.end(), std::size_t{0});
    for (Index b = 0; b < q.rows; ++b) {
        kinematics::world_poses(tree, &q(b, 0), poses.data());
        for (std::size_t s = 0; s < count; ++s) {
            where[s] =
                placed(shapes.shapes[s], poses[static_cast<std::size_t>(shapes.shapes[s].body)]);
        }
        const int axis = longest(where);
        for (std::size_t s = 0; s < count; ++s) {
            const double middle = along(where[s].middle, axis);
            start[s] = middle - shapes.shapes[s].reach;
            end[s] = middle + shapes.shapes[s].reach + below;
        }
        // Nearly sorted from the state before.
        std::sort(order.begin(), order.end(), [&start](std::size_t one, std::size_t other) {
            return start[one] < start[other] || (start[one] == start[other] && one < other);
        });
        active.clear();
        met.clear();
        for (const std::size_t s : order) {
            std::size_t kept = 0;
            const Shape& one = shapes.shapes[s];
            for (const std::size_t t : active) {
                if (end[t] < start[s]) {
                    continue;
                }
                active[kept++] = t;
                const Shape& other = shapes.shapes[t];
                const Index first = std::min(one.body, other.body),
                            second = std::max(one.body, other.body);
                if (first == second || judged(first, second) == 0 ||
                    (moving(b, first) == moving(b, second) && moving(b, first) != 2)) {
                    continue;
                }
                const double gap =
                    norm(where[s].middle - where[t].middle) - one.reach - other.reach;
                if (gap >= below) {
                    continue;
                }
                const Nearest nearest =
                    signed_distance(shapes, one, where[s].pose, other, where[t].pose, {});
                if (nearest.distance < below) {
                    met.push_back({first, second, nearest.distance});
                }
            }
            active.resize(kept);
            active.push_back(s);
        }
        std::sort(met.begin(), met.end(), [](const Met& one, const Met& other) {
            return one.first != other.first     ? one.first < other.first
                   : one.second != other.second ? one.second < other.second
                                                : one.distance < other.distance;
        });
        for (std::size_t k = 0; k < met.size(); ++k) {
            if (k > 0 && met[k].first == met[k - 1].first && met[k].second == met[k - 1].second) {
                continue;
            }
            found.where.insert(found.where.end(), {b, met[k].first, met[k].second});
            found.distances.push_back(met[k].distance);
        }
    }
    return found;
}

}  // namespace mooring::overlaps
