// Boxes in a hierarchy that is kept up to date as they move: a box is put in wide, and its place
// changes only when what it holds leaves it (Catto, "Dynamic Bounding Volume Hierarchies", 2019).
#pragma once

#include <algorithm>
#include <vector>

#include "geometry/vec.h"
#include "geometry/views.h"

namespace mooring::contact {

struct Bounds {
    Vec3 low, high;

    bool holds(const Bounds& b) const {
        return low.x <= b.low.x && low.y <= b.low.y && low.z <= b.low.z && high.x >= b.high.x &&
               high.y >= b.high.y && high.z >= b.high.z;
    }
    bool meets(const Bounds& b) const {
        return low.x <= b.high.x && low.y <= b.high.y && low.z <= b.high.z && high.x >= b.low.x &&
               high.y >= b.low.y && high.z >= b.low.z;
    }
    // Half the surface.
    double area() const {
        const Vec3 d = high - low;
        return d.x * d.y + d.y * d.z + d.z * d.x;
    }
};

inline Bounds joined(const Bounds& a, const Bounds& b) {
    return {
        {std::min(a.low.x, b.low.x), std::min(a.low.y, b.low.y), std::min(a.low.z, b.low.z)},
        {std::max(a.high.x, b.high.x), std::max(a.high.y, b.high.y), std::max(a.high.z, b.high.z)}};
}

class Volumes {
  public:
    // Leaves are numbered from 0 to `count`; none is in yet.
    explicit Volumes(Index count) : leaf_(static_cast<std::size_t>(count), kNone) {}

    bool has(Index leaf) const { return leaf_[static_cast<std::size_t>(leaf)] != kNone; }
    const Bounds& bounds(Index leaf) const {
        return at(leaf_[static_cast<std::size_t>(leaf)]).bounds;
    }
    void put(Index leaf, const Bounds& bounds);
    void take(Index leaf);

    // Calls found(leaf) for all that meet some bounds.
    template <typename Found>
    void each_meeting(const Bounds& bounds, Found&& found) const {
        if (root_ == kNone) {
            return;
        }
        waiting_.assign(1, root_);
        while (!waiting_.empty()) {
            const Node& node = at(waiting_.back());
            waiting_.pop_back();
            if (!node.bounds.meets(bounds)) {
                continue;
            }
            if (node.leaf >= 0) {
                found(node.leaf);
            } else {
                waiting_.push_back(node.child[0]);
                waiting_.push_back(node.child[1]);
            }
        }
    }

  private:
    static constexpr Index kNone = -1;

    struct Node {
        Bounds bounds;
        Index parent = kNone, child[2] = {kNone, kNone}, leaf = kNone;
    };

    Node& at(Index k) { return nodes_[static_cast<std::size_t>(k)]; }
    const Node& at(Index k) const { return nodes_[static_cast<std::size_t>(k)]; }
    Index add(const Node& node);
    void fit_upwards(Index node);

    std::vector<Node> nodes_;
    std::vector<Index> free_, leaf_;
    Index root_ = kNone;
    mutable std::vector<Index> waiting_;
};

}  // namespace mooring::contact
