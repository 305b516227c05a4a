// A tree of boxes over triangles, so that a question looks at few of them.
#pragma once

#include <algorithm>
#include <array>
#include <limits>
#include <vector>

#include "geometry/vec.h"
#include "geometry/views.h"

namespace mooring::cad {

constexpr double kInfinity = std::numeric_limits<double>::infinity();

struct Triangle {
    Vec3 a, b, c;
    Vec3 corner(int k) const { return k == 0 ? a : k == 1 ? b : c; }
};

// The k-th triangle of (m, 3, 3).
inline Triangle triangle_at(const double* triangles, Index k) {
    const double* t = triangles + 9 * k;
    return {vec(t), vec(t + 3), vec(t + 6)};
}

struct Box {
    double low[3] = {kInfinity, kInfinity, kInfinity};
    double high[3] = {-kInfinity, -kInfinity, -kInfinity};

    void hold(const double* point) {
        for (int k = 0; k < 3; ++k) {
            low[k] = std::min(low[k], point[k]);
            high[k] = std::max(high[k], point[k]);
        }
    }
};

Box box_around(const Triangle& triangle);

// A box of the tree: with two children that stand side by side, or, where there are none (-1), with
// a stretch of the triangles.
struct Node {
    Box box;
    Index child = -1, first = 0, count = 0;
};

class Boxes {
  public:
    // Triangles (m, 3, 3), at least one.
    Boxes(const double* triangles, Index count);

    // Of each point (n, 3) the distance to the nearest triangle, and which it is.
    void nearest(Triples<const double> points, double* distance, Index* which) const;

    // How far rays go before they meet a triangle, in lengths of their directions; infinite where
    // they meet none before `far`.
    void first_hits(Triples<const double> origins, Triples<const double> directions, double far,
                    double* way) const;

    // The smallest distance of triangles (k, 3, 3) to these; 0 if they cross. The search ends when
    // `enough` or less is found.
    double closest(const double* some, Index count, double enough) const;

    // Mark the triangles of (k, 3, 3) that lie flat against one of these: the normals are opposite
    // within an angle, the planes no farther apart than the tolerance, and seen along the normal
    // the triangles overlap.
    void facing(const double* some, Index count, double tolerance, double cosine,
                bool* marked) const;

  private:
    // Goes down the tree: `look` says whether a box is worth it, `leaf` is given the triangles of
    // one, and says whether to go on.
    template <typename Look, typename Leaf>
    void descend(const Look& look, const Leaf& leaf) const {
        std::array<Index, 128> stack;
        std::size_t waiting = 0;
        stack[waiting++] = 0;
        while (waiting > 0) {
            const Node& node = nodes_[static_cast<std::size_t>(stack[--waiting])];
            if (!look(node.box)) {
                continue;
            }
            if (node.child >= 0) {
                stack[waiting++] = node.child;
                stack[waiting++] = node.child + 1;
                continue;
            }
            for (Index k = node.first; k < node.first + node.count; ++k) {
                if (!leaf(k)) {
                    return;
                }
            }
        }
    }

    const Triangle& at(Index k) const { return triangles_[static_cast<std::size_t>(k)]; }

    std::vector<Triangle> triangles_;  // leaf by leaf
    std::vector<Index> order_;         // which triangle each of them was
    std::vector<Node> nodes_;
};

// How often rays from points (n, 3) in one slanted direction pass through triangles (m, 3, 3): odd
// inside a closed surface, even outside.
void crossings(const double* triangles, Index count, Triples<const double> points, Index* out);

}  // namespace mooring::cad
