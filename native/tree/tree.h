// The kinematic tree: bodies, each on its parent by a joint.
#pragma once

#include <atomic>
#include <memory>
#include <string>
#include <vector>

#include "geometry/codes.h"
#include "geometry/matrix.h"
#include "geometry/views.h"

namespace mooring::tree {

enum class Kind { fixed, revolute, prismatic, floating };

}  // namespace mooring::tree

template <>
struct mooring::Names<mooring::tree::Kind> {
    static constexpr std::array<std::string_view, 4> names{"fixed", "revolute", "prismatic",
                                                           "floating"};
};

namespace mooring::tree {

// Body 0 is the root, and every parent comes before its children. A turning or sliding joint has
// one coordinate in q and one freedom in v; a floating joint seven coordinates (where the body's
// frame is in the joint's, then a quaternion x, y, z, w) and six freedoms (the body's angular
// velocity, then that of its origin, in the body's axes).
struct Body {
    Index parent = -1;
    Kind kind = Kind::fixed;
    Index coordinate = -1;  // the joint's first in q
    Index freedom = -1;     // the joint's first in v
    Index tip = -1;         // the last freedom that moves the body
    Pose joint;             // the joint's frame in the parent's
    Vec3 axis;              // unit, in the joint's frame
    double mass = 0.0;
    Vec3 centre;
    Sym3<double> tensor;  // about the centre of mass, in the body's axes

    bool moves() const { return kind != Kind::fixed; }
    Index freedoms() const { return kind == Kind::fixed ? 0 : kind == Kind::floating ? 6 : 1; }
    Index positions() const { return kind == Kind::fixed ? 0 : kind == Kind::floating ? 7 : 1; }
};

// One a freedom.
struct Freedom {
    Index position = -1;  // of its coordinate in q; -1 for those of floating joints
    Index before = -1;    // the freedom before it on the way from the root
    Index body = -1;      // whose joint it belongs to
    double rotor = 0.0;   // inertia that the drive adds on its own
    double lower, upper;  // limits; infinite where there is none
    double velocity, effort;
    double damping = 0.0, friction = 0.0;
    double stiffness = 0.0, rest = 0.0;  // of the spring that pulls it
};

struct Lead {
    Index leader;
    double ratio;
};

struct Coupling {
    Index follower;
    double offset;
    std::vector<Lead> leads;  // one to three
};
constexpr std::size_t kMostLeads = 3;

// Two frames, on two bodies, that hold on to each other in some ways: turning about x, y, z of the
// first, then moving along them.
struct Closure {
    Index first, second;
    Pose on_first, on_second;
    bool held[6];
};

struct Spring {
    Index first, second;
    Vec3 on_first, on_second;
    double stiffness, damping, length;
};

struct Tree {
    std::vector<Body> bodies;
    std::vector<Freedom> freedoms;
    std::vector<Coupling> couplings;
    std::vector<Closure> closures;
    std::vector<Spring> springs;
    Index coordinates = 0;

    Index body_count() const { return static_cast<Index>(bodies.size()); }
    Index freedom_count() const { return static_cast<Index>(freedoms.size()); }
    const Body& body(Index i) const { return bodies[static_cast<std::size_t>(i)]; }
    const Freedom& freedom(Index c) const { return freedoms[static_cast<std::size_t>(c)]; }

    // What is wrong with it; empty if nothing is.
    std::string fault() const;
    // Whether positions (n,) are finite, and quaternions of length one.
    bool sound(const double* q) const;
    // The last freedom that moves a body; the world (-1) is moved by none.
    Index tip(Index body) const { return body < 0 ? -1 : this->body(body).tip; }
};

// Lends what computing needs, so that calls allocate nothing: to one caller at a time what is kept,
// to whoever comes meanwhile something of their own.
template <typename Space>
class Kept {
  public:
    Kept() = default;
    Kept(const Kept&) = delete;
    Kept& operator=(const Kept&) = delete;
    ~Kept() { delete spare_.load(); }

    class Loan {
      public:
        Loan(Kept& owner, const Tree& tree)
            : owner_(owner), space_(owner.spare_.exchange(nullptr)) {
            if (space_ == nullptr) {
                space_ = std::make_unique<Space>(tree).release();
            }
        }
        Loan(const Loan&) = delete;
        Loan& operator=(const Loan&) = delete;
        ~Loan() { delete owner_.spare_.exchange(space_); }
        Space& operator*() const { return *space_; }

      private:
        Kept& owner_;
        Space* space_;
    };

  private:
    std::atomic<Space*> spare_{nullptr};
};

}  // namespace mooring::tree
