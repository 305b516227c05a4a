// The renderer's steps, in the order they are taken for each band of rows.
#pragma once

#include "drawing/scene.h"

namespace mooring::drawing {

// Vertices on the screen: x right, y down [pixels], and nearness, which is larger for points nearer
// to the eye and linear on the screen; zero or less for points that cannot be drawn.
using Screen = Triples<const double>;
using Faces = Triples<const Index>;

// Nothing is drawn: depth 0, owner -1.
void clear(Grid<float> depth, Grid<std::int32_t> owner);

// Draw some of the triangles, by number, into depth and owner.
void rasterise(Screen screen, Faces faces, const std::int32_t* chosen, Index count, Index top,
               Grid<float> depth, Grid<std::int32_t> owner);

// Light what was drawn. Normals (m, 3, 3) are those at the corners, colors (m, 3) go from 0 to 1.
void shade(Screen screen, Faces faces, const double* normals, Triples<const double> colors,
           const Eye& eye, const Shadow& shadow, const Band& band);

// The background, and the ground with its grid and shadow, where nothing else is nearer. Both are
// smooth: one look for a block of block x block pixels is enough.
void backdrop(const Eye& eye, const Shadow& shadow, const Ground& ground, Index block,
              const Band& band);

// Darken pixels where pieces meet, surfaces fold, or something stands before another.
void draw_edges(const Index* piece_of_face, bool perspective, const double ink[3],
                const Band& band);

// Blend a layer into another where it is nearer; what is darker than ink blends in full.
void lay_over(Pixels<float> below, Grid<const float> nearness, Pixels<const float> over,
              Grid<const float> over_nearness, Grid<const std::int32_t> owner, double opacity,
              double ink);

// Average blocks of times x times pixels, after some rows, into an image of 8 bits.
void shrink(Pixels<const float> color, Index skip, Index times, Pixels<std::uint8_t> out);

// A normal for each corner of each triangle, (m, 3, 3): the area-weighted mean over the triangles
// around the vertex whose own normals are within the crease angle of this triangle's.
void corner_normals(Triples<const double> vertices, Faces faces, double cosine, double* normals);

}  // namespace mooring::drawing
