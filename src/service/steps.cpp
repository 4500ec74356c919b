#include "service/steps.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "geo/error.h"
#include "geo/wording.h"
#include "service/few_nearest.h"
#include "service/searching.h"
#include "service/step_curves.h"

namespace otoro::service {
namespace {

class Judging {
public:
    Judging(const Ready& ready, const Outcome& outcome, const StepsAsked& asked, const Task& task)
        : ready_(ready), o_(outcome), asked_(asked), task_(task) {}

    StepsResult run() {
        find_more_sites();
        StepsResult out;
        out.steps = asked_.steps;
        out.parts.push_back({std::nullopt, whole(), {}});
        for (const auto by : {SummedBy::zone, SummedBy::group})
            if (by == SummedBy::zone ? asked_.by_zone : asked_.by_group)
                for (auto& row : sum_up(ready_, o_, by, std::nullopt)) out.parts.push_back({by, std::move(row), {}});
        const BreakdownRows zones = breakdown_rows(ready_, SummedBy::zone),
                            groups = breakdown_rows(ready_, SummedBy::group);
        for (auto& part : out.parts) {
            task_.at("judging by steps", 0);
            Places counts(o_.places.size(), !part.by);
            if (part.by) {
                const auto& of_place = (*part.by == SummedBy::zone ? zones : groups).of_place;
                for (std::size_t i = 0; i < of_place.size(); ++i) counts[i] = of_place[i] == part.row.number;
            }
            for (const Step& step : asked_.steps) {
                if (step.scope.part.empty()) {
                    part.steps.push_back(judged(step, counts));
                    continue;
                }
                // Of the row's places those that the step is for.
                Places both = places_named(step);
                for (std::size_t i = 0; i < both.size(); ++i) both[i] = both[i] && counts[i];
                part.steps.push_back(judged(step, both));
            }
        }
        for (std::size_t k = 0; k < asked_.steps.size(); ++k) {
            out.of_step.push_back(out.parts.front().steps[k]);
            if (out.of_step.back().met) continue;
            out.met = false;
            if (!out.first_missed) out.first_missed = k;
        }
        if (out.first_missed) out.most_missed = most_missed(out, *out.first_missed);
        return out;
    }

private:
    using Places = std::vector<bool>;  // one each: whether it counts

    [[nodiscard]] BreakdownRow whole() const {
        BreakdownRow row;
        row.name = "all";
        row.all = o_.all;
        return row;
    }
    /// Of the zone of that name, or else of the group.
    [[nodiscard]] Places places_named(const Step& step) const {
        auto in = in_part(ready_, step.scope.part);
        if (in) return std::move(*in);
        throw InputError({"", std::nullopt,
                          fmt::format("'{}' is for '{}', which is no zone and no group of the demand", describe(step),
                                      step.scope.part),
                          "Name a zone or group as the table by zone or by group does"});
    }

    /// The few nearest sites of every place, where more than the one that serves it counts.
    void find_more_sites() {
        std::size_t most = 1;
        for (const Step& step : asked_.steps) most = std::max<std::size_t>(most, step.scope.needed);
        if (asked_.busy) most = std::max<std::size_t>(most, kExpectedOf);
        if (most == 1) return;
        more_ = FewNearest(ready_, o_.traces->costed, o_.sites).of_all(most, task_);
    }
    [[nodiscard]] std::int64_t cost_of(const ReachableSite& r, bool timed) const {
        return timed == (ready_.question.measure() == routing::Measure::time) ? r.cost : r.other;
    }
    [[nodiscard]] std::size_t within(std::uint32_t place, const Step& step) const {
        const bool timed = is_time(step.limit);
        const std::int64_t limit = limit_of(step);
        const auto sites = more_.of(place);
        return static_cast<std::size_t>(std::count_if(
            sites.begin(), sites.end(), [&](const ReachableSite& r) { return cost_of(r, timed) <= limit; }));
    }

    [[nodiscard]] StepResult judged(const Step& step, const Places& counts) const {
        const StepCurve among = curve_among(o_, step.scope.needed, counts, more_);
        const Curve& curve = is_time(step.limit) ? among.time : among.distance;
        StepResult out{judge_step(step, service::within(curve, limit_of(step)), among.all), {}, 0};
        const Weight wanted = wanted_of(among.all.weight, step.share);
        const auto met_at =
            std::partition_point(curve.begin(), curve.end(), [&](const CurvePoint& p) { return p.weight < wanted; });
        if (met_at != curve.end()) out.met_at = met_at->value;
        if (!asked_.busy) return out;
        const double busy = asked_.busy->percent() / 100;
        each_part(o_, [&](std::uint32_t i, const PlaceOutcome&, Weight weight, bool) {
            if (counts[i]) out.expected += weight.value() * (1 - std::pow(busy, static_cast<double>(within(i, step))));
        });
        return out;
    }

    [[nodiscard]] std::optional<std::size_t> most_missed(const StepsResult& all, std::size_t step) const {
        std::optional<std::size_t> most;
        for (std::size_t k = 1; k < all.parts.size(); ++k) {
            const Weight missed = all.parts[k].steps[step].missed;
            if (missed > Weight() && (!most || missed > all.parts[*most].steps[step].missed)) most = k;
        }
        return most;
    }

    /// A tenth site that all others being busy would be needed changes nothing that is shown.
    static constexpr std::size_t kExpectedOf = 20;
    const Ready& ready_;
    const Outcome& o_;
    const StepsAsked& asked_;
    const Task& task_;
    JourneyTable more_;
};

}  // namespace

StepsResult judge_steps(const Ready& ready, const Outcome& outcome, const StepsAsked& asked, const Task& task) {
    return Judging(ready, outcome, asked, task).run();
}

std::string verdict_words(const StepsResult& result, const std::string& counted) {
    if (std::all_of(result.of_step.begin(), result.of_step.end(),
                    [](const StepResult& r) { return r.judged() == Judged::nobody; }))
        return "Nobody there: nothing is met or missed.";
    if (result.met) return fmt::format("Met: {}.", result.steps.size() == 1 ? "the step" : "every step");
    const Step& step = result.steps[*result.first_missed];
    const StepResult& r = result.of_step[*result.first_missed];
    std::string text =
        fmt::format("Not met: {} within {}{}{}, {} asked for; {} {} more would have to be.", describe(r.share),
                    describe(step.limit), step.scope.needed > 1 ? fmt::format(" of {} sites", step.scope.needed) : "",
                    step.scope.part.empty() ? "" : " in " + step.scope.part,
                    step.share == Share::percent(100) ? "all are" : describe(step.share) + " are",
                    describe_lack(r.missed), counted);
    if (result.most_missed) {
        const PartResult& part = result.parts[*result.most_missed];
        text += fmt::format(" {} lacks most, {}.", part.row.none ? "No zone or group" : part.row.name,
                            describe_lack(part.steps[*result.first_missed].missed));
    }
    return text;
}

}  // namespace otoro::service
