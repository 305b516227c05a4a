// Building a tree of boxes over triangles.
#include "cad/boxes.h"

#include <numeric>

namespace mooring::cad {

namespace {

// So few triangles are looked at one by one.
constexpr Index kLeaf = 4;

}  // namespace

Box box_around(const Triangle& triangle) {
    Box box;
    for (int k = 0; k < 3; ++k) {
        const Vec3 corner = triangle.corner(k);
        const double point[3] = {corner.x, corner.y, corner.z};
        box.hold(point);
    }
    return box;
}

Boxes::Boxes(const double* triangles, Index count)
    : triangles_(static_cast<std::size_t>(count)), order_(static_cast<std::size_t>(count)) {
    const auto total = static_cast<std::size_t>(count);
    std::vector<std::array<double, 3>> middles(total);
    for (std::size_t t = 0; t < total; ++t) {
        const double* p = triangles + 9 * t;
        for (std::size_t k = 0; k < 3; ++k) {
            middles[t][k] = (p[k] + p[3 + k] + p[6 + k]) / 3.0;
        }
    }
    std::iota(order_.begin(), order_.end(), 0);
    nodes_.reserve(total);
    nodes_.push_back({});
    nodes_[0].count = count;
    std::vector<Index> waiting{0};
    while (!waiting.empty()) {
        const auto number = static_cast<std::size_t>(waiting.back());
        waiting.pop_back();
        const Index first = nodes_[number].first, held = nodes_[number].count;
        Box box, spread;
        for (Index i = first; i < first + held; ++i) {
            const Index t = order_[static_cast<std::size_t>(i)];
            for (Index corner = 0; corner < 3; ++corner) {
                box.hold(triangles + 9 * t + 3 * corner);
            }
            spread.hold(middles[static_cast<std::size_t>(t)].data());
        }
        nodes_[number].box = box;
        if (held <= kLeaf) {
            continue;
        }
        // In two at the median of the longest side.
        std::size_t axis = 0;
        for (std::size_t k = 1; k < 3; ++k) {
            if (spread.high[k] - spread.low[k] > spread.high[axis] - spread.low[axis]) {
                axis = k;
            }
        }
        std::stable_sort(order_.begin() + first, order_.begin() + first + held,
                         [&](Index one, Index two) {
                             return middles[static_cast<std::size_t>(one)][axis] <
                                    middles[static_cast<std::size_t>(two)][axis];
                         });
        const Index half = held / 2, child = static_cast<Index>(nodes_.size());
        nodes_[number].child = child;
        nodes_.push_back({{}, -1, first, half});
        nodes_.push_back({{}, -1, first + half, held - half});
        waiting.push_back(child);
        waiting.push_back(child + 1);
    }
    for (std::size_t k = 0; k < total; ++k) {
        triangles_[k] = triangle_at(triangles, order_[k]);
    }
}

}  // namespace mooring::cad
