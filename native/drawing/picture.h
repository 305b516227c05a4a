// A whole picture, band by band.
#pragma once

#include "drawing/drawing.h"

namespace mooring::drawing {

// Triangles of one layer, and where their vertices are on the picture.
struct Layer {
    Screen screen;
    Faces faces;
    const double* normals;         // (m, 3, 3) at the corners, world axes
    Triples<const double> colors;  // (m, 3), 0 to 1
    const Index* pieces;           // (m,) which piece each face is of
};

// Everything that stays the same from band to band.
struct Look {
    Eye eye;
    Shadow shadow;
    Ground ground;
    double ink[3];       // the color of lines
    double glass;        // how opaque the second layer is
    Index oversampling;  // each pixel is the mean of so many by so many
    unsigned threads;
};

// Draw what is solid, what shows through, and what is on top of everything; rows of out are drawn
// by as many threads as asked for, and are the same with any number of them.
void draw_picture(const Layer& solid, const Layer& glass, const Layer& on_top, const Look& look,
                  Pixels<std::uint8_t> out);

}  // namespace mooring::drawing
