// Mechanisms: bodies and freedoms that the tree, its loops, springs and bonds hold together. What
// happens in one has to do with another only through contacts.
#pragma once

#include "simulation/rows.h"
#include "simulation/world.h"

namespace mooring::simulation {

// Bodies that are one, as seen in the axes of what floats.
struct Rigid {
    double mass = 0.0;
    Vec3 centre;
    Sym3<double> tensor{};  // about the centre
};

struct Mechanism {
    std::vector<Index> bodies;    // that a joint moves, parents first
    std::vector<Index> freedoms;  // ascending
    std::vector<Index> motors, springs, couplings, closures, bonds;
    Index repeats = 0;   // equations of closures and bonds that repeat others, wherever it goes
    Index nearly = 0;    // equations that nearly repeat others, and hold all the same
    bool loose = false;  // one rigid body that floats: nothing but contacts and pushes acts on it
    Rigid rigid;         // what it is, if it is loose
    // Bodies that hang on one that floats in the world, which comes first.
    std::vector<std::vector<Index>> floats;

    std::vector<Index> rotors;  // motors behind gears with play or give: what moves besides
    std::vector<Index> cables, laws;

    // Of half responses: those of freedoms, then those of rotors.
    Index size() const { return static_cast<Index>(freedoms.size() + rotors.size()); }
};

struct Mechanisms {
    std::vector<Mechanism> all;
    std::vector<Index> of_body;  // which one; -1 of what nothing moves
    std::vector<Index> local;    // of each freedom, its place in its mechanism

    Mechanisms(const World& world, const std::vector<Bond>& bonds);

    Index of(Index body) const { return body < 0 ? -1 : of_body[static_cast<std::size_t>(body)]; }
    Mechanism& operator[](Index k) { return all[static_cast<std::size_t>(k)]; }
    const Mechanism& operator[](Index k) const { return all[static_cast<std::size_t>(k)]; }
};

// Sets that grow together.
class UnionFind {
  public:
    explicit UnionFind(std::size_t count) : parent_(count) {
        for (std::size_t k = 0; k < count; ++k) {
            parent_[k] = static_cast<Index>(k);
        }
    }
    Index find(Index k) {
        while (parent(k) != k) {
            k = parent(k) = parent(parent(k));
        }
        return k;
    }
    // The lower number stands for both.
    void join(Index a, Index b) {
        a = find(a);
        b = find(b);
        parent(std::max(a, b)) = std::min(a, b);
    }

  private:
    Index& parent(Index k) { return parent_[static_cast<std::size_t>(k)]; }
    std::vector<Index> parent_;
};

}  // namespace mooring::simulation
