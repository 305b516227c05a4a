#include "overlaps/distance.h"

#include <algorithm>
#include <array>

#include "kinematics/poses.h"
#include "overlaps/simplex.h"

namespace mooring::overlaps {

namespace {

constexpr int kMostSteps = 200;
constexpr std::size_t kMostCorners = 160;
constexpr std::size_t kMostFaces = 4 * kMostCorners;
constexpr double kExact = 1e-10;  // [m], of distances
constexpr double kDeep = 1e-8;    // [m], of depths
constexpr double kSame = 1e-9;    // corners of a difference nearer than this are one [m]
constexpr Vec3 kAxes[6] = {{1.0, 0.0, 0.0},  {-1.0, 0.0, 0.0}, {0.0, 1.0, 0.0},
                           {0.0, -1.0, 0.0}, {0.0, 0.0, 1.0},  {0.0, 0.0, -1.0}};

// The difference of two cores, in world axes and from the place of A.
class Difference {
  public:
    Difference(const Shapes& shapes, const Shape& a, const Mat3& turn_a, const Shape& b,
               const Mat3& turn_b, Vec3 way)
        : shapes_(shapes), a_(a), b_(b), turn_a_(turn_a), turn_b_(turn_b), way_(way) {}

    Corner farthest_in(Vec3 direction) const {
        const Vec3 p = turn_a_ * farthest(shapes_, a_, back(turn_a_, direction));
        const Vec3 q = turn_b_ * farthest(shapes_, b_, back(turn_b_, -direction)) + way_;
        return {p - q, p, q};
    }
    Vec3 way() const { return way_; }

  private:
    const Shapes& shapes_;
    const Shape &a_, &b_;
    const Mat3 &turn_a_, &turn_b_;
    Vec3 way_;
};

// The distance of the cores, and the points that have it; 0 where they overlap.
double apart(const Difference& difference, Vec3 guess, Vec3& on_a, Vec3& on_b) {
    if (guess.x == 0.0 && guess.y == 0.0 && guess.z == 0.0) {
        guess = difference.way();
    }
    if (dot(guess, guess) < 1e-24) {
        guess = kAxes[0];
    }
    std::array<Corner, 4> w;
    Shares share{1.0, 0.0, 0.0, 0.0};
    w[0] = difference.farthest_in(guess);
    int size = 1;
    Vec3 v = w[0].at;
    double before = 1e300, length = 0.0;
    const auto found = [&] {
        on_a = on_b = {};
        for (std::size_t k = 0; k < static_cast<std::size_t>(size); ++k) {
            on_a += share[k] * w[k].on_a;
            on_b += share[k] * w[k].on_b;
        }
        return length;
    };
    for (int round = 0; round < kMostSteps; ++round) {
        length = norm(v);
        if (length < kExact) {
            return 0.0;
        }
        if (length >= before) {
            // Rounding has taken over: the last answer was as good as it gets.
            return found();
        }
        before = length;
        const Corner next = difference.farthest_in(-v);
        if (length - dot(v, next.at) / length <= kExact) {
            return found();
        }
        w[static_cast<std::size_t>(size++)] = next;
        bool inside = false;
        share = nearest_on_simplex(w, size, inside);
        if (inside) {
            return 0.0;
        }
        std::size_t kept = 0;
        v = {};
        for (std::size_t k = 0; k < static_cast<std::size_t>(size); ++k) {
            if (share[k] > 0.0) {
                w[kept] = w[k];
                share[kept] = share[k];
                v += share[kept] * w[kept].at;
                ++kept;
            }
        }
        size = static_cast<int>(kept);
    }
    length = norm(v);
    return found();
}

struct Face {
    std::size_t corner[3];
    Vec3 normal;
    double offset;
};

struct Edge {
    std::size_t start, end;
};

// The surface of a difference, built out towards the origin.
class Polytope {
  public:
    explicit Polytope(const Difference& difference) : difference_(difference) {}

    // Minus the depth of the cores, the unit normal from A to B, and a point on A's surface.
    double depth(Vec3& normal, Vec3& on_a) {
        begin();
        if (count_ < 4) {
            // The difference is flat: the cores touch, and anything across it parts them.
            normal = across_corners();
            on_a = corners_[0].on_a;
            return 0.0;
        }
        constexpr std::size_t kFirst[4][3] = {{0, 1, 2}, {0, 3, 1}, {0, 2, 3}, {1, 3, 2}};
        for (const auto& f : kFirst) {
            add_face(f[0], f[1], f[2]);
        }
        std::size_t best = 0;
        while (true) {
            best = 0;
            for (std::size_t f = 0; f < sides_; ++f) {
                if (std::max(0.0, faces_[f].offset) < std::max(0.0, faces_[best].offset)) {
                    best = f;
                }
            }
            const Face& nearest = faces_[best];
            if (count_ == kMostCorners) {
                break;
            }
            const Corner next = difference_.farthest_in(nearest.normal);
            corners_[count_] = next;
            if (dot(nearest.normal, next.at) - std::max(0.0, nearest.offset) <= kDeep) {
                break;
            }
            if (!grow(next.at)) {
                break;
            }
        }
        const Face& nearest = faces_[best];
        const double offset = std::max(0.0, nearest.offset);
        normal = nearest.normal;
        on_a = point_on_a(nearest, offset);
        return -offset;
    }

