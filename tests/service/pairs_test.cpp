/// A table of pairs decides who serves, and what more room and detours come to.
#include <catch2/catch.hpp>
#include <random>

#include "service/detours.h"
#include "service/more_room.h"
#include "service/reassign.h"
#include "service/study.h"
#include "support/asking.h"

using namespace otoro;
using service::ByPairs;
using service::Status;
using test::Town;

namespace {

std::shared_ptr<places::PairValues> table(const std::vector<std::tuple<const char*, const char*, double>>& rows) {
    auto out = std::make_shared<places::PairValues>();
    out->name = "visits";
    out->demand = places::TextColumn("who");
    out->sites = places::TextColumn("where");
    for (const auto& [demand, site, value] : rows) {
        out->demand.push_back(demand);
        out->sites.push_back(site);
        out->values.push_back(Weight::of(value));
    }
    return out;
}

/// Clinics at 0, 500 and 1000 m along one road, ten metres a second; people along it.
struct Street {
    Town town = Town().draw({{0, 0}, {1000, 0}});
    std::shared_ptr<places::DemandSet> people = std::make_shared<places::DemandSet>();
    std::shared_ptr<places::SiteSet> clinics = std::make_shared<places::SiteSet>();
    service::Question question = test::question_at_36();

    explicit Street(const std::vector<double>& at) {
        for (const double x : at)
            people->places.push_back({"p" + std::to_string(people->places.size()), test::place({x, 0}), Weight::one()});
        for (const double x : {0.0, 500.0, 1000.0})
            clinics->sites.push_back({"c" + std::to_string(clinics->sites.size()), "", test::place({x, 0}),
                                      places::SiteState::open, std::nullopt});
    }
    std::vector<std::string> asked(const std::shared_ptr<places::PairValues>& pairs, const ByPairs& rule,
                                   const service::Plan& plan = {}) {
        question.serving = rule;
        const auto ready = prepare({town.network(), people, clinics, nullptr, pairs}, question, nullptr, Task());
        const auto o = answer(*ready, plan, Task());
        std::vector<std::string> out;
        for (std::uint32_t i = 0; i < o.places.size(); ++i) {
            const auto& p = o.places[i];
            out.push_back(p.served() ? o.sites[p.site->value()].planned.site.id : std::string(name(p.status)));
            // What is read out and drawn is the same answer.
            CHECK(read_place(*ready, o, DemandIndex(i)).outcome == p);
        }
        return out;
    }
};

using Ids = std::vector<std::string>;

}  // namespace

TEST_CASE("The site with the largest value serves, however near another is, and nearness breaks ties") {
    Street s({100, 100, 700, 900});
    const auto visits = table({{"p0", "c0", 1},
                               {"p0", "c2", 5},
                               {"p1", "c2", 3},
                               {"p1", "c1", 3},
                               {"p2", "c0", 0},
                               {"nobody", "c1", 9},
                               {"p3", "gone", 9}});
    CHECK(s.asked(visits, {}) == Ids{"c2", "c1", "c0", "not_recorded"});
    CHECK(s.asked(visits, {routing::Measure::time, true}) == Ids{"c0", "c1", "c0", "not_recorded"});
    // A site that a plan closes is none; who has no other is told so.
    service::Plan plan;
    plan.changes.push_back({service::Change::close, "c2", {}});
    CHECK(s.asked(visits, {}, plan) == Ids{"c0", "c1", "c0", "not_recorded"});
    // Who has no value goes to the nearest, if that is asked for.
    const ByPairs else_nearest{routing::Measure::time, false, Share::percent(100), true};
    CHECK(s.asked(visits, else_nearest) == Ids{"c2", "c1", "c0", "c2"});
    CHECK(s.asked(table({{"p1", "gone", 4}, {"p2", "c0", 2}}), else_nearest, plan) == Ids{"c0", "c0", "c0", "c1"});
    CHECK(describe(service::Serving(else_nearest)) == "one with the largest value, else the nearest by time,");
    // The limit judges, it does not choose.
    s.question.limit = Millimetres::metres(500);
    CHECK(s.asked(visits, {}) == Ids{"beyond_limit", "c1", "beyond_limit", "not_recorded"});
}

