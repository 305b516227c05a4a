// The impulses of an island: bounded rows and contacts with Coulomb's cone, by block Gauss-Seidel,
// forwards and backwards, beginning with the impulses of the step before (Moreau 1988; Jean 1999,
// "The non-smooth contact dynamics method"). A contact's friction is a disk whose radius is its
// normal impulse times the coefficient: the real cone, and no pyramid.
//
// No matrix of all rows by all rows is made. A row knows its half responses in the one or two
// mechanisms it touches, and each mechanism carries the sum of what acts on it, so that a row costs
// the freedoms of its mechanisms.
#pragma once

#include <memory>
#include <vector>

#include "simulation/rows.h"

namespace mooring::simulation {

// Numbers that stay where they are until all are given back.
class Arena {
  public:
    double* take(Index count);
    void give_back() { block_ = used_ = 0; }

  private:
    static constexpr std::size_t kBlock = 1 << 14;
    std::vector<std::pair<std::unique_ptr<double[]>, std::size_t>> blocks_;
    std::size_t block_ = 0, used_ = 0;
};

// One side of a row: a mechanism.
struct RowSide {
    const double* half;    // of a unit impulse
    const double* answer;  // the same once the mechanism's equations answer to it
    double* sum;           // of all impulses so far, in the mechanism
    Index size;
};

struct Row {
    RowSide side[2];
    int sides = 0;
    double diagonal = 0.0, soft = 0.0;
    double b = 0.0;  // speed along it without impulses, less what is wanted
    double x = 0.0;
    double lower = 0.0, upper = 0.0;

    // How fast things move along it, less what is wanted.
    double speed() const {
        double w = b + soft * x;
        for (int s = 0; s < sides; ++s) {
            w += dot(side[s].half, side[s].sum, side[s].size);
        }
        return w;
    }
    void add(double change) {
        x += change;
        for (int s = 0; s < sides; ++s) {
            add_times(side[s].sum, change, side[s].answer, side[s].size);
        }
    }
    // What a unit impulse along this row does along another of the same sides.
    double times(const Row& other) const {
        double total = 0.0;
        for (int s = 0; s < sides; ++s) {
            total += dot(side[s].half, other.side[s].answer, side[s].size);
        }
        return total;
    }
    void find_diagonal(double repeated);
};

// A contact's rows: its normal and two ways across it, then where there is such friction spinning,
// and rolling about the two ways.
struct ContactRows {
    std::size_t first;
    int count;
    double friction, rolling, spinning;
    double between[2];  // what the two ways of sliding, and of rolling, have to do with each other
};

struct SweepSettings {
    Index most;
    double accuracy;  // end when no impulse changes a velocity by more [m/s or rad/s]
};

struct Swept {
    Index sweeps;
    double left;  // by how much the last of them still changed a velocity
};

// The sums begin with what the rows' x so far have put in. Without friction, contacts only push.
Swept sweep(std::vector<Row>& rows, std::size_t bounded, const std::vector<ContactRows>& contacts,
            bool with_friction, const SweepSettings& settings);

}  // namespace mooring::simulation