  private:
    // Four corners that span a body, as many as there are; turned outwards.
    void begin() {
        corners_[0] = difference_.farthest_in(kAxes[0]);
        corners_[1] = difference_.farthest_in(kAxes[1]);
        for (int k = 2; k < 6 && same(corners_[0].at, corners_[1].at); ++k) {
            corners_[1] = difference_.farthest_in(kAxes[k]);
        }
        count_ = 1;
        if (same(corners_[0].at, corners_[1].at)) {
            return;
        }
        count_ = 2;
        const Vec3 p = corners_[0].at, u = corners_[1].at - p;
        double best = kSame;
        for (const Vec3 axis : kAxes) {
            const Vec3 aside = axis - (dot(axis, u) / dot(u, u)) * u;
            if (dot(aside, aside) < 1e-12) {
                continue;
            }
            const Corner probe = difference_.farthest_in(aside);
            const double height = norm(cross(u, probe.at - p)) / norm(u);
            if (height > best) {
                best = height;
                corners_[2] = probe;
                count_ = 3;
            }
        }
        if (count_ < 3) {
            return;
        }
        const Vec3 over = cross(u, corners_[2].at - p), n = over / norm(over);
        best = kSame;
        bool above = false;
        for (const double side : {1.0, -1.0}) {
            const Corner probe = difference_.farthest_in(side * n);
            const double height = dot(n, probe.at - p);
            if (std::fabs(height) > best) {
                best = std::fabs(height);
                corners_[3] = probe;
                count_ = 4;
                above = height > 0.0;
            }
        }
        if (above) {
            std::swap(corners_[1], corners_[2]);
        }
    }

    static bool same(Vec3 p, Vec3 q) {
        return std::fabs(p.x - q.x) + std::fabs(p.y - q.y) + std::fabs(p.z - q.z) <= kSame;
    }

    Vec3 across_corners() const {
        if (count_ == 1) {
            return {0.0, 0.0, 1.0};
        }
        const Vec3 u = corners_[1].at - corners_[0].at;
        const Vec3 n = count_ == 3                       ? cross(u, corners_[2].at - corners_[0].at)
                       : std::fabs(u.x) < std::fabs(u.y) ? cross(u, kAxes[0])
                                                         : cross(u, kAxes[2]);
        return n / norm(n);
    }

    void add_face(std::size_t p, std::size_t q, std::size_t r) {
        Face& face = faces_[sides_++];
        face = {{p, q, r}, {}, 1e300};
        const Vec3 a = corners_[p].at;
        const Vec3 n = cross(corners_[q].at - a, corners_[r].at - a);
        const double length = norm(n);
        // One without an area is never the nearest, and seen by nothing.
        if (length >= 1e-18) {
            face.normal = n / length;
            face.offset = dot(face.normal, a);
        }
    }

    // Take away what the new corner sees, and close the hole with faces to it.
    bool grow(Vec3 corner) {
        std::size_t rim = 0;
        for (std::size_t f = 0; f < sides_;) {
            const Face& face = faces_[f];
            if (dot(face.normal, corner) - face.offset > 1e-12) {
                for (std::size_t e = 0; e < 3; ++e) {
                    rim = note_edge(rim, face.corner[e], face.corner[(e + 1) % 3]);
                }
                faces_[f] = faces_[--sides_];
            } else {
                ++f;
            }
        }
        if (rim == 0 || sides_ + rim > kMostFaces) {
            return false;
        }
        for (std::size_t e = 0; e < rim; ++e) {
            add_face(edges_[e].start, edges_[e].end, count_);
        }
        ++count_;
        return true;
    }

    // Add an edge to the rim, or take its opposite away: inner edges come twice.
    std::size_t note_edge(std::size_t count, std::size_t start, std::size_t end) {
        for (std::size_t e = 0; e < count; ++e) {
            if (edges_[e].start == end && edges_[e].end == start) {
                edges_[e] = edges_[count - 1];
                return count - 1;
            }
        }
        if (count < kMostFaces) {
            edges_[count++] = {start, end};
        }
        return count;
    }

    // The point on A's core that the nearest point of a face stands for.
    Vec3 point_on_a(const Face& face, double offset) const {
        const Corner &p = corners_[face.corner[0]], &q = corners_[face.corner[1]],
                     &r = corners_[face.corner[2]];
        const Vec3 u = q.at - p.at, v = r.at - p.at, t = offset * face.normal - p.at;
        const double uu = dot(u, u), uv = dot(u, v), vv = dot(v, v), tu = dot(t, u), tv = dot(t, v);
        const double area = uu * vv - uv * uv;
        const double j = (vv * tu - uv * tv) / area, k = (uu * tv - uv * tu) / area;
        return (1.0 - j - k) * p.on_a + j * q.on_a + k * r.on_a;
    }

