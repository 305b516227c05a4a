// Layers over each other, and many pixels into one.
#include <algorithm>

#include "drawing/drawing.h"

namespace mooring::drawing {

namespace {

// Dark lines stay as strong as this, however thin the layer.
constexpr double kLines = 0.7;

}  // namespace

void lay_over(Pixels<float> below, Grid<const float> nearness, Pixels<const float> over,
              Grid<const float> over_nearness, Grid<const std::int32_t> owner, double opacity,
              double ink) {
    for (Index y = 0; y < owner.rows; ++y) {
        for (Index x = 0; x < owner.columns; ++x) {
            if (owner(y, x) < 0 || over_nearness(y, x) <= nearness(y, x)) {
                continue;
            }
            const float* from = over(y, x);
            float* to = below(y, x);
            const bool line = static_cast<double>(from[0] + from[1] + from[2]) < ink;
            const auto share = static_cast<float>(line ? std::max(opacity, kLines) : opacity);
            for (int k = 0; k < 3; ++k) {
                to[k] += share * (from[k] - to[k]);
            }
        }
    }
}

void shrink(Pixels<const float> color, Index skip, Index times, Pixels<std::uint8_t> out) {
    const float share = 255.0f / static_cast<float>(times * times);
    for (Index y = 0; y < out.rows; ++y) {
        for (Index x = 0; x < out.columns; ++x) {
            float total[3] = {0.0f, 0.0f, 0.0f};
            for (Index j = 0; j < times; ++j) {
                for (Index i = 0; i < times; ++i) {
                    const float* pixel = color(skip + y * times + j, x * times + i);
                    for (int k = 0; k < 3; ++k) {
                        total[k] += pixel[k];
                    }
                }
            }
            std::uint8_t* made = out(y, x);
            for (int k = 0; k < 3; ++k) {
                made[k] =
                    static_cast<std::uint8_t>(std::clamp(total[k] * share + 0.5f, 0.0f, 255.0f));
            }
        }
    }
}

}  // namespace mooring::drawing
