// Smooth normals that stop at creases.
#include <vector>

#include "drawing/drawing.h"

namespace mooring::drawing {

void corner_normals(Triples<const double> vertices, Faces faces, double cosine, double* normals) {
    const auto count = static_cast<std::size_t>(faces.count);
    std::vector<Vec3> flat(count);
    std::vector<double> area(count);
    std::vector<Index> start(static_cast<std::size_t>(vertices.count) + 1, 0);
    for (std::size_t f = 0; f < count; ++f) {
        const Index* face = faces[static_cast<Index>(f)];
        const Vec3 a = vec(vertices[face[0]]);
        const Vec3 n = cross(vec(vertices[face[1]]) - a, vec(vertices[face[2]]) - a);
        area[f] = norm(n);
        flat[f] = area[f] > 0.0 ? n / area[f] : Vec3{0.0, 0.0, 1.0};
        for (int k = 0; k < 3; ++k) {
            ++start[static_cast<std::size_t>(face[k]) + 1];
        }
    }
    // Which triangles meet at each vertex: counts, then starts, then the triangles themselves.
    for (std::size_t i = 1; i < start.size(); ++i) {
        start[i] += start[i - 1];
    }
    std::vector<Index> fill(start.begin(), start.end() - 1), around(3 * count);
    for (std::size_t f = 0; f < count; ++f) {
        const Index* face = faces[static_cast<Index>(f)];
        for (int k = 0; k < 3; ++k) {
            Index& next = fill[static_cast<std::size_t>(face[k])];
            around[static_cast<std::size_t>(next++)] = static_cast<Index>(f);
        }
    }
    for (std::size_t f = 0; f < count; ++f) {
        for (int k = 0; k < 3; ++k) {
            const auto i = static_cast<std::size_t>(faces[static_cast<Index>(f)][k]);
            Vec3 sum;
            for (Index s = start[i]; s < start[i + 1]; ++s) {
                const auto g = static_cast<std::size_t>(around[static_cast<std::size_t>(s)]);
                if (dot(flat[f], flat[g]) >= cosine) {
                    sum = sum + area[g] * flat[g];
                }
            }
            const double length = norm(sum);
            const Vec3 normal = length > 0.0 ? sum / length : flat[f];
            double* out = normals + 9 * f + 3 * static_cast<std::size_t>(k);
            out[0] = normal.x;
            out[1] = normal.y;
            out[2] = normal.z;
        }
    }
}

}  // namespace mooring::drawing
