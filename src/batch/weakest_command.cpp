/// What hurts most when it is closed.
#include <fmt/format.h>

#include "batch/command.h"
#include "files/atomic_file.h"
#include "files/shape_table.h"
#include "geo/wording.h"
#include "service/sentence.h"
#include "service/weakest.h"

namespace otoro::batch {
namespace {

struct Weakest : Command {
    Asking asking;
    bool roads_too = false;
    std::uint32_t most = 20;
    std::string out;

    void add_to(Options& app) override {
        asking.add_to(app, QuestionOptions::kAll | QuestionOptions::kEveryRule);
        app.add_flag("--roads-too", roads_too, "also the roads whose closing hurts most");
        app.add_option("--most", most, "of --roads-too: how many roads").between(1, 1000).shows_default();
        app.add_option("--out", out, "where the table goes, as CSV: a row a site, a row a road, the worst first")
            .required()
            .type_name("FILE");
    }
    [[nodiscard]] int run() const override;
};

std::string mean_of(const service::Loss& loss, bool by_time) {
    if (!loss.mean) return "";
    return fmt::format("{:.5f}", *loss.mean / (by_time ? 60'000 : 1'000'000));
}

int Weakest::run() const {
    Console console(asking.quiet);
    const Task task = console.task();
    check_output("--out", out, {".csv"}, asking.inputs());
    if (asking.asked.standard.empty())
        throw Misuse("--standard", "without it there is no cover to lose, such as \"90% within 8min\"");
    const auto [ready, plan] = asking.ready_to_ask(console, task);
    const auto outcome = service::answer(*ready, plan, task);
    const auto& standard = *ready->question.standard;
    const auto sites = weakest_sites(*ready, outcome, standard, task);
    std::vector<service::RoadLoss> roads;
    if (roads_too) roads = weakest_roads(*ready, outcome, standard, most, task);

    const bool by_time = ready->question.measure() == routing::Measure::time;
    std::string text = fmt::format("kind,id,name,places_lost,weight_lost,share_percent,met,mean_{},over_it,lon,lat{}",
                                   by_time ? "minutes" : "km", files::kCsvEnd);
    for (const auto& loss : sites) {
        const auto& site = outcome.sites[loss.site.value()].planned.site;
        text += fmt::format(
            "site,{},{},{},{},{:.4f},{},{},,{},{}{}", files::csv_cell(site.id), files::csv_cell(service::label(site)),
            loss.lost.places, plain_number(loss.lost.weight.value()), loss.verdict.share.percent(),
            cell(loss.verdict.judged()), mean_of(loss, by_time), site.position ? plain_number(site.position->lon) : "",
            site.position ? plain_number(site.position->lat) : "", files::kCsvEnd);
    }
    for (const auto& loss : roads)
        text +=
            fmt::format("road,{},{},{},{},{:.4f},{},{},{},{:.7f},{:.7f}{}", loss.link.value() + 1,
                        files::csv_cell(ready->inputs.network->name(loss.link)), loss.lost.places,
                        plain_number(loss.lost.weight.value()), loss.verdict.share.percent(),
                        cell(loss.verdict.judged()), mean_of(loss, by_time), plain_number(loss.over_it.weight.value()),
                        loss.middle.lon, loss.middle.lat, files::kCsvEnd);
    files::write_text(out, text);
    console.note("");
    const auto today = judge(outcome, standard);
    const std::string whom = service::counted(ready->question, ready->inputs.demand);
    fmt::print("{} within {} now\n", describe(today.share), describe(standard.limit));
    if (!sites.empty())
        fmt::print("The site that hurts most: {}, {} {} fewer, {}\n",
                   service::label(outcome.sites[sites.front().site.value()].planned.site),
                   describe(sites.front().lost.weight), whom, describe(sites.front().verdict.share));
    if (!roads.empty()) {
        const auto& worst = roads.front();
        const std::string& name = ready->inputs.network->name(worst.link);
        fmt::print("The road that hurts most: {} at {:.5f}, {:.5f}, {} {} fewer, {}\n",
                   name.empty() ? "one without a name" : name, worst.middle.lon, worst.middle.lat,
                   describe(worst.lost.weight), whom, describe(worst.verdict.share));
    } else if (roads_too) {
        fmt::print("No single road's closing costs any cover\n");
    }
    return kDone;
}

}  // namespace

std::unique_ptr<Command> weakest_command() { return std::make_unique<Weakest>(); }

}  // namespace otoro::batch
