// Whether some fare worse than others, access where supply meets demand, and candidates ranked alone.
#include "service/fairness.h"

#include <catch2/catch.hpp>
#include <random>

#include "service/candidate.h"
#include "service/floating_catchment.h"
#include "service/ranking.h"
#include "support/asking.h"

using namespace otoro;
using namespace otoro::service;
using test::At;
using test::Town;

namespace {

Curve curve_of(const std::vector<std::pair<std::int64_t, double>>& parts) {
    Curve curve;
    Weight sum;
    for (const auto& [cost, weight] : parts) {
        sum += Weight::of(weight);
        curve.push_back({cost, sum, 0});
    }
    return curve;
}

Town grid_town(std::mt19937& random) {
    Town town;
    for (int x = 0; x < 5; ++x)
        for (int y = 0; y < 5; ++y) {
            if (x < 4 && random() % 7 != 0) town.draw({{100.0 * x, 100.0 * y}, {100.0 * x + 100, 100.0 * y}});
            if (y < 4 && random() % 7 != 0) town.draw({{100.0 * x, 100.0 * y}, {100.0 * x, 100.0 * y + 100}});
        }
    return town;
}

}  // namespace

TEST_CASE("All alike are even, and one who travels for all is not") {
    const auto even = *fairness(curve_of({{500, 7}}));
    CHECK(even.gini == Approx(0).margin(1e-12));
    CHECK(even.worst_tenth == Approx(500));
    CHECK(even.worst_from == 500);
    // Nine at home and one who travels: that one has all travel.
    const auto one = *fairness(curve_of({{0, 9}, {1000, 1}}));
    CHECK(one.gini == Approx(0.9));
    CHECK(one.worst_tenth == Approx(1000));
    CHECK(one.best_tenth == Approx(0));
    CHECK(one.worst_from == 1000);
    REQUIRE(one.lorenz.size() == 3);
    CHECK((one.lorenz[1].weight == Approx(0.9) && one.lorenz[1].travel == Approx(0)));
    // By hand: 1, 2, 3, 4 are 0.25 by the mean difference over twice the mean.
    CHECK(fairness(curve_of({{1, 1}, {2, 1}, {3, 1}, {4, 1}}))->gini == Approx(0.25));
    // A tenth of twenty is two: the farthest, and one of the three before.
    const auto part = *fairness(curve_of({{10, 16}, {20, 3}, {50, 1}}));
    CHECK(part.worst_tenth == Approx(35));
    CHECK(part.worst_from == 20);
    CHECK(!fairness({}));
    CHECK(fairness(curve_of({{0, 3}}))->gini == 0);
}

