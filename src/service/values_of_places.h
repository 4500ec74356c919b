#pragma once
/// \file
/// A table of pairs, as a question's places and sites have it.
#include <span>
#include <vector>

#include "service/assign.h"

namespace otoro::service {

/// What each place has with each site in use, by its table of pairs.
class ValuesOfPlaces {
public:
    struct Value {
        SiteIndex site;
        Weight value;
    };
    /// Linear in pairs, places and sites.
    ValuesOfPlaces(const Inputs& inputs, const std::vector<SiteOutcome>& sites);
    /// Those of a place, by the number of the site.
    [[nodiscard]] std::span<const Value> of(std::size_t place) const {
        return {values_.data() + first_[place], values_.data() + first_[place + 1]};
    }
    std::uint64_t of_unknown_demand = 0, of_unknown_sites = 0;  ///< pairs whose ids nobody has; the latter of the rest

private:
    std::vector<std::size_t> first_;
    std::vector<Value> values_;
};

}  // namespace otoro::service
