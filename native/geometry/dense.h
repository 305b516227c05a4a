// Small dense symmetric positive definite systems, by Cholesky's factorisation.
#pragma once

#include <algorithm>
#include <cmath>

#include "geometry/tolerances.h"
#include "geometry/views.h"

namespace mooring {

// Replace the lower triangle of a (n, n) by L with a = L L^T. A pivot that is not positive, as of a
// matrix that is singular to rounding, becomes a tiny one.
inline void factorise(Grid<double> a) {
    const Index n = a.rows;
    double largest = 0.0;
    for (Index i = 0; i < n; ++i) {
        largest = std::max(largest, std::fabs(a(i, i)));
    }
    const double least = kLeastPivot * largest + 1e-300;
    for (Index j = 0; j < n; ++j) {
        double pivot = a(j, j);
        for (Index k = 0; k < j; ++k) {
            pivot -= a(j, k) * a(j, k);
        }
        pivot = std::sqrt(std::max(pivot, least));
        a(j, j) = pivot;
        const double over = 1.0 / pivot;
        for (Index i = j + 1; i < n; ++i) {
            double value = a(i, j);
            for (Index k = 0; k < j; ++k) {
                value -= a(i, k) * a(j, k);
            }
            a(i, j) = value * over;
        }
    }
}

// Replace x (n,) by the solution of L L^T y = x.
inline void solve_factorised(Grid<double> lower, double* x) {
    const Index n = lower.rows;
    for (Index i = 0; i < n; ++i) {
        double value = x[i];
        for (Index k = 0; k < i; ++k) {
            value -= lower(i, k) * x[k];
        }
        x[i] = value / lower(i, i);
    }
    for (Index i = n - 1; i >= 0; --i) {
        double value = x[i];
        for (Index k = i + 1; k < n; ++k) {
            value -= lower(k, i) * x[k];
        }
        x[i] = value / lower(i, i);
    }
}

}  // namespace mooring
