#include "service/compare.h"

#include <algorithm>
#include <array>

namespace otoro::service {
namespace {

constexpr std::array<std::string_view, kDifferences> kDifferenceNames{
    "same", "nearer", "farther", "newly_within", "newly_beyond", "newly_reached", "cut_off"};

std::optional<std::int64_t> cost_of(const PlaceOutcome& p, routing::Measure measure) {
    if (!p.site) return std::nullopt;
    return measure == routing::Measure::time ? p.time.count() : p.distance.count();
}

std::optional<Amount> limit_of(const Outcome& o) {
    return o.question.standard ? std::optional(o.question.standard->limit) : std::nullopt;
}

/// Of each site of one answer its number in the other; one past the last where it has none.
std::vector<std::uint32_t> numbers_in(const std::vector<SiteOutcome>& sites, const std::vector<SiteOutcome>& other) {
    std::vector<std::uint32_t> out;
    for (std::uint32_t i = 0; i < sites.size(); ++i) {
        const PlannedSite& site = sites[i].planned;
        const auto same = [&](const SiteOutcome& s) {
            const PlannedSite& p = s.planned;
            return p.set == site.set && p.site.id == site.site.id && p.nth == site.nth && p.added == site.added;
        };
        // Sites of the sets stand at the same number under every plan.
        const auto at =
            i < other.size() && same(other[i]) ? other.begin() + i : std::find_if(other.begin(), other.end(), same);
        out.push_back(static_cast<std::uint32_t>(at - other.begin()));
    }
    return out;
}

void add(DifferenceSums& sums, const PlaceDifference& d, Weight weight) {
    const auto count = [&](Tally& tally) {
        ++tally.places;
        tally.weight += weight;
    };
    count(sums.all);
    count(sums.by_kind[static_cast<std::size_t>(d.kind)]);
    if (d.changes_site) count(sums.changes_site);
    const auto by = d.farther_by();
    if (!by) return;
    const Wide all = static_cast<Wide>(*by) * weight.count();
    (all < 0 ? sums.saved : sums.added) += all < 0 ? -all : all;
}

}  // namespace

std::string_view name(Difference d) { return kDifferenceNames[static_cast<std::size_t>(d)]; }

Difference difference_of(const PlaceOutcome& before, const PlaceOutcome& after, routing::Measure measure,
                         const std::optional<Amount>& limit) {
    const auto is_inside = [&](const PlaceOutcome& p) { return p.served() && (!limit || is_within(p, *limit)); };
    if (is_inside(before) != is_inside(after))
        return is_inside(after) ? Difference::newly_within : Difference::newly_beyond;
    const auto was = cost_of(before, measure), is = cost_of(after, measure);
    if (!was && !is) return Difference::same;
    if (!was) return Difference::newly_reached;
    if (!is) return Difference::cut_off;
    return *is < *was ? Difference::nearer : *is > *was ? Difference::farther : Difference::same;
}

std::vector<PlaceDifference> differences(const Outcome& before, const Outcome& after) {
    const auto number_after = numbers_in(before.sites, after.sites);
    const routing::Measure measure = after.question.measure();
    std::vector<PlaceDifference> out(before.places.size());
    for (std::size_t i = 0; i < out.size(); ++i) {
        const PlaceOutcome &was = before.places[i], &is = after.places[i];
        PlaceDifference& d = out[i];
        d.before = cost_of(was, measure);
        d.after = cost_of(is, measure);
        const bool both = was.served() && is.served();
        d.changes_site = both ? number_after[was.site->value()] != is.site->value() : was.served() != is.served();
        d.kind = difference_of(was, is, measure, limit_of(after));
    }
    return out;
}

DifferenceSums sum_up(const Outcome& outcome, const std::vector<PlaceDifference>& all) {
    DifferenceSums sums;
    for (std::size_t i = 0; i < all.size(); ++i) add(sums, all[i], outcome.weights[i]);
    return sums;
}

std::vector<DifferenceRow> sum_up(const Ready& ready, const Outcome& outcome, const std::vector<PlaceDifference>& all,
                                  SummedBy by) {
    std::vector<DifferenceRow> out;
    const BreakdownRows rows = breakdown_rows(ready, by);
    std::vector<std::size_t> at(rows.names.size(), 0);  // by number of the row
    for (auto& row : sum_up(ready, outcome, by, std::nullopt)) {
        at[row.number] = out.size();
        out.push_back({std::move(row), {}});
    }
    for (std::size_t i = 0; i < rows.of_place.size(); ++i)
        add(out[at[rows.of_place[i]]].sums, all[i], outcome.weights[i]);
    return out;
}

AllFigures figures_of_all(const Study& study, const std::vector<std::shared_ptr<const Ready>>& earlier,
                          const Task& task) {
    AllFigures all;
    const std::size_t questions = study.questions.size(), plans = study.plans.size();
    all.of.resize(questions);
    all.why.resize(questions);
    all.ready.resize(questions);
    for (std::size_t q = 0; q < questions; ++q) {
        const Question& question = study.questions[q];
        const auto inputs = study.inputs(question);
        if (!inputs) {
            all.why[q] = "there are no roads, no demand or no sites for it yet";
            continue;
        }
        const Ready* known = q < earlier.size() ? earlier[q].get() : nullptr;
        if (!known && q > 0) known = all.ready[q - 1].get();
        try {
            all.ready[q] = prepare(*inputs, question, known, task.quietly());
            for (std::size_t p = 0; p < plans; ++p) {
                task.at("every plan under every question",
                        static_cast<double>(q * plans + p) / static_cast<double>(questions * plans));
                all.of[q].push_back(figures_of(answer(*all.ready[q], study.plans[p], task.quietly())));
            }
        } catch (const InputError& e) {
            all.of[q].clear();
            all.why[q] = e.what();
        }
    }
    return all;
}

PlanFigures figures_of(const Outcome& outcome) {
    PlanFigures f;
    f.question = outcome.question.name;
    f.plan = outcome.plan.name;
    f.measure = outcome.question.measure();
    if (outcome.question.standard) f.verdict = judge(outcome, *outcome.question.standard);
    f.all = outcome.all;
    f.served = outcome.tally(Status::served);
    f.figures = statistics(outcome, f.measure);
    bool all_known = true;
    Wide cost = 0;
    for (const SiteOutcome& site : outcome.sites) {
        if (!site.planned.in_use) continue;
        ++f.sites_open;
        if (site.planned.site.cost)
            cost += site.planned.site.cost->count();
        else
            all_known = false;
    }
    if (all_known && f.sites_open > 0 && cost <= std::numeric_limits<std::int64_t>::max())
        f.cost = Weight(static_cast<std::int64_t>(cost));
    return f;
}

}  // namespace otoro::service
