// Several states side by side: a number of each, in one vector register. What is done to
// each of them is what would be done to it alone, in the same order, so the bytes are the same.
#pragma once

#include <cmath>

namespace mooring {

constexpr int kLanes = 2;

struct Lanes {
#if defined(__GNUC__)
    using Raw = double __attribute__((vector_size(8 * kLanes)));
#else
    struct Raw {
        double v[kLanes];
        double& operator[](int k) { return v[k]; }
        double operator[](int k) const { return v[k]; }
    };
#endif
    Raw raw{};

    Lanes() = default;
    Lanes(double same) {
        for (int k = 0; k < kLanes; ++k) {
            raw[k] = same;
        }
    }
    double operator[](int k) const { return raw[k]; }
    void set(int k, double value) { raw[k] = value; }
};

#if defined(__GNUC__)
#define MOORING_LANES(op)                        \
    inline Lanes operator op(Lanes a, Lanes b) { \
        Lanes out;                               \
        out.raw = a.raw op b.raw;                \
        return out;                              \
    }
#else
#define MOORING_LANES(op)                        \
    inline Lanes operator op(Lanes a, Lanes b) { \
        Lanes out;                               \
        for (int k = 0; k < kLanes; ++k) {       \
            out.raw[k] = a.raw[k] op b.raw[k];   \
        }                                        \
        return out;                              \
    }
#endif
MOORING_LANES(+)
MOORING_LANES(-)
MOORING_LANES(*)
MOORING_LANES(/)
#undef MOORING_LANES

inline Lanes operator-(Lanes a) { return Lanes(0.0) - a; }
inline Lanes& operator+=(Lanes& a, Lanes b) { return a = a + b; }
inline Lanes& operator-=(Lanes& a, Lanes b) { return a = a - b; }

inline Lanes sqrt(Lanes a) {
    for (int k = 0; k < kLanes; ++k) {
        a.set(k, std::sqrt(a[k]));
    }
    return a;
}
inline double sqrt(double a) { return std::sqrt(a); }

// Each number of a that is less than the least, replaced by it.
inline double at_least(double a, double least) { return a > least ? a : least; }
inline Lanes at_least(Lanes a, double least) {
    for (int k = 0; k < kLanes; ++k) {
        a.set(k, at_least(a[k], least));
    }
    return a;
}

// The numbers of one state, or of several states side by side, from rows `count` long.
inline void load(const double* rows, long count, double* out) {
    for (long j = 0; j < count; ++j) {
        out[j] = rows[j];
    }
}
inline void load(const double* rows, long count, Lanes* out) {
    for (long j = 0; j < count; ++j) {
        for (int k = 0; k < kLanes; ++k) {
            out[j].set(k, rows[k * count + j]);
        }
    }
}
inline void store(const double* values, long count, double* rows) { load(values, count, rows); }
inline void store(const Lanes* values, long count, double* rows) {
    for (long j = 0; j < count; ++j) {
        for (int k = 0; k < kLanes; ++k) {
            rows[k * count + j] = values[j][k];
        }
    }
}

}  // namespace mooring
