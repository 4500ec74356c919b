#include <fmt/format.h>

#include "batch/command.h"
#include "files/atomic_file.h"
#include "files/ranking_file.h"
#include "files/write_answer.h"
#include "geo/amounts.h"
#include "geo/wording.h"
#include "service/candidate.h"
#include "service/ranking.h"

namespace otoro::batch {
namespace {

struct CandidatesOf : Command {
    Asking asking;
    std::string rank, out;

    void add_to(Options& app) override {
        asking.add_to(app);
        app.add_option(
               "--rank", rank,
               "rank them by criteria and their weights, such as newly_within=3,cost=1; there are newly_within, "
               "mean, worst, load and cost")
            .type_name("WEIGHTS");
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
    if (standard && std::any_of(standard->further.begin(), standard->further.end(),
                                [](const auto& s) { return s.scope.needed > 1; }))
        throw InputError({"", std::nullopt, "what a candidate does for a second site is not told by it alone",
                          "Leave steps with 'by' out of the standard"});
    service::Candidates candidates(ready, base);
    std::vector<std::uint32_t> wanted;
    for (std::uint32_t i = 0; i < base->sites.size(); ++i)
        if (base->sites[i].planned.site.state == places::SiteState::candidate && !base->sites[i].planned.in_use)
            wanted.push_back(i);
    if (wanted.empty())
        throw InputError({asking.places.sites.paths.front(), std::nullopt,
                          "it has no candidate that is not in use already",
                          "Mark sites to be tried with the state 'candidate', and ask with --use open"});

    // Where one more site may take others' places from them, each candidate is an answer of its own.
    const bool alone = places_choose_alone(ready->question);
    if (!rank.empty() && !alone)
        throw InputError({"", std::nullopt, "candidates are not ranked where sites have limits of their own",
                          "Leave out --rank, or --limit-field"});
    if (!rank.empty()) {
        const auto ranked = rank_candidates(ready, base, weights, task);
        files::write_text(out, files::ranking_csv(*base, ranked));
        for (const auto criterion : unknown_to_all(ranked, weights))
            console.note(
                fmt::format("no candidate has a value for {}, so it tells none from another", name(criterion)));
        console.note("");
        fmt::print("{} candidates; first {}, with a score of {}\n", said_whole(ranked.size()),
                   service::label(base->sites[ranked.front().site.value()].planned.site),
                   said(ranked.front().score, 3));
        return kDone;
    }
    std::string text = "site_id,name,places_nearer,weight_nearer";
    text += standard ? ",places_within,weight_within,share_within_percent,met\r\n" : "\r\n";
    std::optional<std::pair<Share, std::uint32_t>> best;
    for (std::size_t k = 0; k < wanted.size(); ++k) {
        task.at("trying candidates", static_cast<double>(k) / static_cast<double>(wanted.size()));
        const auto& site = base->sites[wanted[k]];
        std::optional<service::Verdict> verdict;
        service::Tally nearer;
        if (alone) {
            const auto effect = candidates.add(SiteIndex(wanted[k]));
            nearer = candidates.tally(effect);
            if (standard) verdict = candidates.judge(effect, *standard);
        } else {
            auto with = plan;
            with.changes.push_back(change_of(site.planned, service::Change::open));
            const auto then = service::answer(*ready, with, task);
            for (std::size_t i = 0; i < then.places.size(); ++i) {
                if (then.places[i].site != SiteIndex(wanted[k])) continue;
                ++nearer.places;
                nearer.weight += then.weights[i];
            }
            if (standard) verdict = judge(then, *standard);
        }
        if (!site.attachment)
            console.note(fmt::format("site {} would serve nobody: no road that this traveller may use is near it",
                                     site.planned.site.id));
        text +=
            fmt::format("{},{},{},{}", files::csv_cell(site.planned.site.id), files::csv_cell(site.planned.site.name),
                        nearer.places, plain_number(nearer.weight.value()));
        if (verdict) {
            text +=
                fmt::format(",{},{},{:.4f},{}", verdict->inside.places, plain_number(verdict->inside.weight.value()),
                            verdict->share.percent(), cell(verdict->judged()));
            if (!best || verdict->share > best->first) best = {verdict->share, wanted[k]};
        }
        text += files::kCsvEnd;
    }
    files::write_text(out, text);
    console.note("");
    if (best) {
        const auto today = judge(*base, *standard);
        fmt::print("{} candidates; without any {} within {}, with {} {}\n", said_whole(wanted.size()),
                   describe(today.share), describe(standard->limit),
                   service::label(base->sites[best->second].planned.site), describe(best->first));
    } else {
        fmt::print("{} candidates\n", said_whole(wanted.size()));
    }
    return kDone;
}

}  // namespace

std::unique_ptr<Command> candidates_command() { return std::make_unique<CandidatesOf>(); }

}  // namespace otoro::batch
