// What a picture is made of: the eye, the light's depth map, the ground.
#pragma once

#include "geometry/vec.h"
#include "geometry/views.h"

namespace mooring::drawing {

// Where the picture is seen from; it looks along -back.
struct Eye {
    Vec3 position, right, up, back;
    double pixel;  // its size at distance 1 (perspective) or anywhere (parallel) [m]
    double width, height;
    double far;  // parallel views measure nearness from here [m]
    bool perspective;
};

// What the light sees, by parallel rays along -light.
struct Shadow {
    Vec3 light, right, up, centre;
    double cell;  // [m]
    double far;   // nearness is measured from here [m]
    Grid<const float> depth;
    double drawn[4];  // the part of the map that anything is in: x from, to; y from, to [cells]
};

// Level ground with a grid, fading into the distance.
struct Ground {
    bool shown;
    double height;
    Vec3 centre;
    double radius, spacing;
    Vec3 color, sky, haze;
};

// A band of rows of the picture, which begins at row `top`.
struct Band {
    Grid<float> depth;         // nearness; 0 where nothing is
    Grid<std::int32_t> owner;  // the triangle drawn; -1 where nothing is, -2 for the ground
    Pixels<float> color;
    Pixels<float> normal;
    Index top;
};

// A point of the world, and the unit direction from it to the eye.
struct SeenPoint {
    Vec3 point, to_eye;
};

SeenPoint world_point(const Eye& eye, double x, double y, double near);

// How much of the light reaches a point, 0 to 1, softened over a few cells of the map.
double lit_share(const Shadow& shadow, Vec3 point);

}  // namespace mooring::drawing
