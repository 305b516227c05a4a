// The renderer for Python. The interpreter is free while a picture is drawn.
#include <numeric>
#include <vector>

#include "bindings/checks.h"
#include "drawing/picture.h"

namespace mooring::bindings {

namespace {

using namespace mooring::drawing;

Eye eye_of(nb::handle eye) {
    return {vec_of(eye.attr("position")),
            vec_of(eye.attr("right")),
            vec_of(eye.attr("up")),
            vec_of(eye.attr("back")),
            nb::cast<double>(eye.attr("pixel")),
            nb::cast<double>(eye.attr("width")),
            nb::cast<double>(eye.attr("height")),
            nb::cast<double>(eye.attr("far")),
            nb::cast<bool>(eye.attr("perspective"))};
}

Shadow shadow_of(nb::handle shadow) {
    const auto depth = nb::cast<Array<const float, 2>>(shadow.attr("depth"), false);
    if (depth.shape(0) != depth.shape(1)) {
        throw nb::value_error("the map of the light must be square");
    }
    Shadow made{vec_of(shadow.attr("light")),
                vec_of(shadow.attr("right")),
                vec_of(shadow.attr("up")),
                vec_of(shadow.attr("centre")),
                nb::cast<double>(shadow.attr("cell")),
                nb::cast<double>(shadow.attr("far")),
                grid<const float>(depth),
                {}};
    for (int k = 0; k < 4; ++k) {
        made.drawn[k] = nb::cast<double>(shadow.attr("drawn")[k]);
    }
    return made;
}

Ground ground_of(nb::handle ground) {
    return {nb::cast<bool>(ground.attr("shown")),
            nb::cast<double>(ground.attr("height")),
            vec_of(ground.attr("centre")),
            nb::cast<double>(ground.attr("radius")),
            nb::cast<double>(ground.attr("spacing")),
            vec_of(ground.attr("color")),
            vec_of(ground.attr("sky")),
            vec_of(ground.attr("haze"))};
}

// What is named in faces and owners is looked up without another look: it must be there.
void refuse_beyond(const Triples<const Index>& faces, Index vertices) {
    for (Index k = 0; k < 3 * faces.count; ++k) {
        if (faces.data[k] < 0 || faces.data[k] >= vertices) {
            throw nb::index_error("a face names a vertex that is not there");
        }
    }
}

// The arrays of a layer, which live as long as the Python object that holds them.
Layer layer_of(nb::handle layer) {
    const auto screen = nb::cast<Array<const double, 2>>(layer.attr("screen"), false);
    const auto faces = nb::cast<Array<const Index, 2>>(layer.attr("faces"), false);
    const auto normals = nb::cast<Array<const double, 3>>(layer.attr("normals"), false);
    const auto colors = nb::cast<Array<const double, 2>>(layer.attr("colors"), false);
    const auto pieces = nb::cast<Array<const Index, 1>>(layer.attr("pieces"), false);
    const Layer made{triples<const double>(screen), triples<const Index>(faces), normals.data(),
                     triples<const double>(colors), pieces.data()};
    const auto count = static_cast<std::size_t>(made.faces.count);
    check_shape(normals, {count, 3, 3}, "normals");
    check_shape(colors, {count, 3}, "colors");
    check_shape(pieces, {count}, "pieces");
    refuse_beyond(made.faces, made.screen.count);
    return made;
}

}  // namespace

void bind_drawing(nb::module_& module) {
    module.def(
        "rasterise",
        [](Array<const double, 2> screen, Array<const Index, 2> faces, Index top,
           Array<float, 2> depth, Array<std::int32_t, 2> owner) {
            const auto corners = triples<const double>(screen);
            const auto triangles = triples<const Index>(faces);
            if (depth.shape(0) != owner.shape(0) || depth.shape(1) != owner.shape(1)) {
                throw nb::value_error("depth and owner must be of one size");
            }
            const nb::gil_scoped_release free;
            refuse_beyond(triangles, corners.count);
            std::vector<std::int32_t> all(static_cast<std::size_t>(triangles.count));
            std::iota(all.begin(), all.end(), 0);
            clear(grid<float>(depth), grid<std::int32_t>(owner));
            rasterise(corners, triangles, all.data(), triangles.count, top, grid<float>(depth),
                      grid<std::int32_t>(owner));
        },
        nb::arg("screen"), nb::arg("faces"), nb::arg("top"), nb::arg("depth").noconvert(),
        nb::arg("owner").noconvert(),
        "Draw triangles into a band of a picture: depth (h, w) and owner (h, w), emptied first.");
    module.def(
        "draw_picture",
        [](nb::handle solid, nb::handle glass, nb::handle on_top, nb::handle eye, nb::handle shadow,
           nb::handle ground, nb::handle ink, double opacity, Index oversampling, unsigned threads,
           Array<std::uint8_t, 3> out) {
            integer_from(oversampling, 1, 16, "oversampling");
            integer_from(threads, 1, 1024, "threads");
            const Layer layers[3] = {layer_of(solid), layer_of(glass), layer_of(on_top)};
            const Vec3 dark = vec_of(ink);
            const Look look{eye_of(eye),
                            shadow_of(shadow),
                            ground_of(ground),
                            {dark.x, dark.y, dark.z},
                            opacity,
                            oversampling,
                            threads};
            const nb::gil_scoped_release free;
            draw_picture(layers[0], layers[1], layers[2], look, pixels<std::uint8_t>(out));
        },
        nb::arg("solid"), nb::arg("glass"), nb::arg("on_top"), nb::arg("eye"), nb::arg("shadow"),
        nb::arg("ground"), nb::arg("ink"), nb::arg("opacity"), nb::arg("oversampling"),
        nb::arg("threads"), nb::arg("out").noconvert(),
        "Draw what is solid, what shows through and what is on top into an image (h, w, 3).");
    module.def(
        "corner_normals",
        [](Array<const double, 2> vertices, Array<const Index, 2> faces, double cosine,
           Array<double, 3> normals) {
            const auto corners = triples<const double>(vertices);
            const auto triangles = triples<const Index>(faces);
            check_shape(normals, {faces.shape(0), 3, 3}, "normals");
            const nb::gil_scoped_release free;
            refuse_beyond(triangles, corners.count);
            corner_normals(corners, triangles, cosine, normals.data());
        },
        nb::arg("vertices"), nb::arg("faces"), nb::arg("cosine"), nb::arg("normals").noconvert(),
        "A normal for each corner of each triangle, (m, 3, 3), smooth up to a crease's cosine.");
}

}  // namespace mooring::bindings
