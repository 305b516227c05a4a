// A whole picture, band by band.
#include "drawing/picture.h"

#include <algorithm>
#include <atomic>
#include <cmath>
#include <thread>
#include <vector>

namespace mooring::drawing {

namespace {

// Rows of the finished picture in a band: its buffers should stay in the processor's cache.
constexpr Index kRows = 40;
// Lines darker than this stay strong in glass.
constexpr double kGlassLines = 0.9;

// Memory of one thread, touched once and used for band after band.
struct Buffers {
    std::vector<float> depth, color, normal;
    std::vector<std::int32_t> owner;

    explicit Buffers(Index pixels)
        : depth(static_cast<std::size_t>(pixels)),
          color(static_cast<std::size_t>(3 * pixels)),
          normal(static_cast<std::size_t>(3 * pixels)),
          owner(static_cast<std::size_t>(pixels)) {}

    Band band(Index rows, Index columns, Index top) {
        return {{depth.data(), rows, columns},
                {owner.data(), rows, columns},
                {color.data(), rows, columns},
                {normal.data(), rows, columns},
                top};
    }
};

// Which triangles reach into which band, each list in the triangles' order.
std::vector<std::vector<std::int32_t>> by_band(const Layer& layer, Index bands, Index rows,
                                               Index margin) {
    std::vector<std::vector<std::int32_t>> found(static_cast<std::size_t>(bands));
    for (Index f = 0; f < layer.faces.count; ++f) {
        const Index* face = layer.faces[f];
        const double* a = layer.screen[face[0]];
        const double* b = layer.screen[face[1]];
        const double* c = layer.screen[face[2]];
        if (a[2] <= 0.0 || b[2] <= 0.0 || c[2] <= 0.0) {
            continue;
        }
        const auto most = static_cast<double>(bands * rows + margin);
        const double low =
            std::clamp(std::min({a[1], b[1], c[1]}), -1.0 - static_cast<double>(margin), most);
        const double high =
            std::clamp(std::max({a[1], b[1], c[1]}), -1.0 - static_cast<double>(margin), most);
        const Index first = std::max<Index>(
            0, floor_index((low - static_cast<double>(margin)) / static_cast<double>(rows)));
        const Index last = std::min(bands - 1, floor_index((high + static_cast<double>(margin)) /
                                                           static_cast<double>(rows)));
        for (Index band = first; band <= last; ++band) {
            found[static_cast<std::size_t>(band)].push_back(static_cast<std::int32_t>(f));
        }
    }
    return found;
}

void draw_layer(const Layer& layer, const std::vector<std::int32_t>& chosen, const Look& look,
                const Shadow& shadow, bool backed, const Band& band) {
    clear(band.depth, band.owner);
    rasterise(layer.screen, layer.faces, chosen.data(), static_cast<Index>(chosen.size()), band.top,
              band.depth, band.owner);
    shade(layer.screen, layer.faces, layer.normals, layer.colors, look.eye, shadow, band);
    if (backed) {
        backdrop(look.eye, shadow, look.ground, look.oversampling, band);
    }
    draw_edges(layer.pieces, look.eye.perspective, look.ink, band);
}

void lay(const Band& over, const Band& below, double opacity, double ink) {
    const auto read = [](const auto& grid) {
        return Grid<const std::remove_reference_t<decltype(*grid.data)>>{grid.data, grid.rows,
                                                                         grid.columns};
    };
    lay_over(below.color, read(below.depth), {over.color.data, over.color.rows, over.color.columns},
             read(over.depth), read(over.owner), opacity, ink);
}

}  // namespace

void draw_picture(const Layer& solid, const Layer& glass, const Layer& on_top, const Look& look,
                  Pixels<std::uint8_t> out) {
    const Index times = look.oversampling, columns = out.columns * times;
    // One more block of rows on both sides, for the edges.
    const Index rows = (kRows + 2) * times, bands = (out.rows + kRows - 1) / kRows;
    const auto in_solid = by_band(solid, bands, kRows * times, times + 1);
    const auto in_glass = by_band(glass, bands, kRows * times, times + 1);
    const auto on_top_of = by_band(on_top, bands, kRows * times, times + 1);
    // Nothing throws a shadow on what is not solid.
    Shadow unshaded = look.shadow;
    for (double& edge : unshaded.drawn) {
        edge = 0.0;
    }
    std::atomic<Index> next{0};
    const auto work = [&] {
        Buffers one(rows * columns), two(rows * columns);
        for (Index k = next++; k < bands; k = next++) {
            const auto number = static_cast<std::size_t>(k);
            const Index first = k * kRows, top = (first - 1) * times;
            const Band below = one.band(rows, columns, top), over = two.band(rows, columns, top);
            draw_layer(solid, in_solid[number], look, look.shadow, true, below);
            if (glass.faces.count > 0) {
                draw_layer(glass, in_glass[number], look, unshaded, false, over);
                lay(over, below, look.glass, kGlassLines);
            }
            if (on_top.faces.count > 0) {
                draw_layer(on_top, on_top_of[number], look, unshaded, false, over);
                std::fill(one.depth.begin(), one.depth.end(), 0.0f);
                lay(over, below, 1.0, 0.0);
            }
            const Index here = std::min(kRows, out.rows - first);
            shrink({below.color.data, rows, columns}, times, times,
                   {out(first, 0), here, out.columns});
        }
    };
    std::vector<std::jthread> threads;
    for (unsigned k = 1; k < look.threads; ++k) {
        threads.emplace_back(work);
    }
    work();
}

}  // namespace mooring::drawing
