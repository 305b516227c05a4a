// Contact with the ground: level, or heights over a grid, two triangles a cell.
//
// On uneven ground, what has corners meets the ground below each of them; what is round meets each
// triangle at the points of the side that looks at it, where they lie over the triangle. Peaks of
// the ground, which may poke into a side between its corners, are met as well. What is deeper below
// the ground than its own size came from beyond the edge, and is left alone.
#pragma once

#include "contact/manifold.h"

namespace mooring::contact {

enum class GroundKind { none, level, uneven };

}  // namespace mooring::contact

template <>
struct mooring::Names<mooring::contact::GroundKind> {
    static constexpr std::array<std::string_view, 3> names{"none", "level", "uneven"};
};

namespace mooring::contact {

struct Ground {
    GroundKind kind = GroundKind::none;
    double level = 0.0;
    std::vector<double> heights;  // (rows, columns), by x and y
    Index rows = 0, columns = 0;
    double x = 0.0, y = 0.0, cell_x = 1.0, cell_y = 1.0;  // the first height's place, and the step

    double height(Index i, Index j) const {
        return heights[static_cast<std::size_t>(i * columns + j)];
    }
};

// Spots of a shape, their normals upwards.
void ground_contacts(const Ground& ground, const Shapes& shapes, const Shape& shape,
                     const overlaps::PlacedShape& placed, double margin, Spots& out);

}  // namespace mooring::contact
