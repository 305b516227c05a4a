#include "tree/tree.h"

#include <algorithm>
#include <cmath>

namespace mooring::tree {

std::string Tree::fault() const {
    const Index n = body_count(), m = freedom_count();
    if (n == 0) {
        return "a tree has at least one body";
    }
    std::vector<bool> used(static_cast<std::size_t>(coordinates));
    for (Index i = 0; i < n; ++i) {
        const Body& b = body(i);
        if (b.parent >= i || b.parent < -1 || (b.parent == -1) != (i == 0)) {
            return "every parent must come before its children";
        }
        if (b.moves() && (b.coordinate < 0 || b.freedom < 0 || b.freedom + b.freedoms() > m ||
                          b.coordinate + b.positions() > coordinates)) {
            return "a joint names a coordinate or freedom that is not there";
        }
        for (Index k = 0; k < b.positions(); ++k) {
            auto taken = used[static_cast<std::size_t>(b.coordinate + k)];
            if (taken) {
                return "two joints name one coordinate";
            }
            taken = true;
        }
        for (Index k = 0; k < b.freedoms(); ++k) {
            const Freedom& f = freedom(b.freedom + k);
            if (f.body != i || f.position != (b.kind == Kind::floating ? -1 : b.coordinate)) {
                return "a freedom belongs to another joint or coordinate";
            }
            if (f.before != (k == 0 ? tip(b.parent) : b.freedom + k - 1)) {
                return "the freedom before another is not the one above it in the tree";
            }
        }
        const Index above = tip(b.parent);
        if (b.tip != (b.moves() ? b.freedom + b.freedoms() - 1 : above)) {
            return "the last freedom that moves a body is another";
        }
    }
    if (std::any_of(freedoms.begin(), freedoms.end(),
                    [](const Freedom& f) { return f.body < 0; })) {
        return "a freedom belongs to no joint";
    }
    const auto is_body = [n](Index i) { return i >= 0 && i < n; };
    for (const Coupling& c : couplings) {
        if (c.follower < 0 || c.follower >= m || freedom(c.follower).position < 0 ||
            c.leads.empty() || c.leads.size() > kMostLeads ||
            std::any_of(
                c.leads.begin(), c.leads.end(),
                [&](const Lead& lead) {
                    return lead.leader < 0 || lead.leader >= m || freedom(lead.leader).position < 0;
                })) {
            return "a coupling names a freedom that is not there";
        }
    }
    for (const Closure& c : closures) {
        if (!is_body(c.first) || !is_body(c.second)) {
            return "a closure names a body that is not there";
        }
    }
    for (const Spring& s : springs) {
        if (!is_body(s.first) || !is_body(s.second)) {
            return "a spring names a body that is not there";
        }
    }
    return {};
}

bool Tree::sound(const double* q) const {
    for (Index k = 0; k < coordinates; ++k) {
        if (!std::isfinite(q[k])) {
            return false;
        }
    }
    for (const Body& b : bodies) {
        if (b.kind == Kind::floating) {
            const double* r = q + b.coordinate + 3;
            const double length = std::sqrt(r[0] * r[0] + r[1] * r[1] + r[2] * r[2] + r[3] * r[3]);
            if (std::fabs(length - 1.0) > 1e-6) {
                return false;
            }
        }
    }
    return true;
}

}  // namespace mooring::tree
