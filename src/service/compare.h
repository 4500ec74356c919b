#pragma once
/// \file
/// Plans side by side: every plan under every question, and who gains and who loses between two answers.
#include <optional>
#include <string>
#include <vector>

#include "service/breakdown.h"
#include "service/study.h"

namespace otoro::service {

/// What becomes of one place from one answer to another. Coming within the standard, or leaving it, counts before
/// nearer and farther; without a standard being served does. Of those beyond the standard before and after some are
/// reached by a site for the first time, and some are cut off: reached by none any more.
enum class Difference : std::uint8_t { same, nearer, farther, newly_within, newly_beyond, newly_reached, cut_off };
inline constexpr std::size_t kDifferences = 7;
/// `newly_within`: in files.
std::string_view name(Difference d);

struct PlaceDifference {
    Difference kind = Difference::same;
    bool changes_site = false;  ///< served by another one, or by one at all, or by none any more
    /// In the question's measure, ms or mm; nothing where no site is reached.
    std::optional<std::int64_t> before, after;
    /// How much farther; nothing unless a site is reached in both.
    [[nodiscard]] std::optional<std::int64_t> farther_by() const {
        return before && after ? std::optional(*after - *before) : std::nullopt;
    }
};

/// One a place; one that is split among sites goes by its largest part, with its whole weight. Sites are the same that
/// have the same set, id and number, wherever they stand. Linear. \pre both are
/// about the same demand and judge by the same measure
std::vector<PlaceDifference> differences(const Outcome& before, const Outcome& after);

/// What becomes of one place by two of its answers. \param limit of the standard: who is served within it; nothing: who
/// is served at all
Difference difference_of(const PlaceOutcome& before, const PlaceOutcome& after, routing::Measure measure,
                         const std::optional<Amount>& limit);

/// Sums over some places.
struct DifferenceSums {
    std::array<Tally, kDifferences> by_kind{};
    Tally all, changes_site;
    Wide saved = 0, added = 0;  ///< weight times cost, of those nearer and of those farther, in both answers reached
    [[nodiscard]] const Tally& of(Difference d) const { return by_kind[static_cast<std::size_t>(d)]; }
};
DifferenceSums sum_up(const Outcome& outcome, const std::vector<PlaceDifference>& all);
/// By zone or group, rows as the breakdown's.
struct DifferenceRow {
    BreakdownRow row;
    DifferenceSums sums;
};
std::vector<DifferenceRow> sum_up(const Ready& ready, const Outcome& outcome, const std::vector<PlaceDifference>& all,
                                  SummedBy by);

/// One plan under one question, in numbers.
struct PlanFigures {
    std::string question, plan;
    routing::Measure measure = routing::Measure::time;
    std::optional<Verdict> verdict;  ///< nothing without a standard
    Tally all, served;
    std::optional<Statistics> figures;  ///< of those served, in the measure
    std::uint32_t sites_open = 0;
    std::optional<Weight> cost;  ///< of the sites in use; nothing if one of them has none stated
};
PlanFigures figures_of(const Outcome& outcome);

/// Plans under questions, question by question.
struct AllFigures {
    std::vector<std::vector<PlanFigures>> of;         ///< by question, then by plan; empty where it cannot be answered
    std::vector<std::string> why;                     ///< it cannot; empty where it can
    std::vector<std::shared_ptr<const Ready>> ready;  ///< by question: what holds of it the next time too
};
/// \param earlier readies of which parts may still hold; may be empty, or have nulls \throws Stopped
AllFigures figures_of_all(const Study& study, const std::vector<std::shared_ptr<const Ready>>& earlier,
                          const Task& task);

}  // namespace otoro::service
