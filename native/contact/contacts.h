// All points of contact of a scene, from step to step.
#pragma once

#include <functional>
#include <vector>

#include "contact/ground.h"
#include "contact/volumes.h"

namespace mooring::contact {

struct Surface {
    double friction, restitution, rolling, spinning;
    double stiffness, damping;  // infinite stiffness where it does not give
};

// What can touch what.
struct Scenery {
    Shapes shapes;                  // the last is a mere point, which probes the ground
    std::vector<Surface> surfaces;  // of the shapes, and last of the ground
    std::vector<char> moves;        // of each shape, whether any joint moves it
    std::vector<Index> group;       // of each body: what is rigidly one with it never touches it
    std::vector<std::pair<Index, Index>> apart;  // pairs of bodies that pass through each other,
                                                 // the lower first; sorted
    bool touches = false;
    Ground ground;

    Index shape_count() const { return shapes.count() - 1; }
    bool may_touch(Index a, Index b) const;
};

constexpr Index kGround = -1;

struct Contact {
    Index first, second;  // shapes; the first may be the ground
    Index body[2];        // likewise
    Vec3 point, normal;   // from the first to the second
    double gap;
    Surface surface;  // of both together
    double share;     // of the pair's stiffness
    Vec3 impulse;     // on the second, in the last step that solved for it [N s]
    Vec3 struck;      // on the second by impacts in the last step, besides [N s]
    Vec3 moment;      // of spinning and rolling friction on the second, likewise [N m s]
};

// Two shapes whose wide bounds meet.
struct Pair {
    Index first, second;
    double free_until;  // the sum of both paths up to which they cannot touch [m]
    Vec3 normal;        // when last measured
};

// What is kept of contacts from step to step.
struct ContactState {
    std::vector<double> path;  // how far each shape can have moved so far [m]
    std::vector<Pair> pairs;   // sorted by their shapes
    std::vector<Contact> contacts;
    Volumes volumes{0};
};

// How a body moves, for bounds.
struct Moving {
    Pose pose;
    Vec3 angular, linear;  // of its origin
};

class Collector {
  public:
    explicit Collector(const Scenery& scenery);

    ContactState begin() const;

    // Find the contacts of a state: those that are closed, and those that may close in a step.
    // Where awake(body) is false for both, those of the step before stay as they are.
    void collect(const std::vector<Moving>& bodies, const std::vector<char>& awake, double step,
                 ContactState& state);

    // The next state is not the one that followed from the last.
    void forget() { places_known_ = false; }

  private:
    void place(const std::vector<Moving>& bodies, const std::vector<char>& awake, double step,
               ContactState& state);
    void find_pairs(ContactState& state);
    void note(Index a, Index b, const Spots& spots, ContactState& state) const;
    double margin(double speeds, double step) const;

    const Scenery& scenery_;
    std::vector<Vec3> box_middle_, box_half_;  // of each shape in its own frame
    std::vector<overlaps::PlacedShape> places_;
    std::vector<double> speeds_;
    std::vector<Bounds> bounds_;
    std::vector<char> moved_;
    bool places_known_ = false;
    std::vector<Pair> fresh_, merged_;
    std::vector<Contact> before_;
    Spots spots_;
};

}  // namespace mooring::contact
