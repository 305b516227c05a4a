#include "contact/volumes.h"

namespace mooring::contact {

Index Volumes::add(const Node& node) {
    if (!free_.empty()) {
        const Index k = free_.back();
        free_.pop_back();
        at(k) = node;
        return k;
    }
    nodes_.push_back(node);
    return static_cast<Index>(nodes_.size()) - 1;
}

void Volumes::fit_upwards(Index node) {
    for (; node != kNone; node = at(node).parent) {
        at(node).bounds = joined(at(at(node).child[0]).bounds, at(at(node).child[1]).bounds);
    }
}

void Volumes::put(Index leaf, const Bounds& bounds) {
    const Index made = add({bounds, kNone, {kNone, kNone}, leaf});
    leaf_[static_cast<std::size_t>(leaf)] = made;
    if (root_ == kNone) {
        root_ = made;
        return;
    }
    // Down to the sibling whose new parent makes the hierarchy grow least.
    Index here = root_;
    while (at(here).leaf == kNone) {
        const double area = at(here).bounds.area(), with = joined(at(here).bounds, bounds).area();
        const double passed_on = 2.0 * (with - area);
        double cost[2];
        for (int k = 0; k < 2; ++k) {
            const Node& child = at(at(here).child[k]);
            const double grown = joined(child.bounds, bounds).area();
            cost[k] = passed_on + (child.leaf == kNone ? grown - child.bounds.area() : grown);
        }
        if (2.0 * with < cost[0] && 2.0 * with < cost[1]) {
            break;
        }
        here = at(here).child[cost[0] <= cost[1] ? 0 : 1];
    }
    const Index above = at(here).parent;
    const Index parent = add({joined(at(here).bounds, bounds), above, {here, made}, kNone});
    at(here).parent = at(made).parent = parent;
    if (above == kNone) {
        root_ = parent;
    } else {
        at(above).child[at(above).child[0] == here ? 0 : 1] = parent;
    }
    fit_upwards(above);
}

void Volumes::take(Index leaf) {
    Index& own = leaf_[static_cast<std::size_t>(leaf)];
    const Index parent = at(own).parent;
    if (parent == kNone) {
        root_ = kNone;
    } else {
        const Index sibling = at(parent).child[at(parent).child[0] == own ? 1 : 0];
        const Index above = at(parent).parent;
        at(sibling).parent = above;
        if (above == kNone) {
            root_ = sibling;
        } else {
            at(above).child[at(above).child[0] == parent ? 0 : 1] = sibling;
        }
        fit_upwards(above);
        free_.push_back(parent);
    }
    free_.push_back(own);
    own = kNone;
}

}  // namespace mooring::contact
