#pragma once
/// \file
/// A request for the best set, turned into rules over columns: the sites in question that a road is near.
#include "optimise/choice.h"
#include "service/best_set.h"

namespace otoro::service {

inline constexpr std::uint32_t kNoColumn = 0xFFFF'FFFFU;

struct SetRules {
    optimise::ChoiceRules rules;
    std::vector<std::int64_t> costs;  ///< what `rules.costs` looks at
    optimise::Columns start;          ///< what is open now and may be chosen, and what is required: a set to begin with
};

/// \param open one a site of the plan, and so are \p column_of: `kNoColumn` where it is not in question \param site_of
/// one a column \throws InputError that says what contradicts what, or what is missing
SetRules rules_of(const BestSetAsked& asked, const std::vector<SiteOutcome>& sites, const std::vector<bool>& open,
                  const std::vector<std::uint32_t>& column_of, const std::vector<SiteIndex>& site_of);

}  // namespace otoro::service
