#include "files/steps_file.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <nlohmann/json.hpp>

#include "files/shape_table.h"
#include "geo/amounts.h"
#include "geo/wording.h"
#include "service/sentence.h"

namespace otoro::files {
namespace {

using service::PartResult;
using service::Step;
using service::StepResult;
using service::StepsResult;

std::string by_of(const PartResult& part) {
    if (!part.by) return "all";
    return *part.by == service::SummedBy::zone ? "zone" : "group";
}
Amount amount_like(const Amount& limit, std::int64_t count) {
    if (std::holds_alternative<Millis>(limit)) return Millis(count);
    return Millimetres(count);
}

nlohmann::json step_json(const Step& step, const StepResult& r, bool expected) {
    nlohmann::json j{{"step", describe(step)},
                     {"share_wanted_percent", step.share.percent()},
                     {"limit", shown(step, limit_of(step))},
                     {"sites_needed", step.scope.needed},
                     {"places", r.all.places},
                     {"weight", r.all.weight.value()},
                     {"places_within", r.inside.places},
                     {"weight_within", r.inside.weight.value()},
                     {"share_percent", r.share.percent()},
                     {"met", r.met},
                     {"nobody", r.judged() == service::Judged::nobody},
                     {"weight_missed", r.missed.value()}};
    if (!step.scope.part.empty()) j["for"] = step.scope.part;
    if (r.met_at) j["met_at"] = shown(step, *r.met_at);
    if (expected) j["expected_weight"] = r.expected;
    return j;
}

}  // namespace

std::string steps_csv(const StepsResult& result) {
    std::string text = fmt::format(
        "by,name,step,share_wanted_percent,limit,sites_needed,places,weight,places_within,weight_within,share_percent,"
        "met,weight_missed,met_at,expected_weight{}",
        kCsvEnd);
    struct Row {
        std::size_t part, step;
    };
    std::vector<Row> rows;
    for (std::size_t p = 0; p < result.parts.size(); ++p)
        for (std::size_t k = 0; k < result.steps.size(); ++k) rows.push_back({p, k});
    const auto rank = [&](const Row& r) {
        const PartResult& part = result.parts[r.part];
        return std::tuple(!part.by                              ? 0
                          : *part.by == service::SummedBy::zone ? 1
                                                                : 2,
                          r.step, -part.steps[r.step].missed.count());
    };
    std::stable_sort(rows.begin(), rows.end(), [&](const Row& a, const Row& b) { return rank(a) < rank(b); });
    for (const Row& at : rows) {
        const PartResult& part = result.parts[at.part];
        const Step& step = result.steps[at.step];
        // What a step for one zone or group says of all is what that one makes of it.
        const StepResult& r = part.by ? part.steps[at.step] : result.of_step[at.step];
        text += fmt::format("{},{},{},{},{},{},{},{},{},{},{:.4f},{},{},{},{}{}", by_of(part),
                            csv_cell(part.row.none ? "" : part.row.name), csv_cell(describe(step)),
                            plain_number(step.share.percent()), plain_number(shown(step, limit_of(step))),
                            step.scope.needed, r.all.places, plain_number(r.all.weight.value()), r.inside.places,
                            plain_number(r.inside.weight.value()), r.share.percent(), cell(r.judged()),
                            plain_number(r.missed.value()), r.met_at ? plain_number(shown(step, *r.met_at)) : "",
                            r.expected > 0 ? fmt::format("{:.4f}", r.expected) : "", kCsvEnd);
    }
    return text;
}

nlohmann::json steps_json(const service::Ready& ready, const service::StepsAsked& asked, const StepsResult& result,
                          const std::vector<PacedSteps>& paced) {
    nlohmann::json j;
    j["question"] = sentence(ready.question, ready.inputs.demand);
    j["met"] = result.met;
    j["verdict"] = verdict_words(result, counted(ready.question, ready.inputs.demand));
    j["turnout_minutes"] = ready.question.turnout.minutes();
    j["steps"] = nlohmann::json::array();
    for (std::size_t k = 0; k < result.steps.size(); ++k)
        j["steps"].push_back(step_json(result.steps[k], result.of_step[k], asked.busy.has_value()));
    for (const PartResult& part : result.parts) {
        if (!part.by) continue;
        nlohmann::json row{{"name", part.row.none ? "" : part.row.name}, {"steps", nlohmann::json::array()}};
        for (std::size_t k = 0; k < result.steps.size(); ++k)
            row["steps"].push_back(step_json(result.steps[k], part.steps[k], asked.busy.has_value()));
        j[*part.by == service::SummedBy::zone ? "zones" : "groups"].push_back(row);
    }
    for (const PacedSteps& p : paced) {
        nlohmann::json row{{"speed_percent", p.speed.percent()}, {"met", p.result.met}};
        for (std::size_t k = 0; k < result.steps.size(); ++k)
            row["steps"].push_back(step_json(result.steps[k], p.result.of_step[k], asked.busy.has_value()));
        j["band"].push_back(row);
    }
    return j;
}

std::string steps_summary(const service::Ready& ready, const service::StepsAsked& asked, const StepsResult& result,
                          const std::vector<PacedSteps>& paced) {
    const std::string whom = counted(ready.question, ready.inputs.demand);
    std::string text = sentence(ready.question, ready.inputs.demand) + "\n";
    text += verdict_words(result, whom) + "\n";
    for (std::size_t k = 0; k < result.steps.size(); ++k) {
        const Step& step = result.steps[k];
        const StepResult& r = result.of_step[k];
        text += fmt::format(
            "  {}: {}, {}", describe(step), describe(r.share),
            r.met ? std::string(words(r.judged())) : fmt::format("{} {} missed", describe_lack(r.missed), whom));
        if (r.met_at) {
            const std::int64_t slack = limit_of(step) - *r.met_at;
            const std::string amount = describe(amount_like(step.limit, std::abs(slack)));
            text += slack >= 0 ? fmt::format("; breaks when everybody is more than {} farther", amount)
                               : fmt::format("; met if everybody were {} nearer", amount);
        } else {
            text += "; not met at any limit";
        }
        if (asked.busy) text += fmt::format("; expected {}", said_shortly(r.expected, 1));
        text += "\n";
    }
    for (const PacedSteps& p : paced) {
        text += fmt::format("  at {} of the speed: {}", describe(p.speed), p.result.met ? "met" : "not met");
        for (const StepResult& r : p.result.of_step) text += ", " + describe(r.share);
        text += "\n";
    }
    return text;
}

}  // namespace otoro::files
