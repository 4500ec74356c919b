#include "service/firmness.h"

#include <algorithm>
#include <cmath>

#include "geo/error.h"
#include "service/pace.h"

namespace otoro::service {

Share busy_share(double calls_an_hour, Millis on_task, std::size_t sites) {
    constexpr double kMost = 0.99, kHour = 3.6e6;
    if (sites == 0) return Share();
    const double busy = calls_an_hour * static_cast<double>(on_task.count()) / kHour / static_cast<double>(sites);
    return Share::percent(100 * std::clamp(busy, 0.0, kMost));
}

Firmness firmness(const std::shared_ptr<const Ready>& ready, const Outcome& outcome, const Standard& standard,
                  const std::vector<Share>& speeds, const std::optional<Share>& busy, const Task& task) {
    Firmness out;
    auto judged = std::make_shared<Ready>(*ready);
    judged->question.standard = standard;
    for (const Share speed : speeds) {
        task.at("at another pace", static_cast<double>(out.band.size()) / static_cast<double>(speeds.size()));
        if (speed == Share::percent(100)) {
            out.band.push_back({speed, judge(outcome, standard)});
            continue;
        }
        const auto then = at_pace(*judged, speed, task.quietly());
        out.band.push_back({speed, judge(answer(*then, outcome.plan, task.quietly()), standard)});
    }
    StepsAsked asked;
    asked.steps = {standard.first()};
    asked.steps.insert(asked.steps.end(), standard.further.begin(), standard.further.end());
    asked.busy = busy;
    std::optional<StepsResult> result;
    try {
        result = judge_steps(*judged, outcome, asked, task.quietly());
    } catch (const InputError&) {
        // A step is for a zone or group that is not there: that alone is missed at any limit.
        asked.steps.resize(1);
        const auto first = judge_steps(*judged, outcome, asked, task.quietly());
        if (busy) out.expected = first.of_step.front().expected;
        return out;
    }
    if (busy) out.expected = result->of_step.front().expected;
    for (std::size_t k = 0; k < result->steps.size(); ++k) {
        const auto& met_at = result->of_step[k].met_at;
        if (!met_at) {
            // A step whose zone or group is empty is met whatever happens.
            if (result->of_step[k].met) continue;
            out.slack.reset();
            out.first_to_break = result->steps[k];
            return out;
        }
        const std::int64_t slack = limit_of(result->steps[k]) - *met_at;
        if (out.slack && slack >= *out.slack) continue;
        out.slack = slack;
        out.first_to_break = result->steps[k];
    }
    return out;
}

}  // namespace otoro::service
