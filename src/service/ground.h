#pragma once
/// \file
/// What a search runs on and what it leaves behind.
#include <utility>
#include <vector>

#include "roads/closure.h"
#include "routing/nearest_search.h"
#include "routing/turn_costs.h"
#include "travel/profile.h"

namespace otoro::service {

/// Roads as one traveller meets them, today or under the closures of a plan.
struct Ground {
    travel::Profile profile;
    std::vector<travel::Crossing> crossings;       ///< whole links, without closures
    std::vector<bool> usable;                      ///< without closures: places stay attached to a road that is shut
    std::vector<roads::Hindrance> hindrances;      ///< what closures do; empty today
    routing::TurnCosts turns;
    routing::WaysByNode ways;                      ///< only where turning is not free
};

/// A search's labels: of nodes where turning is free, of ways of links where it is not.
class Labels {
public:
    Labels() = default;
    Labels(routing::LabelArray all, bool of_ways) : all_(std::move(all)), of_ways_(of_ways) {}
    /// Outward: what it takes until one may start along `way`. Inward: what it takes from having travelled `way`.
    [[nodiscard]] const routing::Label& at(const roads::Network& network, routing::LinkWay way, bool outward) const {
        return all_[of_ways_ ? way.bits : (outward ? routing::start_of(network, way) : routing::end_of(network, way)).value()];
    }
    [[nodiscard]] bool of_ways() const { return of_ways_; }
    [[nodiscard]] const routing::LabelArray& all() const { return all_; }

private:
    routing::LabelArray all_;
    bool of_ways_ = false;
};

}  // namespace otoro::service
