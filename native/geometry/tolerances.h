// The small numbers of the mechanics, each with its reason.
#pragma once

namespace mooring {

// A pivot of a mass matrix that is no larger moves no mass, as of a point mass on its own axis;
// large enough that what it is divided into stays finite [kg m^2 or kg].
constexpr double kMassless = 1e-14;

// Added to the pivots of equations, as a share of the largest: closures of flat mechanisms repeat
// equations. A million times rounding, and a thousandth of what anybody could measure.
constexpr double kRepeated = 1e-11;

// The same where no step follows that would take an error back: nearer to rounding.
constexpr double kRepeatedExactly = 1e-14;

// A closure's equation that lies within this angle of those before it, wherever the mechanism goes,
// repeats them and is left to them: pins that are made are parallel to a few milliradians, and an
// equation that is nearly another one would hold what is free to move.
constexpr double kAligned = 5e-3;

// As `kRepeated`, for Newton's method, which comes closer with every step anyway.
constexpr double kRepeatedInNewton = 1e-12;

// A Cholesky pivot is at least this share of the largest diagonal: rounding, and no more.
constexpr double kLeastPivot = 1e-15;

}  // namespace mooring