TEST_CASE("Gini is the mean difference of any two over twice the mean, and the rows add up") {
    std::mt19937 random(41);
    for (int round = 0; round < 15; ++round) {
        std::vector<std::pair<At, double>> homes;
        for (int i = 0; i < 40; ++i)
            homes.push_back({{double(random() % 400), 100.0 * double(random() % 5)}, 1.0 + double(random() % 4)});
        homes.push_back({{0, 9000}, 2});
        auto demand = std::make_shared<places::DemandSet>(*test::households(homes));
        for (std::size_t i = 0; i < homes.size(); ++i) demand->group.push_back(i % 3 == 0 ? "old" : "young");
        Question q = test::question_at_36();
        q.standard = Standard{Share::percent(90), Millis(15'000), {}};
        const auto a = test::ask(grid_town(random), demand, test::posts({{0, 0}, {400, 300}}), q);
        const auto fair = how_fair(*a.ready, a.outcome, q.standard, Task());
        REQUIRE(fair.all);
        double differences = 0, travel = 0, weight = 0;
        const auto& o = a.outcome;
        for (std::size_t i = 0; i < o.places.size(); ++i) {
            if (!o.places[i].served()) continue;
            const double wi = o.weights[i].value(), ci = double(o.places[i].time.count());
            travel += wi * ci;
            weight += wi;
            for (std::size_t k = 0; k < o.places.size(); ++k)
                if (o.places[k].served())
                    differences += wi * o.weights[k].value() * std::abs(ci - double(o.places[k].time.count()));
        }
        CHECK(fair.all->gini == Approx(differences / (2 * weight * travel)));
        CHECK(fair.all->mean == Approx(travel / weight));
        CHECK(fair.all->lorenz.back() == LorenzPoint{1, 1});
        REQUIRE(fair.groups.size() == 2);
        CHECK(fair.groups[0].not_inside >= fair.groups[1].not_inside);
        Weight not_inside, in_worst, worst;
        for (const auto& row : fair.groups) {
            not_inside += row.not_inside;
            in_worst += row.in_worst;
        }
        for (const std::uint32_t i : fair.worst_places) worst += o.weights[i];
        CHECK(not_inside == o.all.weight - judge(o, *q.standard).inside.weight);
        CHECK(in_worst == worst);
        CHECK(worst.value() >= weight / 10);
    }
}

TEST_CASE("Places are shared among those near, and everybody sums up what is near") {
    // Two sites with 10 and 20 places on a street; three homes near the first, two of them near the second too.
    Town town;
    town.draw({{0, 0}, {1000, 0}});
    auto sites = std::make_shared<places::SiteSet>(*test::posts({{0, 0}, {600, 0}}));
    sites->sites[0].capacity = Weight::of(10);
    sites->sites[1].capacity = Weight::of(20);
    auto q = test::question_at_36();
    auto a = test::ask(town, test::households({{{100, 0}, 1}, {{300, 0}, 2}, {{300, 0}, 2}, {{1000, 0}, 5}}), sites, q);
    auto f = floating_catchment(*a.ready, a.outcome, Millis(31'000), Task());
    CHECK(f.by_capacity);
    CHECK(f.sites[0].demand == Weight::of(5));
    CHECK(f.sites[0].a_head == Approx(2));
    CHECK(f.sites[1].a_head == Approx(5));  // twenty for four
    CHECK(f.access[0] == Approx(2));
    CHECK(f.access[1] == Approx(7));
    CHECK(f.access[3] == 0);
    CHECK(f.none.weight == Weight::of(5));
    CHECK(f.mean == Approx(3));  // thirty places for ten
    sites->sites[1].capacity.reset();
    a = test::ask(town, test::households({{{100, 0}, 1}}), sites, q);
    f = floating_catchment(*a.ready, a.outcome, Millis(31'000), Task());
    CHECK((!f.by_capacity && f.access[0] == Approx(1)));
    CHECK_THROWS_WITH(floating_catchment(*a.ready, a.outcome, Millimetres::metres(5), Task()),
                      Catch::Contains("the question goes by the other"));
}

TEST_CASE("Access by floating catchments is what pairs give, and adds up to the places there are") {
    std::mt19937 random(43);
    for (int round = 0; round < 15; ++round) {
        std::vector<std::pair<At, double>> homes;
        for (int i = 0; i < 30; ++i)
            homes.push_back({{double(random() % 400), 100.0 * double(random() % 5)}, double(random() % 4)});
        std::vector<At> spots;
        for (int i = 0; i < 70; ++i) spots.push_back({double(random() % 400), 100.0 * double(random() % 5)});
        auto sites = std::make_shared<places::SiteSet>(*test::posts(spots));
        for (auto& s : sites->sites) s.capacity = Weight::of(1.0 + double(random() % 9));
        sites->sites[3].state = places::SiteState::closed;
        auto q = test::question_at_36();
        q.limit = Millis(5'000);  // whoever is served by it or not
        const auto a = test::ask(grid_town(random), test::households(homes), sites, q);
        const Millis within(12'000);
        const auto f = floating_catchment(*a.ready, a.outcome, within, Task());
        std::vector<std::vector<bool>> near(homes.size(), std::vector<bool>(spots.size(), false));
        for (std::uint32_t i = 0; i < homes.size(); ++i)
            for (std::uint32_t s = 0; s < spots.size(); ++s) {
                if (s == 3) continue;
                const auto r = read_journey(*a.ready, a.outcome, DemandIndex(i), SiteIndex(s));
                near[i][s] = r.outcome.site && r.outcome.time <= within;
            }
        double places = 0;
        std::vector<double> a_head(spots.size(), 0);
        for (std::uint32_t s = 0; s < spots.size(); ++s) {
            double demand = 0;
            for (std::uint32_t i = 0; i < homes.size(); ++i) demand += near[i][s] ? homes[i].second : 0;
            if (demand > 0) a_head[s] = sites->sites[s].capacity->value() / demand;
            if (demand > 0) places += sites->sites[s].capacity->value();
        }
        double sum = 0;
        for (std::uint32_t i = 0; i < homes.size(); ++i) {
            double access = 0;
            for (std::uint32_t s = 0; s < spots.size(); ++s) access += near[i][s] ? a_head[s] : 0;
            REQUIRE(f.access[i] == Approx(access).margin(1e-12));
            sum += f.access[i] * homes[i].second;
        }
        CHECK(sum == Approx(places));
    }
}

TEST_CASE("Each candidate is ranked by what opening it alone does") {
    std::mt19937 random(47);
    int taken_from_others = 0;
    for (int round = 0; round < 30; ++round) {
        const bool own = round % 5 == 3, capacities = round % 5 == 4, several = round % 5 == 2;
        std::vector<std::pair<At, double>> homes;
        for (int i = 0; i < 30; ++i)
            homes.push_back({{double(random() % 400), 100.0 * double(random() % 5)}, 1.0 + double(random() % 4)});
        std::vector<At> spots;
        for (int i = 0; i < 7; ++i) spots.push_back({double(random() % 400), 100.0 * double(random() % 5)});
        auto sites = std::make_shared<places::SiteSet>(*test::posts(spots));
        for (std::size_t i = 1; i < 7; ++i) {
            sites->sites[i].state = places::SiteState::candidate;
            if (i != 4) sites->sites[i].cost = Weight::of(1.0 + double(random() % 5));
        }
        for (auto& site : sites->sites) {
            if (own && random() % 4 != 0) site.limit = Millis(5'000 + std::int64_t(random() % 20'000));
            if (capacities) site.capacity = Weight::of(double(10 + random() % 30));
        }
        Question q = test::question_at_36();
        if (round % 3 != 0) q.standard = Standard{Share::percent(90), Millis(15'000), {}};
        if (q.standard && several) q.standard->further.push_back(parse_steps("50% within 30s by 2").front());
        if (round % 2 != 0) q.limit = Millis(40'000);
        q.own_limits = own;
        if (capacities) q.serving = AsCapacityAllows{};
        const auto a = test::ask(grid_town(random), test::households(homes), sites, q);
        const auto base = std::make_shared<const Outcome>(a.outcome);
        auto ranked = rank_candidates(a.ready, base, parse_weights("newly_within=2,mean,cost=0.5"), Task());
        REQUIRE(ranked.size() == 6);
        for (const auto& r : ranked) {
            const Outcome then = answer(*a.ready, plan_with(*base, r.site), Task());
            const auto& s = then.time_statistics;
            REQUIRE(r.mean.has_value() == s.has_value());
            if (s) CHECK(*r.mean == Approx(s->mean));
            if (s) CHECK(*r.worst == s->worst);
            CHECK(r.served.weight == then.sites[r.site.value()].load);
            const auto before =
                q.standard ? judge(*base, *q.standard).inside.weight : base->tally(Status::served).weight;
            const auto after = q.standard ? judge(then, *q.standard).inside.weight : then.tally(Status::served).weight;
            CHECK(r.newly_within.weight == after - before);
            REQUIRE(r.verdict.has_value() == q.standard.has_value());
            if (q.standard) CHECK(r.verdict->judged() == judge(then, *q.standard).judged());
            if (q.standard && several) CHECK(r.verdict->steps.back().known);
            taken_from_others += (own || capacities) && r.served.weight > after - before;
        }
        CHECK(std::is_sorted(ranked.begin(), ranked.end(),
                             [](const auto& x, const auto& y) { return x.score > y.score; }));
        CHECK((ranked.front().score <= 1 && ranked.back().score >= 0));
        rank_anew(ranked, parse_weights("cost"));
        const auto unknown =
            std::find_if(ranked.begin(), ranked.end(), [](const auto& r) { return r.site == SiteIndex(4U); });
        CHECK(unknown->score == 0);  // nobody knows what it costs
        CHECK(ranked.front().score == 1);
    }
    CHECK(taken_from_others > 5);
    CHECK_THROWS_WITH(parse_weights("cover=3"), Catch::Contains("names no criterion"));
    CHECK_THROWS_WITH(parse_weights("cost=-1"), Catch::Contains("no number from 0 on"));
    CHECK_THROWS_WITH(parse_weights("cost=0"), Catch::Contains("all are 0"));
}
