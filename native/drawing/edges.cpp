// Lines where pieces meet, surfaces fold, or something stands before another.
#include <algorithm>
#include <cmath>

#include "drawing/drawing.h"

namespace mooring::drawing {

namespace {

// How dark a line is: around everything, between pieces, along a crease of one piece.
constexpr double kOutline = 0.85, kBetween = 0.68, kCrease = 0.5;
// Normals that differ by more than this cosine make a crease.
constexpr double kFold = 0.85;
// A step in depth, as a share of it, that makes a line.
constexpr double kStep = 0.01;

double edge(const Index* piece_of_face, bool perspective, const Band& band, Index y, Index x,
            Index ny, Index nx) {
    const Index f = band.owner(y, x), g = band.owner(ny, nx);
    if (f < 0 && g < 0) {
        return 0.0;
    }
    if (f < 0 || g < 0) {
        return kOutline;
    }
    if (piece_of_face[f] != piece_of_face[g]) {
        return kBetween;
    }
    if (f == g) {
        return 0.0;
    }
    const float* one = band.normal(y, x);
    const float* two = band.normal(ny, nx);
    if (static_cast<double>(one[0] * two[0] + one[1] * two[1] + one[2] * two[2]) < kFold) {
        return kCrease;
    }
    const double here = static_cast<double>(band.depth(y, x));
    const double there = static_cast<double>(band.depth(ny, nx));
    const double apart = std::abs(here - there);
    return (perspective ? apart / std::max(here, there) : apart * 0.2) > kStep ? kCrease : 0.0;
}

}  // namespace

void draw_edges(const Index* piece_of_face, bool perspective, const double ink[3],
                const Band& band) {
    for (Index y = 1; y < band.depth.rows - 1; ++y) {
        for (Index x = 1; x < band.depth.columns - 1; ++x) {
            const std::int32_t f = band.owner(y, x);
            if (f == band.owner(y, x - 1) && f == band.owner(y, x + 1) &&
                f == band.owner(y - 1, x) && f == band.owner(y + 1, x)) {
                continue;
            }
            const double strength =
                std::max({edge(piece_of_face, perspective, band, y, x, y, x - 1),
                          edge(piece_of_face, perspective, band, y, x, y, x + 1),
                          edge(piece_of_face, perspective, band, y, x, y - 1, x),
                          edge(piece_of_face, perspective, band, y, x, y + 1, x)});
            float* color = band.color(y, x);
            for (int k = 0; strength > 0.0 && k < 3; ++k) {
                const auto now = static_cast<double>(color[k]);
                color[k] = static_cast<float>(now + strength * (ink[k] - now));
            }
        }
    }
}

}  // namespace mooring::drawing
