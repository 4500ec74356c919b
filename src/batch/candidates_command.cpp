#include <fmt/format.h>

#include "batch/command.h"
#include "files/atomic_file.h"
#include "files/ranking_file.h"
#include "files/write_answer.h"
#include "geo/amounts.h"
#include "geo/wording.h"
#include "service/ranking.h"

namespace otoro::batch {
namespace {

struct CandidatesOf : Command {
    Asking asking;
    std::string rank, out;

    void add_to(Options& app) override {
        asking.add_to(app, QuestionOptions::kAll | QuestionOptions::kEveryRule);
        app.add_option(
               "--rank", rank,
               "rank them by criteria and their weights, such as newly_within=3,cost=1; there are newly_within, "
               "mean, worst, load and cost")
            .reads_as("WEIGHTS", [](const std::string& text) { return service::parse_weights(text); });
        app.add_option("--out", out, "where the table goes, as CSV: one row a candidate").required().type_name("FILE");
    }
    [[nodiscard]] int run() const override;
};

int CandidatesOf::run() const {
    Console console(asking.quiet);
    const Task task = console.task();
    check_output("--out", out, {".csv"}, asking.inputs());
    const auto weights =
        rank.empty() ? service::kCoverAlone
                     : parsed("--rank", rank, [](const std::string& text) { return service::parse_weights(text); });
    const auto [ready, plan] = asking.ready_to_ask(console, task);
    const auto base = std::make_shared<const service::Outcome>(service::answer(*ready, plan, task));
    const auto& standard = ready->question.standard;
    auto told = tell_candidates(ready, base, task);
    if (told.empty())
        throw InputError({asking.places.sites.paths.front(), std::nullopt,
                          "it has no candidate that is not in use already",
                          "Mark sites to be tried with the state 'candidate', and ask with --use open"});
    const auto counted = fmt::format("{} {}", said_whole(told.size()), told.size() == 1 ? "candidate" : "candidates");
    const auto site_of = [&](const service::RankedCandidate& r) -> const places::Site& {
        return base->sites[r.site.value()].planned.site;
    };
    for (const auto& r : told)
        if (!r.attached)
            console.note(fmt::format("site {} would serve nobody: no road that this traveller may use is near it",
                                     site_of(r).id));
    if (!rank.empty()) {
        rank_anew(told, weights);
        files::write_text(out, files::ranking_csv(*base, told));
        for (const auto criterion : unknown_to_all(told, weights))
            console.note(
                fmt::format("no candidate has a value for {}, so it tells none from another", name(criterion)));
        console.note("");
        fmt::print("{}; first {}, with a score of {}\n", counted, service::label(site_of(told.front())),
                   said(told.front().score, 3));
        return kDone;
    }
    std::string text = "site_id,name,places_nearer,weight_nearer";
    text += standard ? ",places_within,weight_within,share_within_percent,met\r\n" : "\r\n";
    const service::RankedCandidate* best = nullptr;
    for (const auto& r : told) {
        text += fmt::format("{},{},{},{}", files::csv_cell(site_of(r).id), files::csv_cell(site_of(r).name),
                            r.nearer.places, plain_number(r.nearer.weight.value()));
        if (const auto& v = r.verdict) {
            text += fmt::format(",{},{},{:.4f},{}", v->inside.places, plain_number(v->inside.weight.value()),
                                v->share.percent(), cell(v->judged()));
            if (best == nullptr || v->share > best->verdict->share) best = &r;
        }
        text += files::kCsvEnd;
    }
    files::write_text(out, text);
    console.note("");
    if (best) {
        const auto today = judge(*base, *standard);
        fmt::print("{}; without any {} within {}, with {} {}\n", counted, describe(today.share),
                   describe(standard->limit), service::label(site_of(*best)), describe(best->verdict->share));
    } else {
        fmt::print("{}\n", counted);
    }
    return kDone;
}

}  // namespace

std::unique_ptr<Command> candidates_command() { return std::make_unique<CandidatesOf>(); }

}  // namespace otoro::batch
