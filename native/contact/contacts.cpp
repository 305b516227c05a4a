#include "contact/contacts.h"

#include <cmath>

namespace mooring::contact {

namespace {

constexpr double kNear = 0.002;      // contacts with gaps up to this are kept ready [m]
constexpr double kSame = 0.02;       // contacts of two steps that are nearer are the same [m]
constexpr double kWide = 0.1;        // how much wider bounds are put in, as a share of the size
constexpr double kLeastWide = 0.01;  // and at least [m]
constexpr double kAhead = 20.0;      // steps of motion that wide bounds hold besides

std::size_t z(Index k) { return static_cast<std::size_t>(k); }

Surface together(const Surface& a, const Surface& b) {
    // One behind the other: compliances add up, and so do the times that dampers take.
    const double soft = 1.0 / a.stiffness + 1.0 / b.stiffness;
    const double stiffness = soft > 0.0 ? 1.0 / soft : a.stiffness;
    const double damping =
        std::isfinite(a.stiffness) && std::isfinite(b.stiffness)
            ? (a.damping + b.damping > 0.0 ? a.damping * b.damping / (a.damping + b.damping) : 0.0)
            : std::max(a.damping, b.damping);
    return {std::sqrt(a.friction * b.friction),
            std::max(a.restitution, b.restitution),
            std::max(a.rolling, b.rolling),
            std::max(a.spinning, b.spinning),
            stiffness,
            damping};
}

bool by_shapes(const Pair& p, const Pair& q) {
    return p.first != q.first ? p.first < q.first : p.second < q.second;
}

}  // namespace

bool Scenery::may_touch(Index a, Index b) const {
    const Index one = shapes[a].body, other = shapes[b].body;
    if (!touches || group[z(one)] == group[z(other)]) {
        return false;
    }
    const std::pair<Index, Index> bodies{std::min(one, other), std::max(one, other)};
    return !std::binary_search(apart.begin(), apart.end(), bodies);
}

Collector::Collector(const Scenery& scenery)
    : scenery_(scenery),
      places_(z(scenery.shape_count())),
      speeds_(places_.size()),
      bounds_(places_.size()),
      moved_(places_.size()) {
    for (Index s = 0; s < scenery.shape_count(); ++s) {
        const Shape& shape = scenery.shapes[s];
        Vec3 low{-shape.across, -shape.across, -shape.half}, high = -low;
        if (!shape.cylinder) {
            low = high = scenery.shapes.point(shape.first);
            for (Index k = shape.first; k < shape.last; ++k) {
                const Bounds both =
                    joined({low, high}, {scenery.shapes.point(k), scenery.shapes.point(k)});
                low = both.low;
                high = both.high;
            }
        }
        box_middle_.push_back(0.5 * (low + high));
        box_half_.push_back(0.5 * (high - low));
    }
}

ContactState Collector::begin() const {
    ContactState state;
    state.path.assign(places_.size(), 0.0);
    state.volumes = Volumes(scenery_.shape_count());
    return state;
}

double Collector::margin(double speeds, double step) const { return kNear + 2.0 * step * speeds; }

void Collector::place(const std::vector<Moving>& bodies, const std::vector<char>& awake,
                      double step, ContactState& state) {
    for (std::size_t s = 0; s < places_.size(); ++s) {
        const Shape& shape = scenery_.shapes.shapes[s];
        moved_[s] = 0;
        const bool in = state.volumes.has(static_cast<Index>(s));
        const Moving& body = bodies[z(shape.body)];
        if (in && (!awake[z(shape.body)] || !scenery_.moves[s])) {
            speeds_[s] = 0.0;
            if (!places_known_) {
                places_[s] = overlaps::placed(shape, body.pose);
            }
            continue;
        }
        places_[s] = overlaps::placed(shape, body.pose);
        const Vec3 way = places_[s].middle - body.pose.place;
        speeds_[s] =
            norm(body.linear + cross(body.angular, way)) + norm(body.angular) * shape.reach;
        // Gravity and motors may add to it within the step.
        state.path[s] += step * (1.1 * speeds_[s] + 20.0 * step);
        const Mat3& r = places_[s].pose.turn;
        const Vec3 h = box_half_[s], middle = places_[s].pose * box_middle_[s];
        const double more = shape.radius + margin(speeds_[s], step);
        const Vec3 half{
            std::fabs(r.x.x) * h.x + std::fabs(r.y.x) * h.y + std::fabs(r.z.x) * h.z + more,
            std::fabs(r.x.y) * h.x + std::fabs(r.y.y) * h.y + std::fabs(r.z.y) * h.z + more,
            std::fabs(r.x.z) * h.x + std::fabs(r.y.z) * h.y + std::fabs(r.z.z) * h.z + more};
        bounds_[s] = {middle - half, middle + half};
        const auto leaf = static_cast<Index>(s);
        if (in && state.volumes.bounds(leaf).holds(bounds_[s])) {
            continue;
        }
        if (in) {
            state.volumes.take(leaf);
        }
        const double wide = kLeastWide + kWide * shape.reach;
        // Wider where it goes.
        const Vec3 ahead = kAhead * step * (body.linear + cross(body.angular, way));
        const Vec3 all{wide, wide, wide};
        const Bounds around{bounds_[s].low - all, bounds_[s].high + all};
        state.volumes.put(leaf, joined(around, {around.low + ahead, around.high + ahead}));
        moved_[s] = 1;
    }
    places_known_ = true;
}

void Collector::find_pairs(ContactState& state) {
    fresh_.clear();
    bool any = false;
    for (std::size_t s = 0; s < moved_.size(); ++s) {
        if (!moved_[s]) {
            continue;
        }
        any = true;
        const auto a = static_cast<Index>(s);
        state.volumes.each_meeting(state.volumes.bounds(a), [&](Index b) {
            // Of two that moved, the lower asks.
            if (b != a && (!moved_[z(b)] || a < b) && scenery_.may_touch(a, b)) {
                fresh_.push_back({std::min(a, b), std::max(a, b), -1.0, {}});
            }
        });
    }
    if (!any) {
        return;
    }
    std::sort(fresh_.begin(), fresh_.end(), by_shapes);
    // Old pairs of what stands still, and of what moved those that are found again.
    merged_.clear();
    auto next = fresh_.begin();
    for (const Pair& pair : state.pairs) {
        for (; next != fresh_.end() && by_shapes(*next, pair); ++next) {
            merged_.push_back(*next);
        }
        if (next != fresh_.end() && !by_shapes(pair, *next)) {
            merged_.push_back(pair);
            ++next;
        } else if (!moved_[z(pair.first)] && !moved_[z(pair.second)]) {
            merged_.push_back(pair);
        }
    }
    merged_.insert(merged_.end(), next, fresh_.end());
    state.pairs.swap(merged_);
}

void Collector::note(Index a, Index b, const Spots& spots, ContactState& state) const {
    const bool on_ground = a == kGround;
    const Surface surface = together(on_ground ? scenery_.surfaces.back() : scenery_.surfaces[z(a)],
                                     scenery_.surfaces[z(b)]);
    for (int k = 0; k < spots.count; ++k) {
        state.contacts.push_back(
            {a,
             b,
             {on_ground ? kGround : scenery_.shapes[a].body, scenery_.shapes[b].body},
             spots[k].point,
             spots[k].normal,
             spots[k].gap,
             surface,
             1.0 / static_cast<double>(spots.count),
             {},
             {},
             {}});
    }
}

void Collector::collect(const std::vector<Moving>& bodies, const std::vector<char>& awake,
                        double step, ContactState& state) {
    place(bodies, awake, step, state);
    find_pairs(state);
    before_.swap(state.contacts);
    state.contacts.clear();
    const auto is_awake = [&](Index shape) {
        return scenery_.moves[z(shape)] && awake[z(scenery_.shapes[shape].body)];
    };
    // Contacts of both steps come in the same order: by pairs, then by shapes on the ground.
    auto old = before_.begin();
    const auto old_of = [&](Index a, Index b) {
        const auto comes_before = [&](const Contact& c) {
            if ((c.first == kGround) != (a == kGround)) {
                return a == kGround;
            }
            return c.first != a ? c.first < a : c.second < b;
        };
        while (old != before_.end() && comes_before(*old)) {
            ++old;
        }
        auto end = old;
        while (end != before_.end() && end->first == a && end->second == b) {
            ++end;
        }
        return std::pair(old, end);
    };
    const auto keep_or_find = [&](Index a, Index b, bool any_awake, const auto& find) {
        const auto [begin, end] = old_of(a, b);
        if (!any_awake) {
            state.contacts.insert(state.contacts.end(), begin, end);
            return;
        }
        if (!find()) {
            return;
        }
        const std::size_t first = state.contacts.size();
        note(a, b, spots_, state);
        // Impulses to begin with: those of the step before, of contacts nearby.
        for (std::size_t k = first; k < state.contacts.size(); ++k) {
            double nearest = kSame * kSame;
            for (auto c = begin; c != end; ++c) {
                const Vec3 way = state.contacts[k].point - c->point;
                if (const double squared = dot(way, way); squared < nearest) {
                    nearest = squared;
                    state.contacts[k].impulse = c->impulse;
                    state.contacts[k].moment = c->moment;
                }
            }
        }
    };
    for (Pair& pair : state.pairs) {
        const Index a = pair.first, b = pair.second;
        keep_or_find(a, b, is_awake(a) || is_awake(b), [&] {
            const double way = state.path[z(a)] + state.path[z(b)];
            if (way < pair.free_until) {
                return false;
            }
            const Shape &one = scenery_.shapes[a], &other = scenery_.shapes[b];
            const double speeds = speeds_[z(a)] + speeds_[z(b)], near = margin(speeds, step);
            const Vec3 between = places_[z(b)].middle - places_[z(a)].middle;
            const double reach = one.reach + other.reach, far = reach + 10.0 * near;
            if (const double squared = dot(between, between); squared > far * far) {
                pair.free_until = way + std::sqrt(squared) - reach - near;
                return false;
            }
            const overlaps::Nearest found = overlaps::signed_distance(
                scenery_.shapes, one, places_[z(a)].pose, other, places_[z(b)].pose, pair.normal);
            pair.normal = found.normal;
            if (found.distance > near) {
                pair.free_until = way + found.distance - near;
                return false;
            }
            manifold(scenery_.shapes, one, places_[z(a)].pose, other, places_[z(b)].pose, found,
                     near, spots_);
            return true;
        });
    }
    if (scenery_.ground.kind == GroundKind::none) {
        return;
    }
    for (Index s = 0; s < scenery_.shape_count(); ++s) {
        if (scenery_.moves[z(s)]) {
            keep_or_find(kGround, s, is_awake(s), [&] {
                ground_contacts(scenery_.ground, scenery_.shapes, scenery_.shapes[s], places_[z(s)],
                                margin(speeds_[z(s)], step), spots_);
                return spots_.count > 0;
            });
        }
    }
}

}  // namespace mooring::contact
