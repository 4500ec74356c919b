#include "service/outcome.h"

#include <catch2/catch.hpp>

#include "service/check.h"
#include "service/sentence.h"
#include "support/asking.h"

using namespace otoro;
using service::Standard;
using test::ask;
using test::households;
using test::posts;
using test::question_at_36;
using test::Town;

namespace {
/// Households 100, 200, 300 and 600 m from the post, and one that is lost: 1, 1, 2, 4 and 2 residents.
test::Answered street() {
    auto demand =
        std::make_shared<places::DemandSet>(*households({{{100, 0}, 1}, {{200, 0}, 1}, {{300, 0}, 2}, {{600, 0}, 4}}));
    demand->places.push_back({"lost", std::nullopt, Weight::of(2)});
    return ask(Town().draw({{0, 0}, {1000, 0}}), demand, posts({{0, 0}}), question_at_36());
}
}  // namespace

TEST_CASE("The share is of the whole weight, also of those who are not served") {
    const auto a = street();
    const auto v = judge(a.outcome, Standard{Share::percent(40), Millis(30'000)});  // 30 s: 300 m
    CHECK(v.inside.places == 3);
    CHECK(v.inside.weight == Weight::of(4));
    CHECK(v.share == Share::percent(40));
    CHECK(v.share_of_places == Share::percent(60));
    CHECK(v.met);
    CHECK_FALSE(judge(a.outcome, Standard{Share(400'001), Millis(30'000)}).met);
}

TEST_CASE("A standard may be in kilometres though routes are chosen by time") {
    const auto v = judge(street().outcome, Standard{Share::percent(90), Millimetres::metres(250)});
    CHECK(v.inside.places == 2);
    CHECK_FALSE(v.met);
}

TEST_CASE("Verdict, curve and the test for one place never disagree") {
    const auto a = street();
    for (std::int64_t ms = 0; ms < 70'000; ms += 500) {
        Weight sum;
        for (std::size_t i = 0; i < a.outcome.places.size(); ++i)
            if (is_within(a.place(i), Millis(ms))) sum += a.outcome.weights[i];
        REQUIRE(within(a.outcome, Millis(ms)).weight == sum);
        REQUIRE(judge(a.outcome, Standard{Share::percent(90), Millis(ms)}).inside.weight == sum);
    }
}

TEST_CASE("Percentiles are weighted, by nearest rank, over those served") {
    const auto s = statistics(street().outcome, routing::Measure::distance);
    REQUIRE(s);
    // Weights 1, 1, 2, 4 at 100, 200, 300, 600 m.
    CHECK(s->mean / 1000 == Approx((100 + 200 + 600 + 2400) / 8.0).margin(0.01));
    CHECK(s->median / 1000.0 == Approx(300).margin(0.01));
    CHECK(s->p90 / 1000.0 == Approx(600).margin(0.01));
    CHECK(s->worst / 1000.0 == Approx(600).margin(0.01));
}

TEST_CASE("Where nobody is served there are no statistics, and no share") {
    const auto a = ask(Town().draw({{0, 0}, {10, 0}}), households({{{0, 900}, 3}}), posts({{0, 0}}), question_at_36());
    CHECK_FALSE(statistics(a.outcome, routing::Measure::time));
    CHECK(judge(a.outcome, Standard{}).share == Share(0));
}

TEST_CASE("Loads per site") {
    const auto a = ask(Town().draw({{0, 0}, {1000, 0}}), households({{{100, 0}, 1}, {{200, 0}, 2}, {{900, 0}, 4}}),
                       posts({{0, 0}, {1000, 0}}), question_at_36());
    CHECK(a.outcome.sites[0].load == Weight::of(3));
    CHECK(a.outcome.sites[0].places == 2);
    CHECK(a.outcome.sites[0].worst_time == Millis(20'000));
    CHECK(a.outcome.sites[1].load == Weight::of(4));
}

TEST_CASE("The question is one sentence") {
    auto q = question_at_36();
    q.standard = Standard{};
    q.limit = Millimetres::metres(2000);
    CHECK(service::sentence(q, "residents") ==
          "The households, counted by residents, are each served by the nearest by time of the open posts, "
          "driving at 36 km/h on all roads to the place, at most 2 km; "
          "90 % must be within 8 min.");
    q = {};
    q.demand = {"pupils"};
    q.sites = {"schools"};
    q.by_weight = false;
    q.towards = service::Towards::site;
    q.profile.mode = travel::Mode::walk;
    q.serving = service::Nearest{routing::Measure::distance};
    q.use = service::SiteUse::open_and_candidate;
    q.standard.reset();
    CHECK(service::sentence(q, "residents") ==
          "The pupils, each counted once, are each served by the nearest by distance of the open and candidate "
          "schools, walking to the site, however far; no standard is set.");
}

TEST_CASE("The check counts links, nodes, pieces and one-way roads, for a traveller or for all") {
    const auto net = Town()
                         .draw({{0, 0}, {100, 0}})
                         .draw({{100, 0}, {200, 0}}, test::one_way())
                         .draw({{200, 0}, {300, 0}}, test::road(roads::RoadClass::footway))
                         .draw({{900, 0}, {950, 0}})
                         .network();
    const auto all = service::check_roads(*net, std::nullopt, Task());
    CHECK(all.links == 4);
    CHECK(all.nodes == 6);
    CHECK(all.one_way_links == 1);
    REQUIRE(all.pieces.size() == 2);
    CHECK(all.pieces[0].links == 3);
    const auto drive = service::check_roads(*net, travel::Profile{}, Task());
    CHECK(drive.links == 3);
    CHECK(drive.left_out == 1);
    CHECK(drive.length.metres() == Approx(250).margin(0.01));
    const auto walk = service::check_roads(*net, travel::Profile{travel::Mode::walk, {}}, Task());
    CHECK(walk.one_way_links == 0);
}

TEST_CASE("The check says how places meet the roads") {
    const auto net = Town().draw({{0, 0}, {100, 0}}).draw({{100, 0}, {200, 0}}).draw({{900, 0}, {950, 0}}).network();
    auto demand = *households({{{50, 20}, 1}, {{920, 30}, 1}, {{50, 500}, 1}});
    demand.places.push_back({"lost", std::nullopt, Weight::one()});
    const auto r = service::check_places(*net, service::check_roads(*net, std::nullopt, Task()),
                                         places::positions(demand), places::kDefaultAttachLimit, Task());
    CHECK(r.attached == 2);
    CHECK(r.astray == std::vector<std::uint32_t>{1});
    CHECK(r.not_near == std::vector<std::uint32_t>{2});
    CHECK(r.bad_location == 1);
    CHECK(r.longest_off_road.metres() == Approx(30).margin(0.01));
}
