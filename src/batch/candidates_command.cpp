#include "batch/command.h"
#include "files/atomic_file.h"
#include "files/write_answer.h"
#include "geo/amounts.h"
#include "service/candidate.h"

namespace otoro::batch {
namespace {

struct CandidatesOf : Command {
    Asking asking;
    std::string out;

    void add_to(CLI::App& app) override {
        asking.add_to(app);
        app.add_option("--out", out, "where the table goes, as CSV: one row a candidate")
            ->required()
            ->type_name("FILE");
    }
    [[nodiscard]] int run() const override;
};

int CandidatesOf::run() const {
    Console console(asking.quiet);
    const Task task = console.task();
    check_output("--out", out, {".csv"}, asking.inputs());
    const auto [ready, plan] = asking.ready_to_ask(console, task);
    const auto base = std::make_shared<const service::Outcome>(service::answer(*ready, plan, task));
    const auto& standard = ready->question.standard;
    service::Candidates candidates(ready, base);
    std::vector<std::uint32_t> wanted;
    for (std::uint32_t i = 0; i < base->sites.size(); ++i)
        if (base->sites[i].planned.site.state == places::SiteState::candidate && !base->sites[i].planned.in_use)
            wanted.push_back(i);
    if (wanted.empty())
        throw InputError({asking.places.sites.paths.front(), std::nullopt,
                          "it has no candidate that is not in use already",
                          "Mark sites to be tried with the state 'candidate', and ask with --use open"});

    std::string text = "site_id,name,places_nearer,weight_nearer";
    text += standard ? ",places_within,weight_within,share_within_percent,met\r\n" : "\r\n";
    std::optional<std::pair<Share, std::uint32_t>> best;
    for (std::size_t k = 0; k < wanted.size(); ++k) {
        task.at("trying candidates", static_cast<double>(k) / static_cast<double>(wanted.size()));
        const auto& site = base->sites[wanted[k]];
        const auto effect = candidates.add(SiteIndex(wanted[k]));
        const auto nearer = candidates.tally(effect);
        if (!effect.attachment)
            console.note(fmt::format("site {} would serve nobody: no road that this traveller may use is near it",
                                     site.planned.site.id));
        text +=
            fmt::format("{},{},{},{}", files::csv_cell(site.planned.site.id), files::csv_cell(site.planned.site.name),
                        nearer.places, plain_number(nearer.weight.value()));
        if (standard) {
            const auto verdict = candidates.judge(effect, *standard);
            text += fmt::format(",{},{},{:.4f},{}", verdict.inside.places, plain_number(verdict.inside.weight.value()),
                                verdict.share.percent(), verdict.met ? "yes" : "no");
            if (!best || verdict.share > best->first) best = {verdict.share, wanted[k]};
        }
        text += files::kCsvEnd;
    }
    files::write_text(out, text);
    console.note("");
    if (best) {
        const auto today = judge(*base, *standard);
        fmt::print("{} candidates; without any {} within {}, with {} {}\n", wanted.size(), describe(today.share),
                   describe(standard->limit), service::label(base->sites[best->second].planned.site),
                   describe(best->first));
    } else {
        fmt::print("{} candidates\n", wanted.size());
    }
    return kDone;
}

}  // namespace

std::unique_ptr<Command> candidates_command() { return std::make_unique<CandidatesOf>(); }

}  // namespace otoro::batch
