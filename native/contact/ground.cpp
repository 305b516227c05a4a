#include "contact/ground.h"

#include <algorithm>
#include <numbers>

namespace mooring::contact {

namespace {

constexpr int kKept = 4, kKeptUneven = 6;
constexpr int kRim = 12;  // corners on each end of a cylinder

struct Footing {
    double height;
    Vec3 normal;
};
constexpr Footing kBeyond{-1e300, {0.0, 0.0, 1.0}};

Footing on_cell(const Ground& g, Index i, Index j, double u, double v) {
    const double low = g.height(i, j), high = g.height(i + 1, j + 1);
    double along = 0.0, over = 0.0;
    if (u >= v) {
        along = g.height(i + 1, j) - low;
        over = high - g.height(i + 1, j);
    } else {
        along = high - g.height(i, j + 1);
        over = g.height(i, j + 1) - low;
    }
    const double dx = along / g.cell_x, dy = over / g.cell_y;
    const double length = std::sqrt(1.0 + dx * dx + dy * dy);
    return {low + along * u + over * v, {-dx / length, -dy / length, 1.0 / length}};
}

// The ground below a point.
Footing below(const Ground& g, double x, double y) {
    const double u = (x - g.x) / g.cell_x, v = (y - g.y) / g.cell_y;
    Index i = floor_index(u), j = floor_index(v);
    const auto beyond = [](Index k, Index count, double at) {
        return k < 0 || (k + 1 >= count && at != static_cast<double>(count - 1));
    };
    if (beyond(i, g.rows, u) || beyond(j, g.columns, v)) {
        return kBeyond;
    }
    i = std::min(i, g.rows - 2);
    j = std::min(j, g.columns - 2);
    return on_cell(g, i, j, u - static_cast<double>(i), v - static_cast<double>(j));
}

void on_level(const Ground& g, const Shapes& shapes, const Shape& shape, const Pose& pose,
              double margin, Spots& out) {
    const Vec3 up{0.0, 0.0, 1.0};
    const auto add = [&](Vec3 point) {
        const double gap = point.z - g.level;
        if (gap < margin) {
            out.add({{point.x, point.y, g.level + 0.5 * gap}, up, gap});
        }
    };
    if (shape.is_round()) {
        for (Index k = shape.first; k < shape.last; ++k) {
            add(pose * shapes.point(k) - shape.radius * up);
        }
        return;
    }
    const Side side = side_towards(shapes, shape, pose, -up);
    for (int k = 0; k < side.count; ++k) {
        add(side[k]);
    }
    keep_spread(out, kKept);
    halve_line(out);
}

// Corners of a shape that are below the ground, or nearly; a cylinder's are on its rims.
void corners_on(const Ground& g, const Shapes& shapes, const Shape& shape, const Pose& pose,
                double margin, Spots& out) {
    const auto add = [&](Vec3 corner) {
        const Vec3 at = pose * corner;
        const Footing foot = below(g, at.x, at.y);
        const double gap = (at.z - foot.height) * foot.normal.z - shape.radius;
        if (-shape.reach < gap && gap < margin && foot.height > -1e299) {
            out.add({at - (shape.radius + 0.5 * gap) * foot.normal, foot.normal, gap});
        }
    };
    if (!shape.cylinder) {
        for (Index k = shape.first; k < shape.last; ++k) {
            add(shapes.point(k));
        }
        return;
    }
    for (int k = 0; k < 2 * kRim; ++k) {
        // Every other one on either end.
        const SineCosine<double> of = sine_cosine(std::numbers::pi * k / kRim);
        add({shape.across * of.cosine, shape.across * of.sine,
             k % 2 == 0 ? shape.half : -shape.half});
    }
}

struct Cells {
    Index first_i, last_i, first_j, last_j;
};

// Points of a round shape on the triangles below it; it reaches down to `low`.
void facets(const Ground& g, const Shapes& shapes, const Shape& shape, const Pose& pose, double low,
            double margin, const Cells& cells, Spots& out) {
    for (Index i = cells.first_i; i <= cells.last_i; ++i) {
        for (Index j = cells.first_j; j <= cells.last_j; ++j) {
            if (low > std::max({g.height(i, j), g.height(i + 1, j), g.height(i, j + 1),
                                g.height(i + 1, j + 1)})) {
                continue;
            }
            for (const bool lower : {true, false}) {
                // A point well inside either triangle tells which one is meant.
                const Vec3 n =
                    (lower ? on_cell(g, i, j, 0.75, 0.25) : on_cell(g, i, j, 0.25, 0.75)).normal;
                const Side side = side_towards(shapes, shape, pose, -n);
                for (int k = 0; k < side.count; ++k) {
                    const double u = (side[k].x - g.x) / g.cell_x - static_cast<double>(i),
                                 v = (side[k].y - g.y) / g.cell_y - static_cast<double>(j);
                    if (u < 0.0 || v < 0.0 || u >= 1.0 || v >= 1.0 || (u >= v) != lower) {
                        continue;
                    }
                    const double gap = (side[k].z - on_cell(g, i, j, u, v).height) * n.z;
                    if (-shape.reach < gap && gap < margin) {
                        out.add({side[k] - 0.5 * gap * n, n, gap});
                    }
                }
            }
        }
    }
}

// Whether the ground bulges at a grid point, along either direction of the grid.
bool is_peak(const Ground& g, Index i, Index j) {
    const double z = g.height(i, j);
    const bool along =
        i > 0 && i < g.rows - 1 && z > 0.5 * (g.height(i - 1, j) + g.height(i + 1, j)) + 1e-9;
    const bool over =
        j > 0 && j < g.columns - 1 && z > 0.5 * (g.height(i, j - 1) + g.height(i, j + 1)) + 1e-9;
    return along || over;
}

// Contacts with peaks of the ground: grid points higher than those around them.
void peaks(const Ground& g, const Shapes& shapes, const Shape& shape,
           const overlaps::PlacedShape& placed, double reach, double margin, const Cells& cells,
           Spots& out) {
    // The last of the shapes is a mere point.
    const Shape& probe = shapes.shapes.back();
    for (Index i = cells.first_i; i <= cells.last_i + 1; ++i) {
        for (Index j = cells.first_j; j <= cells.last_j + 1; ++j) {
            const Vec3 peak{g.x + static_cast<double>(i) * g.cell_x,
                            g.y + static_cast<double>(j) * g.cell_y, g.height(i, j)};
            const Vec3 way = peak - placed.middle;
            if (dot(way, way) > reach * reach || !is_peak(g, i, j)) {
                continue;
            }
            const overlaps::Nearest found = overlaps::signed_distance(
                shapes, probe, {kIdentity, peak}, shape, placed.pose, {0.0, 0.0, 1.0});
            if (found.distance < margin && found.normal.z > 0.3) {
                out.add({0.5 * (found.on_a + found.on_b), found.normal, found.distance});
            }
        }
    }
}

}  // namespace

void ground_contacts(const Ground& g, const Shapes& shapes, const Shape& shape,
                     const overlaps::PlacedShape& placed, double margin, Spots& out) {
    out.count = 0;
    if (g.kind == GroundKind::level) {
        if (placed.middle.z - shape.reach - g.level <= margin) {
            on_level(g, shapes, shape, placed.pose, margin, out);
        }
        return;
    }
    const double reach = shape.reach + margin;
    const Vec3 middle = placed.middle;
    const Cells cells{
        std::max<Index>(0, floor_index((middle.x - reach - g.x) / g.cell_x)),
        std::min<Index>(g.rows - 2, floor_index((middle.x + reach - g.x) / g.cell_x)),
        std::max<Index>(0, floor_index((middle.y - reach - g.y) / g.cell_y)),
        std::min<Index>(g.columns - 2, floor_index((middle.y + reach - g.y) / g.cell_y))};
    if (!shape.is_round()) {
        corners_on(g, shapes, shape, placed.pose, margin, out);
    }
    if (shape.cylinder || shape.is_round()) {
        facets(g, shapes, shape, placed.pose, middle.z - reach, margin, cells, out);
    }
    peaks(g, shapes, shape, placed, reach, margin, cells, out);
    keep_spread(out, kKeptUneven);
}

}  // namespace mooring::contact
