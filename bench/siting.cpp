#include "siting.h"

#include "geo/wording.h"
#include "measure.h"
#include "service/assign.h"
#include "service/best_set.h"
#include "service/candidate.h"
#include "service/compare.h"
#include "service/ranking.h"

namespace otoro::bench {
namespace {

using service::BestSet;
using service::Goal;

/// Candidates spread over the numbering of the nodes, every so many of them open.
std::shared_ptr<const places::SiteSet> candidates(const roads::Network& network, std::uint32_t count,
                                                  std::uint32_t open_every) {
    auto out = std::make_shared<places::SiteSet>();
    out->name = "sites";
    for (std::uint32_t i = 0; i < count; ++i) {
        const auto node =
            static_cast<std::uint32_t>((std::uint64_t{network.node_count()} * i + network.node_count() / 2) / count);
        const bool open = open_every > 0 && i % open_every == 0;
        out->sites.push_back({std::to_string(i), "", network.position(NodeId(node)),
                              open ? places::SiteState::open : places::SiteState::candidate, std::nullopt});
    }
    return out;
}

std::shared_ptr<const places::DemandSet> some_of(const places::DemandSet& demand, std::size_t count) {
    auto out = std::make_shared<places::DemandSet>();
    out->name = demand.name;
    for (std::size_t i = 0; i < count; ++i) out->places.push_back(demand.places[i * demand.places.size() / count]);
    return out;
}

std::shared_ptr<const service::Ready> prepared(const std::shared_ptr<const roads::Network>& network,
                                               const std::shared_ptr<const places::DemandSet>& demand,
                                               const std::shared_ptr<const places::SiteSet>& sites) {
    auto out = std::make_shared<service::Ready>(*service::prepare({network, demand, sites}, {}, nullptr, Task()));
    out->prepared = service::prepare_searches(*out, nullptr, nullptr, Task());
    return out;
}

/// One goal, the table of costs included, left off after a minute.
void goal_row(const std::string& what, const std::shared_ptr<const service::Ready>& ready,
              const service::BestSetAsked& asked, double gap, double at_most) {
    BestSet set;
    constexpr std::chrono::seconds kPatience{60};
    const double took = seconds([&] {
        const Task task = Task().leaving_off(Task::Clock::now() + kPatience);
        service::SetChooser chooser(ready, {}, task);
        set = chooser.best(asked, {gap}, task);
    });
    row(what, fmt::format("{:.2f} s", took), fmt::format("{:.0f} s", at_most), took / at_most, 1.0);
    fmt::print("{:<44} {:>12}   {}, {}\n", "", "", value_words(set, set.value, "residents"),
               set.proven() ? "proven" : fmt::format("within {:.3f} %", set.gap() * 100));
    std::fflush(stdout);
}

}  // namespace

void run_siting(const std::shared_ptr<const roads::Network>& network,
                const std::shared_ptr<const places::DemandSet>& demand) {
    constexpr std::uint32_t kCandidates = 500;
    const std::string all = said_whole(demand->count()) + " places, 500 candidates";
    const auto county = prepared(network, demand, candidates(*network, kCandidates, 0));
    service::BestSetAsked asked;
    asked.within = Millis::minutes(8);
    asked.choose = 10;
    goal_row("most cover of 10, " + all, county, asked, 0.001, 20);
    asked.choose = 30;
    goal_row("most cover of 30, " + all, county, asked, 0.001, 20);
    {
        asked.choose = 10;
        service::SetChooser chooser(county, {}, Task());
        (void)chooser.best(asked, {0.001, {}, false}, Task());  // the table of costs
        const double alone = seconds([&] { (void)chooser.best(asked, {0.001, {}, false}, Task()); });
        const double checked = seconds([&] { (void)chooser.best(asked, {0.001, {}, true}, Task()); });
        row("the same of 10, its proof checked apart", fmt::format("{:.2f} s", checked), fmt::format("{:.2f} s", alone),
            checked / alone, 2);
    }
    const auto part = prepared(network, some_of(*demand, 100'000), candidates(*network, kCandidates, 0));
    asked.choose = 10;
    asked.goal = Goal::travel;
    goal_row("least travel of 10, 100,000 places", part, asked, 0.001, 60);
    asked.goal = Goal::worst;
    goal_row("least worst of 10, 100,000 places", part, asked, 0, 60);
    asked.goal = Goal::fewest;
    asked.within = Millis::minutes(15);
    goal_row("fewest within 15 min, 100,000 places", part, asked, 0, 60);

    // One in ten open: each of the others alone.
    const auto open = prepared(network, demand, candidates(*network, kCandidates, 10));
    const auto base = std::make_shared<const service::Outcome>(service::answer(*open, {}, Task()));
    const service::Standard standard{Share::percent(90), Millis::minutes(8)};
    auto judged = std::make_shared<service::Outcome>(*base);
    judged->question.standard = standard;
    const std::shared_ptr<const service::Outcome> with_standard = judged;
    const double ranking = seconds([&] {
        kept = kept + rank_candidates(open, with_standard, service::kCoverAlone, Task()).front().newly_within.places;
    });
    row("each of 450 candidates alone", fmt::format("{:.2f} s", ranking), "2 s", ranking / 2, 1.0);

    service::Study study;
    study = with_roads(std::move(study), {network->shared_lines(), {}, network, {}});
    study = with_demand(std::move(study), {demand, {}});
    study = with_sites(std::move(study), {open->inputs.sites.sets().front(), {}});
    study.question() = open->question;
    study.question().demand = {demand->name};
    study.question().sites = {"sites"};
    study.question().standard = standard;
    for (const char* name : {"second", "third"})
        study = with_question(std::move(study), [&] {
            service::Question q = study.questions.front();
            q.name = name;
            return q;
        }());
    for (std::uint32_t p = 1; p < 10; ++p)
        study.plans.push_back(
            {"plan " + std::to_string(p), {{service::Change::open, std::to_string(10 * p + 1), {}}}, {}, {}});
    const std::vector<std::shared_ptr<const service::Ready>> readies(3, open);
    const double table = seconds([&] { kept = kept + figures_of_all(study, readies, Task()).of.size(); });
    row("10 plans under 3 questions", fmt::format("{:.2f} s", table), "5 s", table / 5, 1.0);
}

}  // namespace otoro::bench
