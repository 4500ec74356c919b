#pragma once
/// \file
/// Every candidate ranked alone: what it would do if it were the only one opened, by several criteria with stated
/// weights.
///
/// \par Meaning
/// A criterion counts from 0, for the worst of the candidates in it, to 1, for the best; a candidate whose value is not
/// known counts 0. The score is the mean of these by the criteria's weights. Ties go to the site first in file order.
///
/// \par Cost
/// As much of a search for each candidate as the ground that it would serve (`candidate.h`), on all threads. Where one
/// more site may take others' places from them (capacities, catchments, sites' own limits), and for steps that ask for
/// several sites, an answer for each.
#include <array>
#include <optional>
#include <vector>

#include "service/assign.h"

namespace otoro::service {

/// By what candidates are ranked.
enum class Criterion : std::uint8_t {
    newly_within,  ///< weight that comes within the standard; without one: that is served at all. Much is good
    mean,          ///< mean travel of all served afterwards. Little is good
    worst,         ///< the farthest that anybody served travels afterwards. Little is good
    load,          ///< weight that it would serve. Much is good
    cost,          ///< that its record states. Little is good
};
inline constexpr std::size_t kCriteria = 5;
inline constexpr std::array<Criterion, kCriteria> kAllCriteria{Criterion::newly_within, Criterion::mean,
                                                               Criterion::worst, Criterion::load, Criterion::cost};
/// In files and options: `newly_within`.
std::string_view name(Criterion c);
std::optional<Criterion> parse_criterion(std::string_view text);

/// How much each criterion counts against the others, none below 0; not all 0.
using CriterionWeights = std::array<double, kCriteria>;
/// What matters most to most: cover alone.
inline constexpr CriterionWeights kCoverAlone{1, 0, 0, 0, 0};
/// `newly_within=3,cost=1`. \throws InputError that names what does not parse
CriterionWeights parse_weights(std::string_view text);

struct RankedCandidate {
    SiteIndex site{0U};
    bool attached = true;        ///< else no road is near it, and nothing changes
    Tally nearer;                ///< whose site it would be, also beyond the limit
    Tally newly_within;          ///< weight that comes within, less what falls out of it
    Tally served;                ///< that it would serve
    std::optional<double> mean;  ///< afterwards, ms or mm
    std::optional<std::int64_t> worst;
    std::optional<Weight> cost;
    std::optional<Verdict> verdict;  ///< with it; nothing without a standard
    double score = 0;                ///< from 0 to 1
};

/// What each candidate of an answer does that is not in use, in file order; scores are 0.
/// \pre the answer has its traces \throws Stopped
std::vector<RankedCandidate> tell_candidates(const std::shared_ptr<const Ready>& ready,
                                             const std::shared_ptr<const Outcome>& base, const Task& task);
/// The same, best first. \throws as above
std::vector<RankedCandidate> rank_candidates(const std::shared_ptr<const Ready>& ready,
                                             const std::shared_ptr<const Outcome>& base,
                                             const CriterionWeights& weights, const Task& task);
/// The same ones by other weights: nothing is searched.
void rank_anew(std::vector<RankedCandidate>& candidates, const CriterionWeights& weights);
/// Criteria that count and of which no candidate has a value: they tell none from another.
std::vector<Criterion> unknown_to_all(const std::vector<RankedCandidate>& candidates, const CriterionWeights& weights);
/// Of a criterion its value: weight in millionths, ms or mm; nothing where it is not known.
std::optional<double> value_of(const RankedCandidate& candidate, Criterion criterion);
/// Whether more of it is better.
bool more_is_better(Criterion criterion);

}  // namespace otoro::service
