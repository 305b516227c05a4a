// Where two convex shapes touch: up to four points with their gaps.
//
// The sides of both shapes that look at each other are projected along the normal and cut with each
// other (Sutherland and Hodgman 1974); each corner of what they share is a point of contact.
#pragma once

#include "contact/faces.h"
#include "overlaps/distance.h"

namespace mooring::contact {

struct Spot {
    Vec3 point;  // between the surfaces
    Vec3 normal;
    double gap;
};

constexpr int kMostSpots = 4 * kMostCorners;

struct Spots {
    std::array<Spot, kMostSpots> spots;
    int count = 0;

    Spot& operator[](int k) { return spots[static_cast<std::size_t>(k)]; }
    const Spot& operator[](int k) const { return spots[static_cast<std::size_t>(k)]; }
    void add(const Spot& spot) {
        if (count < kMostSpots) {
            (*this)[count++] = spot;
        }
    }
};

// Spots of two shapes a distance apart; gaps wider than the margin are left out.
void manifold(const Shapes& shapes, const Shape& a, const Pose& pose_a, const Shape& b,
              const Pose& pose_b, const overlaps::Nearest& found, double margin, Spots& out);

// Bring the deepest of the spots to the front, then always the one farthest from those in front,
// and drop the rest.
void keep_spread(Spots& spots, int most);

// Give a line of contact a spot in its middle. With two ends alone, anything between them might be
// where a wheel does not slip; with the middle it is there.
void halve_line(Spots& spots);

}  // namespace mooring::contact
