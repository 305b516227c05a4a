// Triangles into a depth buffer.
#include <algorithm>
#include <cmath>

#include "drawing/drawing.h"

namespace mooring::drawing {

void clear(Grid<float> depth, Grid<std::int32_t> owner) {
    std::fill(depth.data, depth.data + depth.rows * depth.columns, 0.0f);
    std::fill(owner.data, owner.data + owner.rows * owner.columns, -1);
}

void rasterise(Screen screen, Faces faces, const std::int32_t* chosen, Index count, Index top,
               Grid<float> depth, Grid<std::int32_t> owner) {
    const Index height = depth.rows, width = depth.columns;
    for (Index k = 0; k < count; ++k) {
        const Index f = chosen[k];
        const double* a = screen[faces[f][0]];
        const double* b = screen[faces[f][1]];
        const double* c = screen[faces[f][2]];
        if (a[2] <= 0.0 || b[2] <= 0.0 || c[2] <= 0.0) {
            continue;
        }
        const double low = std::min({a[1], b[1], c[1]}), high = std::max({a[1], b[1], c[1]});
        if (high < static_cast<double>(top) || low >= static_cast<double>(top + height)) {
            continue;
        }
        const double area = (b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0]);
        if (!(std::fabs(area) > 0.0)) {  // nor where a corner is no number
            continue;
        }
        const double over = 1.0 / area;
        // Far outside the picture the pixels' numbers would not fit: cut before they are made.
        const double bottom = static_cast<double>(top + height - 1);
        const auto edge = static_cast<double>(width);
        const Index first = -floor_index(-std::max(static_cast<double>(top), low - 0.5));
        const Index last = floor_index(std::min(bottom, high - 0.5));
        const Index left = -floor_index(-std::clamp(std::min({a[0], b[0], c[0]}) - 0.5, 0.0, edge));
        const Index right =
            floor_index(std::clamp(std::max({a[0], b[0], c[0]}) - 0.5, -1.0, edge - 1.0));
        // Barycentric weights of b and c change by the same amount from pixel to pixel.
        const double step_b = (c[1] - a[1]) * over, step_c = -(b[1] - a[1]) * over;
        const double near_b = b[2] - a[2], near_c = c[2] - a[2];
        for (Index y = first; y <= last; ++y) {
            const double py = static_cast<double>(y) + 0.5 - a[1];
            const double px = static_cast<double>(left) + 0.5 - a[0];
            double u = (px * (c[1] - a[1]) - py * (c[0] - a[0])) * over;
            double v = (py * (b[0] - a[0]) - px * (b[1] - a[1])) * over;
            float* depths = &depth(y - top, 0);
            std::int32_t* owners = &owner(y - top, 0);
            for (Index x = left; x <= right; ++x) {
                if (u >= 0.0 && v >= 0.0 && u + v <= 1.0) {
                    const double near = a[2] + u * near_b + v * near_c;
                    if (near > static_cast<double>(depths[x])) {
                        depths[x] = static_cast<float>(near);
                        owners[x] = chosen[k];
                    }
                }
                u += step_b;
                v += step_c;
            }
        }
    }
}

}  // namespace mooring::drawing
