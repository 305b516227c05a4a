// The background, and the ground with its grid and shadow.
#include <algorithm>
#include <cmath>

#include "drawing/drawing.h"

namespace mooring::drawing {

namespace {

// How much of a pixel a grid line covers.
double grid_line(double x, double y, double spacing, double pixel) {
    if (spacing < 2.5 * pixel) {
        return 0.0;
    }
    const auto line = [spacing](double value) {
        return spacing * static_cast<double>(floor_index(value / spacing + 0.5));
    };
    const double dx = std::abs(x - line(x)), dy = std::abs(y - line(y));
    return std::max(0.0, 1.0 - std::min(dx, dy) / (0.8 * pixel));
}

Vec3 sky_at(const Ground& ground, double low) {
    return (1.0 - low) * ground.sky + low * ground.haze;
}

struct GroundPixel {
    double near = 0.0;  // 0 where the ground is not seen
    Vec3 color;
};

GroundPixel ground_pixel(const Eye& eye, const Shadow& shadow, const Ground& ground, double x,
                         double y, double block) {
    if (!ground.shown) {
        return {};
    }
    const double sx = (x - 0.5 * eye.width) * eye.pixel, sy = (0.5 * eye.height - y) * eye.pixel;
    Vec3 from = eye.position, along = -eye.back;
    const Vec3 aside = sx * eye.right + sy * eye.up;
    (eye.perspective ? along : from) = (eye.perspective ? along : from) + aside;
    if (along.z > -1e-6) {
        return {};
    }
    const double way = (ground.height - from.z) / along.z;
    if (way <= 0.0) {
        return {};
    }
    const double gx = from.x + way * along.x, gy = from.y + way * along.y;
    const double ax = (gx - ground.centre.x) / ground.radius;
    const double ay = (gy - ground.centre.y) / ground.radius;
    const double away = ax * ax + ay * ay;
    if (away > 2.5) {
        return {};
    }
    const double fade = std::exp(-away * away);
    // Thickness of a finished pixel on the ground, for lines of even width.
    const double pixel = block * eye.pixel * (eye.perspective ? way : 1.0);
    const double slant = pixel / std::max(0.05, -along.z / norm(along));
    const double line = std::max(0.55 * grid_line(gx, gy, ground.spacing, slant),
                                 0.22 * grid_line(gx, gy, ground.spacing / 5.0, slant));
    const double lit = lit_share(shadow, {gx, gy, ground.height});
    const double dark = (1.0 - 0.34 * (1.0 - lit)) * (1.0 - 0.45 * line * fade);
    const Vec3 behind = sky_at(ground, y / eye.height);
    const Vec3 color = dark * (fade * ground.color + (1.0 - fade) * behind);
    return {eye.perspective ? 1.0 / way : eye.far - way, color};
}

void put(float* pixel, Vec3 color) {
    pixel[0] = static_cast<float>(color.x);
    pixel[1] = static_cast<float>(color.y);
    pixel[2] = static_cast<float>(color.z);
}

}  // namespace

void backdrop(const Eye& eye, const Shadow& shadow, const Ground& ground, Index block,
              const Band& band) {
    const auto wide = static_cast<double>(block);
    for (Index y = 0; y < band.depth.rows; y += block) {
        const double middle = static_cast<double>(band.top + y) + 0.5 * wide;
        const Vec3 sky = sky_at(ground, middle / eye.height);
        for (Index x = 0; x < band.depth.columns; x += block) {
            const GroundPixel seen = ground_pixel(
                eye, shadow, ground, static_cast<double>(x) + 0.5 * wide, middle, wide);
            for (Index sy = y; sy < std::min(y + block, band.depth.rows); ++sy) {
                for (Index sx = x; sx < std::min(x + block, band.depth.columns); ++sx) {
                    if (seen.near > static_cast<double>(band.depth(sy, sx))) {
                        // Edges leave it alone.
                        band.owner(sy, sx) = -2;
                        put(band.color(sy, sx), seen.color);
                    } else if (band.owner(sy, sx) < 0) {
                        put(band.color(sy, sx), sky);
                    }
                }
            }
        }
    }
}

}  // namespace mooring::drawing