TEST_CASE("A blend weighs the value against nearness by stated parts") {
    Street s({100, 400});
    // p0: c0 is 10 s away, c1 40 s. By value c1 counts 1 and c0 0.8; by nearness c0 counts 1 and c1 0.25.
    const auto visits = table({{"p0", "c0", 8}, {"p0", "c1", 10}, {"p1", "c2", 4}});
    const auto with = [&](double percent) {
        return s.asked(visits, {routing::Measure::time, false, Share::percent(percent)});
    };
    CHECK(with(100) == Ids{"c1", "c2"});
    CHECK(with(80) == Ids{"c1", "c2"});  // 0.8 + 0.05 against 0.64 + 0.2
    CHECK(with(78) == Ids{"c0", "c2"});  // 0.78 + 0.055 against 0.624 + 0.22
    CHECK(with(0) == Ids{"c0", "c2"});   // a pair without a value never comes first, however near
    CHECK(describe(service::Serving(ByPairs{routing::Measure::time, false, Share::percent(78)})) ==
          "best by 78 % largest value and the rest nearness by time");
}

TEST_CASE("Pairs choose as going through them one by one does, on random tables") {
    std::mt19937 dice(5);
    for (int round = 0; round < 60; ++round) {
        INFO("round " << round);
        std::vector<double> at;
        for (int i = 0; i < 25; ++i) at.push_back(dice() % 1000);
        Street s(at);
        auto pairs = std::make_shared<places::PairValues>();
        std::map<std::pair<int, int>, std::int64_t> value;
        for (int p = 0; p < 25; ++p)
            for (int c = 0; c < 3; ++c)
                if (dice() % 3 != 0) {
                    value[{p, c}] = dice() % 4;
                    pairs->demand.push_back("p" + std::to_string(p));
                    pairs->sites.push_back("c" + std::to_string(c));
                    pairs->values.push_back(Weight::of(static_cast<double>(value[{p, c}])));
                }
        if (pairs->values.empty()) continue;
        const bool smallest = dice() % 2 == 0;
        const auto got = s.asked(pairs, {routing::Measure::distance, smallest});
        const auto else_nearest = s.asked(pairs, {routing::Measure::distance, smallest, Share::percent(100), true});
        for (int p = 0; p < 25; ++p) {
            int best = -1;
            for (int c = 0; c < 3; ++c) {
                if (!value.count({p, c})) continue;
                const auto away = [&](int k) { return std::abs(at[static_cast<std::size_t>(p)] - 500.0 * k); };
                const auto v = value[{p, c}], b = best < 0 ? 0 : value[{p, best}];
                if (best < 0 || (smallest ? v < b : v > b) || (v == b && away(c) < away(best))) best = c;
            }
            REQUIRE(got[static_cast<std::size_t>(p)] == (best < 0 ? "not_recorded" : "c" + std::to_string(best)));
            const std::string nearest =
                "c" + std::to_string((static_cast<int>(at[static_cast<std::size_t>(p)]) + 249) / 500);
            REQUIRE(else_nearest[static_cast<std::size_t>(p)] == (best < 0 ? nearest : "c" + std::to_string(best)));
        }
    }
}