    const Difference& difference_;
    std::array<Corner, kMostCorners + 1> corners_;
    std::array<Face, kMostFaces> faces_;
    std::array<Edge, kMostFaces> edges_;
    std::size_t count_ = 0, sides_ = 0;
};

// A ball's or capsule's point, and the way to the other one.
struct Axis {
    Vec3 start, way;
};
Axis axis_of(const Shapes& shapes, const Shape& shape, const Pose& pose) {
    const Vec3 first = shapes.point(shape.first);
    const Vec3 way = shape.points() == 2 ? shapes.point(shape.first + 1) - first : Vec3{};
    return {pose * first, pose.turn * way};
}

// Of balls and capsules; says false where two axes meet, and no normal follows from them.
bool round_distance(const Shapes& shapes, const Shape& a, const Pose& pose_a, const Shape& b,
                    const Pose& pose_b, Nearest& found) {
    constexpr double kPoint = 1e-24, kParallel = 1e-12, kCrossing = 1e-9;
    const auto [p, u] = axis_of(shapes, a, pose_a);
    const auto [q, v] = axis_of(shapes, b, pose_b);
    const Vec3 w = p - q;
    const double uu = dot(u, u), vv = dot(v, v), uv = dot(u, v), uw = dot(u, w), vw = dot(v, w);
    const auto unit = [](double value) { return std::min(1.0, std::max(0.0, value)); };
    double s = 0.0, t = 0.0;
    if (uu > kPoint && vv > kPoint) {
        const double area = uu * vv - uv * uv;
        // Along parallel axes every point is as near; take the middle of one.
        s = area > kParallel * uu * vv ? unit((uv * vw - uw * vv) / area) : 0.5;
        t = (uv * s + vw) / vv;
        if (t < 0.0 || t > 1.0) {
            t = unit(t);
            s = unit((uv * t - uw) / uu);
        }
    } else if (uu > kPoint) {
        s = unit(-uw / uu);
    } else if (vv > kPoint) {
        t = unit(vw / vv);
    }
    const Vec3 on_a = p + s * u, on_b = q + t * v, gap = on_b - on_a;
    const double length = norm(gap);
    if (length < kCrossing) {
        return false;
    }
    const Vec3 n = gap / length;
    found = {length - a.radius - b.radius, on_a + a.radius * n, on_b - b.radius * n, n};
    return true;
}

}  // namespace

Nearest signed_distance(const Shapes& shapes, const Shape& a, const Pose& pose_a, const Shape& b,
                        const Pose& pose_b, Vec3 guess) {
    Nearest found;
    if (a.is_round() && b.is_round() && round_distance(shapes, a, pose_a, b, pose_b, found)) {
        return found;
    }
    const Difference difference(shapes, a, pose_a.turn, b, pose_b.turn,
                                pose_b.place - pose_a.place);
    Vec3 on_a, on_b, n;
    double length = apart(difference, guess, on_a, on_b);
    if (length > 0.0) {
        n = (on_b - on_a) / length;
    } else {
        length = Polytope(difference).depth(n, on_a);
        on_b = on_a + length * n;
    }
    return {length - a.radius - b.radius, pose_a.place + on_a + a.radius * n,
            pose_a.place + on_b - b.radius * n, n};
}

void batch_pair_distances(const tree::Tree& tree, const Shapes& shapes, Grid<const Index> pairs,
                          Grid<const double> q, double beyond, Grid<double> distances,
                          double* contacts) {
    std::vector<Pose> poses(tree.bodies.size());
    std::vector<PlacedShape> where(shapes.shapes.size());
    const auto at = [&where](Index s) -> const PlacedShape& {
        return where[static_cast<std::size_t>(s)];
    };
    for (Index b = 0; b < q.rows; ++b) {
        kinematics::world_poses(tree, &q(b, 0), poses.data());
        for (std::size_t s = 0; s < where.size(); ++s) {
            where[s] =
                placed(shapes.shapes[s], poses[static_cast<std::size_t>(shapes.shapes[s].body)]);
        }
        for (Index p = 0; p < pairs.rows; ++p) {
            double least = beyond;
            double* out = contacts + 9 * (b * pairs.rows + p);
            for (Index i = pairs(p, 0); i < pairs(p, 1); ++i) {
                for (Index j = pairs(p, 2); j < pairs(p, 3); ++j) {
                    const Shape &one = shapes[i], &other = shapes[j];
                    const double gap = norm(at(i).middle - at(j).middle) - one.reach - other.reach;
                    if (gap >= least) {
                        continue;
                    }
                    const Nearest found =
                        signed_distance(shapes, one, at(i).pose, other, at(j).pose, {});
                    if (found.distance < least) {
                        least = found.distance;
                        const double values[9] = {found.on_a.x,   found.on_a.y,   found.on_a.z,
                                                  found.on_b.x,   found.on_b.y,   found.on_b.z,
                                                  found.normal.x, found.normal.y, found.normal.z};
                        std::copy(values, values + 9, out);
                    }
                }
            }
            distances(b, p) = least;
        }
    }
}

}  // namespace mooring::overlaps
