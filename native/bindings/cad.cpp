// Searches among triangles for Python.
#include <cmath>

#include "bindings/arrays.h"
#include "cad/boxes.h"

namespace mooring::bindings {

namespace {

using namespace mooring::cad;

// Triangles (m, 3, 3).
Index count_of(const Array<const double, 3>& triangles) {
    if (triangles.shape(1) != 3 || triangles.shape(2) != 3) {
        throw nb::value_error("expected triangles (count, 3, 3)");
    }
    return static_cast<Index>(triangles.shape(0));
}

void refuse_unequal(std::size_t one, std::size_t two) {
    if (one != two) {
        throw nb::value_error("expected arrays of one length");
    }
}

}  // namespace

void bind_cad(nb::module_& module) {
    nb::class_<Boxes>(module, "Boxes", "A tree of boxes over triangles (m, 3, 3).")
        .def(
            "__init__",
            [](Boxes* self, Array<const double, 3> triangles) {
                const Index count = count_of(triangles);
                if (count == 0) {
                    throw nb::value_error("there are no triangles to search");
                }
                for (Index k = 0; k < 9 * count; ++k) {
                    if (!std::isfinite(triangles.data()[k])) {
                        throw nb::value_error("a triangle has a corner that is not finite");
                    }
                }
                const nb::gil_scoped_release free;
                new (self) Boxes(triangles.data(), count);
            },
            nb::arg("triangles"))
        .def(
            "nearest",
            [](const Boxes& self, Array<const double, 2> points, Array<double, 1> distances,
               Array<Index, 1> which) {
                refuse_unequal(points.shape(0), distances.shape(0));
                refuse_unequal(points.shape(0), which.shape(0));
                const auto at = triples<const double>(points);
                const nb::gil_scoped_release free;
                self.nearest(at, distances.data(), which.data());
            },
            nb::arg("points"), nb::arg("distances").noconvert(), nb::arg("which").noconvert(),
            "From points (n, 3) to the nearest triangle: distances (n,), and which it is (n,).")
        .def(
            "first_hits",
            [](const Boxes& self, Array<const double, 2> origins, Array<const double, 2> directions,
               double far, Array<double, 1> ways) {
                refuse_unequal(origins.shape(0), directions.shape(0));
                refuse_unequal(origins.shape(0), ways.shape(0));
                const auto from = triples<const double>(origins);
                const auto along = triples<const double>(directions);
                const nb::gil_scoped_release free;
                self.first_hits(from, along, far, ways.data());
            },
            nb::arg("origins"), nb::arg("directions"), nb::arg("far"), nb::arg("ways").noconvert(),
            "How far rays go before they meet a triangle, (n,).")
        .def(
            "closest",
            [](const Boxes& self, Array<const double, 3> some, double enough) {
                const Index count = count_of(some);
                const nb::gil_scoped_release free;
                return self.closest(some.data(), count, enough);
            },
            nb::arg("some"), nb::arg("enough"),
            "The smallest distance of triangles (k, 3, 3) to these; any of `enough` or less.")
        .def(
            "facing",
            [](const Boxes& self, Array<const double, 3> some, double tolerance, double cosine,
               Array<bool, 1> marked) {
                const Index count = count_of(some);
                refuse_unequal(some.shape(0), marked.shape(0));
                const nb::gil_scoped_release free;
                self.facing(some.data(), count, tolerance, cosine, marked.data());
            },
            nb::arg("some"), nb::arg("tolerance"), nb::arg("cosine"), nb::arg("marked").noconvert(),
            "Mark the triangles of (k, 3, 3) that lie flat against one of these.");
    module.def(
        "crossings",
        [](Array<const double, 3> triangles, Array<const double, 2> points, Array<Index, 1> out) {
            const Index count = count_of(triangles);
            refuse_unequal(points.shape(0), out.shape(0));
            const auto from = triples<const double>(points);
            const nb::gil_scoped_release free;
            crossings(triangles.data(), count, from, out.data());
        },
        nb::arg("triangles"), nb::arg("points"), nb::arg("out").noconvert(),
        "How often rays from points pass through triangles, (n,).");
}

}  // namespace mooring::bindings