TEST_CASE("Ten places more are worth most where most would move nearer") {
    // Three at the first clinic and two at the second; the first has two places, the second three.
    Street s({10, 20, 30, 480, 490});
    s.clinics->sites.resize(2);
    s.clinics->sites[0].capacity = Weight::of(2);
    s.clinics->sites[1].capacity = Weight::of(3);
    s.question.serving = service::AsCapacityAllows{routing::Measure::distance};
    const auto a = test::ask(s.town, s.people, s.clinics, s.question);
    const auto worth = worth_of_more_room(*a.ready, a.outcome, Weight::of(10), Task());
    REQUIRE(worth.size() == 2);
    CHECK(worth[0].site == SiteIndex(0U));
    // The one at 30 m goes to the first instead of the second: 470 m less 30.
    CHECK(static_cast<double>(worth[0].saved) / 1e6 == Approx(440'000).margin(3));
    CHECK(worth[0].find_room == Weight());
    CHECK(worth[1].saved == 0);
    // Where room is short, finding any comes first.
    s.clinics->sites[1].capacity = Weight::of(2);
    const auto short_of = test::ask(s.town, s.people, s.clinics, s.question);
    const auto more = worth_of_more_room(*short_of.ready, short_of.outcome, Weight::of(1), Task());
    REQUIRE(more.size() == 2);
    CHECK(more[0].find_room == Weight::one());
    CHECK(more[1].find_room == Weight::one());
    CHECK(more[0].saved >= more[1].saved);
}

TEST_CASE("Detours are counted by how many times as far, and the worst told by what they are longer") {
    // A loop: its far end is 400 m from the clinic by air and 1600 m by road.
    Town town = Town().draw({{0, 0}, {0, 600}, {400, 600}, {400, 0}});
    auto people = test::households({{{0, 300}, 1}, {{400, 0}, 3}, {{0, 0}, 5}});
    const auto a = test::ask(town, people, test::posts({{0, 0}}), test::question_at_36());
    const auto d = service::detours_of(*a.ready, a.outcome, 1);
    CHECK(d.steps[0].places == 1);      // straight up the road
    CHECK(d.steps.back().places == 1);  // four times as far
    CHECK(d.steps.back().weight == Weight::of(3));
    CHECK(d.times() == Approx((300 + 3 * 1600.0) / (300 + 3 * 400.0)).margin(0.02));
    REQUIRE(d.worst.size() == 1);
    CHECK(d.worst[0].place == DemandIndex(1U));
    CHECK(d.worst[0].times() == Approx(4).margin(0.02));
}

TEST_CASE("Who is reassigned becomes demand with a record of its own, beside what there is") {
    Street s({100, 400, 900});
    s.people->name = "people";
    s.people->recorded = places::TextColumn("clinic");
    for (const char* id : {"c2", "c1", ""}) s.people->recorded.push_back(id);
    s.clinics->name = "clinics";
    auto study = test::study_of(s.town, s.people, s.clinics);
    study.question().demand = {"people"};
    study.question().sites = {"clinics"};
    study.question().serving = service::AsRecorded{};
    study.question().name = "Today";
    const auto ready = prepare(*study.inputs(), study.question(), nullptr, Task());
    const auto o = answer(*ready, {}, Task());
    const auto moved = reassign(*ready, o, {});
    CHECK(who_moves(*ready, o, moved) == std::vector<std::uint32_t>{0, 2});
    REQUIRE(moved.flows.size() == 2);
    CHECK(places_of(*ready, o, moved, moved.flows[0]) == std::vector<std::uint32_t>{0});
    const auto after = with_reassigned(study, *ready, o, moved);
    REQUIRE(after.demand.size() == 2);
    CHECK(after.question().name == "Today, reassigned");
    CHECK(after.question().demand == std::vector<std::string>{"people, reassigned"});
    const auto& record = after.demand[1].set->recorded;
    CHECK((record.at(0) == "c0" && record.at(1) == "c1" && record.at(2) == "c2"));
    CHECK(after.demand[0].set == s.people);
    const auto again = prepare(*after.inputs(), after.question(), nullptr, Task());
    CHECK(displaced(answer(*again, {}, Task())).tally.places == 0);
}

TEST_CASE("Of a split place each part goes its own way round, and what finds no room counts for no detour") {
    Street s({10});
    s.people->places[0].weight = Weight::of(10);
    s.clinics->sites.resize(2);
    s.clinics->sites[0].capacity = Weight::of(4);
    s.clinics->sites[1].capacity = Weight::of(3);
    service::AsCapacityAllows rule{routing::Measure::distance};
    rule.split = true;
    s.question.serving = rule;
    const auto a = test::ask(s.town, s.people, s.clinics, s.question);
    CHECK(a.outcome.capacity->no_room == Weight::of(3));
    const auto d = service::detours_of(*a.ready, a.outcome, 5);
    CHECK(d.steps[0].weight == Weight::of(7));
    CHECK(d.steps[0].places == 1);
    CHECK(static_cast<double>(d.straight) / 1e6 == Approx(4 * 10'000 + 3 * 490'000).epsilon(1e-3));
    CHECK(d.worst.size() == 2);
}

TEST_CASE("A site with room for any place is not tried with more") {
    Street s({10, 20, 480});
    s.clinics->sites.resize(2);
    s.clinics->sites[0].capacity = Weight::of(2);
    s.clinics->sites[1].capacity = Weight::of(5);
    s.question.serving = service::AsCapacityAllows{routing::Measure::distance};
    const auto a = test::ask(s.town, s.people, s.clinics, s.question);
    const auto worth = worth_of_more_room(*a.ready, a.outcome, Weight::one(), Task());
    REQUIRE(worth.size() == 1);
    CHECK(worth[0].site == SiteIndex(0U));
    CHECK(worth[0].saved == 0);
}
