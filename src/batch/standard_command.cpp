/// A standard of several steps, for all and for every zone and group.
#include <fmt/format.h>

#include <nlohmann/json.hpp>

#include "batch/command.h"
#include "files/atomic_file.h"
#include "files/steps_file.h"
#include "service/pace.h"
#include "service/steps.h"

namespace otoro::batch {
namespace {

Share parse_band(const std::string& text) {
    const auto band = parse_share(text);
    if (band >= Share::percent(100)) refuse("", "speeds cannot fall by all there is", "");
    return band;
}

struct StandardOf : Command {
    Asking asking;
    std::string steps, by_zone, by_group, busy, band, json_out, out;

    void add_to(Options& app) override;
    [[nodiscard]] int run() const override;
};

void StandardOf::add_to(Options& app) {
    asking.add_to(app, QuestionOptions::kLimit | QuestionOptions::kWeight | QuestionOptions::kEveryRule);
    app.add_option("--steps", steps,
                   "what is to be met: \"50% within 5min, 90% within 8min, all within 20min\"; with 'by 2' two sites "
                   "must be, with 'for NAME' it is for that zone or group alone")
        .required()
        .reads_as("STEPS", [](const std::string& text) { return service::parse_steps(text); });
    app.add_option("--by-zone", by_zone, "areas for each of which every step is judged").type_name("FILE");
    app.add_option("--by-group", by_group, "field of the demand for each of whose values every step is judged")
        .type_name("FIELD");
    app.add_option("--busy", busy, "how much of the time each site is busy: expected cover is worked out too")
        .reads_as("SHARE", parse_busy);
    app.add_option("--band", band, "also when all speeds fall or rise by this: 10%").reads_as("SHARE", parse_band);
    app.add_option("--json", json_out, "the same as JSON").type_name("FILE");
    app.add_option("--out", out,
                   "where the table goes, as CSV: a row for each step of all, of each zone, of each group")
        .required()
        .type_name("FILE");
}

int StandardOf::run() const {
    auto with = asking;
    if (!by_zone.empty()) {
        if (with.places.zones.given()) throw Misuse("--by-zone", "it means the same as --zones: name one");
        with.places.zones.paths = {by_zone};
    }
    if (!by_group.empty()) {
        if (!with.places.group.empty()) throw Misuse("--by-group", "it means the same as --group: name one");
        with.places.group = by_group;
    }
    service::StepsAsked asked;
    asked.steps = parsed("--steps", steps, [](const std::string& text) { return service::parse_steps(text); });
    if (!busy.empty()) asked.busy = parsed("--busy", busy, parse_busy);
    const Share by = band.empty() ? Share() : parsed("--band", band, parse_band);
    std::vector<std::string> taken = with.inputs();
    check_output("--json", json_out, {}, taken);
    taken.push_back(json_out);
    check_output("--out", out, {".csv"}, taken);

    Console console(asking.quiet);
    const Task task = console.task();
    const auto [ready, plan] = with.ready_to_ask(console, task);
    asked.by_zone = can_sum_up(*ready, service::SummedBy::zone) && !by_zone.empty();
    asked.by_group = can_sum_up(*ready, service::SummedBy::group) && !by_group.empty();
    const auto outcome = service::answer(*ready, plan, task);
    const auto result = judge_steps(*ready, outcome, asked, task);
    std::vector<files::PacedSteps> paced;
    if (by > Share())
        for (const int sign : {-1, 1}) {
            const Share speed(1'000'000 + sign * by.ppm());
            const auto then = at_pace(*ready, speed, task);
            const auto answered = service::answer(*then, plan, task);
            auto only = asked;
            only.by_zone = only.by_group = false;
            paced.push_back({speed, judge_steps(*then, answered, only, task)});
        }
    if (!json_out.empty())
        files::write_text(json_out, files::steps_json(*ready, asked, result, paced)
                                            .dump(2, ' ', false, nlohmann::json::error_handler_t::replace) +
                                        "\n");
    files::write_text(out, files::steps_csv(result));
    console.note("");
    fmt::print("{}", files::steps_summary(*ready, asked, result, paced));
    return kDone;
}

}  // namespace

std::unique_ptr<Command> standard_command() { return std::make_unique<StandardOf>(); }

}  // namespace otoro::batch
