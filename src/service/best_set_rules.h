#pragma once
/// \file
/// A request for the best set, turned into rules over columns: the sites in question that a road is near.
#include "geo/error.h"
#include "optimise/choice.h"
#include "service/best_set.h"

namespace otoro::service {

inline constexpr std::uint32_t kNoColumn = 0xFFFF'FFFFU;

/// One of the things that are asked of a set.
struct RulePart {
    std::string words;  ///< "A1 is required"
    optimise::Columns required = {};
    std::vector<std::pair<std::uint32_t, std::uint32_t>> apart = {};
    std::vector<optimise::Group> groups = {};
    bool limits = false;  ///< how many there are, or what they cost
};

struct SetRules {
    optimise::ChoiceRules rules;
    std::vector<std::int64_t> costs;  ///< what `rules.costs` looks at
    std::vector<RulePart> parts;      ///< the rules, but for what is kept and what is forbidden
    optimise::Columns start;          ///< what is open now and may be chosen, and what is required: a set to begin with
    std::optional<InputError::Parts> none;  ///< why no set keeps to them, where that is plain; then the rest is nothing
};

/// \param open one a site of the plan, and so are \p column_of: `kNoColumn` where it is not in question \param site_of
/// one a column \throws InputError that says what is missing
SetRules rules_of(const BestSetAsked& asked, const std::vector<SiteOutcome>& sites, const std::vector<bool>& open,
                  const std::vector<std::uint32_t>& column_of, const std::vector<SiteIndex>& site_of);

/// Why no set keeps to the rules: which of them contradict each other. None can be left out of that, but for those of
/// which 20,000 nodes of a search do not decide it. The task's end does not count: that much is always looked at.
/// \throws Stopped
InputError::Parts no_set(const BestSetAsked& asked, const SetRules& rules, const std::vector<SiteOutcome>& sites,
                         const std::vector<SiteIndex>& site_of, const Task& task);

}  // namespace otoro::service
