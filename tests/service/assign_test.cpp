#include "service/assign.h"

#include <tbb/global_control.h>

#include <catch2/catch.hpp>

#include "support/asking.h"

using namespace otoro;
using service::Status;
using service::Towards;
using test::ask;
using test::households;
using test::posts;
using test::question_at_36;
using test::Town;

TEST_CASE("A household is served by the post that is nearer along the road, not as the crow flies") {
    // The near post is across the river; its bridge is 500 m upstream.
    const Town town = Town()
                          .draw({{0, 0}, {500, 0}})
                          .draw({{500, 0}, {500, 100}})
                          .draw({{500, 100}, {0, 100}})
                          .draw({{0, 0}, {-400, 0}});
    const auto a = ask(town, households({{{0, 2}, 1}}), posts({{0, 98}, {-400, 2}}), question_at_36());
    CHECK(a.place(0).status == Status::served);
    CHECK(a.site_of(0) == "s1");
    CHECK(a.place(0).distance.metres() == Approx(400).margin(0.01));
    CHECK(a.place(0).time == Millis(40'000));
    CHECK(straight_line(a.outcome, a.ready->inputs.demand.at(0).position, a.place(0)).metres() ==
          Approx(400).margin(0.01));
}

TEST_CASE("Two places on one road are joined along it") {
    const auto a = ask(Town().draw({{0, 0}, {1000, 0}}), households({{{700, 5}, 1}, {{200, 5}, 1}}), posts({{300, 5}}),
                       question_at_36());
    CHECK(a.place(0).distance.metres() == Approx(400).margin(0.01));
    CHECK(a.place(1).distance.metres() == Approx(100).margin(0.01));
    CHECK(a.place(1).time == Millis(10'000));
}

TEST_CASE("On one one-way road the way round is taken where there is one, and refused where there is none") {
    const Town alone = Town().draw({{0, 0}, {1000, 0}}, test::one_way());
    const Town ring = Town()
                          .draw({{0, 0}, {1000, 0}}, test::one_way())
                          .draw({{1000, 0}, {1000, 300}, {0, 300}, {0, 0}}, test::one_way());
    const auto demand = households({{{700, 5}, 1}, {{200, 5}, 1}});
    const auto forward = ask(alone, demand, posts({{300, 5}}), question_at_36());
    CHECK(forward.place(0).distance.metres() == Approx(400).margin(0.01));
    CHECK(forward.place(1).status == Status::cut_off);
    const auto round = ask(ring, demand, posts({{300, 5}}), question_at_36());
    CHECK(round.place(1).distance.metres() == Approx(700 + 300 + 1000 + 300 + 200).margin(0.1));

    // The other way, a household upstream reaches the site and one downstream has to go round.
    auto q = question_at_36();
    q.towards = Towards::site;
    const auto to_school = ask(ring, demand, posts({{300, 5}}), q);
    CHECK(to_school.place(1).distance.metres() == Approx(100).margin(0.01));
    CHECK(to_school.place(0).distance.metres() == Approx(300 + 300 + 1000 + 300 + 300).margin(0.1));
}

TEST_CASE("Walkers pay no heed to one-way streets") {
    auto q = question_at_36();
    q.profile.mode = travel::Mode::walk;
    const auto a =
        ask(Town().draw({{0, 0}, {1000, 0}}, test::one_way()), households({{{200, 5}, 1}}), posts({{300, 5}}), q);
    CHECK(a.place(0).distance.metres() == Approx(100).margin(0.01));
}

TEST_CASE("Ties go to the site that is first in the file") {
    const Town town = Town().draw({{0, 0}, {100, 0}}).draw({{100, 0}, {200, 0}});
    // Equal but for the order of the sites; the household stands on the joint.
    const auto a = ask(town, households({{{100, 0}, 1}}), posts({{200, 0}, {0, 0}}), question_at_36());
    const auto b = ask(town, households({{{100, 0}, 1}}), posts({{0, 0}, {200, 0}}), question_at_36());
    CHECK(a.place(0).time == b.place(0).time);
    CHECK(a.place(0).site == SiteIndex(0u));
    CHECK(b.place(0).site == SiteIndex(0u));
}

TEST_CASE("Two sites at one spot: the first serves") {
    const auto a = ask(Town().draw({{0, 0}, {500, 0}}), households({{{400, 0}, 1}, {{90, 0}, 1}}),
                       posts({{100, 0}, {100, 0}}), question_at_36());
    CHECK(a.site_of(0) == "s0");
    CHECK(a.site_of(1) == "s0");
}

TEST_CASE("Nearest by time may be farther by distance, and the other measure is carried along the same route") {
    const Town town = Town()
                          .draw({{0, 0}, {100, 0}}, test::road(roads::RoadClass::living_street))
                          .draw({{0, 0}, {0, -400}}, test::road(roads::RoadClass::primary));
    auto q = question_at_36();
    q.profile.one_speed.reset();
    const auto sites = posts({{100, 0}, {0, -400}});
    const auto by_time = ask(town, households({{{0, 0}, 1}}), sites, q);
    CHECK(by_time.site_of(0) == "s1");
    CHECK(by_time.place(0).distance.metres() == Approx(400).margin(0.01));
    CHECK(by_time.place(0).time.minutes() == Approx(0.4 / 65 * 60).margin(0.0001));
    q.serving = service::Nearest{routing::Measure::distance};
    const auto by_distance = ask(town, households({{{0, 0}, 1}}), sites, q);
    CHECK(by_distance.site_of(0) == "s0");
    CHECK(by_distance.place(0).time.minutes() == Approx(0.1 / 10 * 60).margin(0.0001));
}

TEST_CASE("Every place gets exactly one status, and none is dropped") {
    auto demand = std::make_shared<places::DemandSet>(
        *households({{{100, 5}, 2}, {{900, 5}, 3}, {{100, 400}, 5}, {{5050, 5}, 7}}));
    demand->places.push_back({"lost", std::nullopt, Weight::of(11)});
    const Town town = Town().draw({{0, 0}, {1000, 0}}).draw({{5000, 0}, {5100, 0}});
    auto q = question_at_36();
    q.limit = Millimetres::metres(500);
    const auto a = ask(town, demand, posts({{0, 0}}), q);
    CHECK(a.place(0).status == Status::served);
    CHECK(a.place(1).status == Status::beyond_limit);
    CHECK(a.place(2).status == Status::no_road_near);
    CHECK(a.place(3).status == Status::cut_off);
    CHECK(a.place(4).status == Status::bad_location);
    CHECK(a.outcome.all.places == 5);
    CHECK(a.outcome.all.weight == Weight::of(28));
    Weight sum;
    for (const auto s : service::kAllStatuses) sum += a.outcome.tally(s).weight;
    CHECK(sum == a.outcome.all.weight);
    CHECK(reason(a.outcome, DemandIndex(1u)) ==
          "The nearest site, s0, is 1.50 min and 0.90 km away; the limit is 500 m.");
    CHECK(reason(a.outcome, DemandIndex(2u)) == "No road that this traveller may use is within 250 m.");
}

TEST_CASE("A place exactly at the limit is inside it") {
    const auto demand = households({{{500, 0}, 1}});
    auto q = question_at_36();
    const auto exact = ask(Town().draw({{0, 0}, {1000, 0}}), demand, posts({{0, 0}}), q).place(0).distance;
    q.limit = exact;
    CHECK(ask(Town().draw({{0, 0}, {1000, 0}}), demand, posts({{0, 0}}), q).place(0).status == Status::served);
    q.limit = exact - Millimetres(1);
    CHECK(ask(Town().draw({{0, 0}, {1000, 0}}), demand, posts({{0, 0}}), q).place(0).status == Status::beyond_limit);
}

TEST_CASE("Without any site in use everybody by a road is cut off") {
    auto sites = std::make_shared<places::SiteSet>(*posts({{0, 0}}));
    sites->sites[0].state = places::SiteState::candidate;
    const auto a = ask(Town().draw({{0, 0}, {1000, 0}}), households({{{500, 0}, 1}}), sites, question_at_36());
    CHECK(a.place(0).status == Status::cut_off);
    auto q = question_at_36();
    q.use = service::SiteUse::open_and_candidate;
    CHECK(ask(Town().draw({{0, 0}, {1000, 0}}), households({{{500, 0}, 1}}), sites, q).place(0).status ==
          Status::served);
}

TEST_CASE("A site far from any road serves nobody and is not lost") {
    const auto a = ask(Town().draw({{0, 0}, {1000, 0}}), households({{{500, 0}, 4}}), posts({{0, 900}, {900, 0}}),
                       question_at_36());
    REQUIRE(a.outcome.sites.size() == 2);
    CHECK_FALSE(a.outcome.sites[0].attachment);
    CHECK(a.outcome.sites[0].places == 0);
    CHECK(a.outcome.sites[1].load == Weight::of(4));
}

TEST_CASE("Parts of a road add up to the whole road") {
    // A household in the middle of a road costs as much to reach from one end as the whole less the other part.
    Town town;
    town.draw({{0, 0}, {333, 0}});
    const auto a = ask(town, households({{{111.1, 0}, 1}}), posts({{0, 0}}), question_at_36());
    const auto b = ask(town, households({{{111.1, 0}, 1}}), posts({{333, 0}}), question_at_36());
    const auto whole = ask(town, households({{{333, 0}, 1}}), posts({{0, 0}}), question_at_36());
    CHECK(a.place(0).time + b.place(0).time == whole.place(0).time);
    CHECK(a.place(0).distance + b.place(0).distance == whole.place(0).distance);
}

TEST_CASE("Each place can be counted by its weight or as one") {
    auto q = question_at_36();
    const auto demand = households({{{100, 0}, 2.5}, {{200, 0}, 0}});
    CHECK(ask(Town().draw({{0, 0}, {300, 0}}), demand, posts({{0, 0}}), q).outcome.all.weight == Weight::of(2.5));
    q.by_weight = false;
    CHECK(ask(Town().draw({{0, 0}, {300, 0}}), demand, posts({{0, 0}}), q).outcome.all.weight == Weight::of(2));
}

TEST_CASE("Making ready takes over what still holds") {
    const service::Inputs inputs{Town().draw({{0, 0}, {300, 0}}).network(), households({{{100, 0}, 1}}),
                                 posts({{0, 0}})};
    auto q = question_at_36();
    const auto first = prepare(inputs, q, nullptr, Task());
    q.limit = Millis::minutes(1);
    const auto second = prepare(inputs, q, first.get(), Task());
    CHECK(second->costed == first->costed);
    CHECK(second->graph == first->graph);
    CHECK(second->attached == first->attached);
    q.towards = Towards::site;
    const auto third = prepare(inputs, q, second.get(), Task());
    CHECK(third->graph != first->graph);
    CHECK(third->attached == first->attached);
    q.profile.mode = travel::Mode::walk;
    const auto fourth = prepare(inputs, q, third.get(), Task());
    CHECK(fourth->costed != first->costed);
    CHECK(fourth->attached != first->attached);
}

TEST_CASE("The digest names roads, places, question and plan") {
    const Town town = Town().draw({{0, 0}, {300, 0}});
    const auto demand = households({{{100, 0}, 1}});
    auto q = question_at_36();
    const auto base = ask(town, demand, posts({{0, 0}}), q).outcome.digest;
    CHECK(ask(town, demand, posts({{0, 0}}), q).outcome.digest == base);
    CHECK(ask(town, households({{{100, 0}, 2}}), posts({{0, 0}}), q).outcome.digest != base);
    CHECK(ask(town, demand, posts({{1, 0}}), q).outcome.digest != base);
    CHECK(ask(town, demand, posts({{0, 0}}), q, {"p", {{service::Change::close, "s0", {}}}}).outcome.digest != base);
    q.attach_limit = Millimetres::metres(100);
    CHECK(ask(town, demand, posts({{0, 0}}), q).outcome.digest != base);
}

TEST_CASE("The same answer on one thread and on many") {
    Town town;
    for (int i = 0; i < 40; ++i)
        for (int j = 0; j < 40; ++j) {
            town.draw({{i * 90.0, j * 80.0}, {(i + 1) * 90.0, j * 80.0}});
            town.draw({{i * 90.0, j * 80.0}, {i * 90.0, (j + 1) * 80.0}});
        }
    auto demand = std::make_shared<places::DemandSet>();
    for (int i = 0; i < 3000; ++i)
        demand->places.push_back(
            {std::to_string(i), test::place({(i * 37) % 3600 + 0.3, (i * 53) % 3200 + 0.7}), Weight::of(i % 7 + 0.1)});
    const auto sites = posts({{100, 100}, {3000, 2000}, {700, 2900}});
    const auto run = [&](std::size_t threads) {
        const tbb::global_control control(tbb::global_control::max_allowed_parallelism, threads);
        return ask(town, demand, sites, question_at_36());
    };
    const auto one = run(1);
    const auto many = run(4);
    CHECK(one.outcome.digest == many.outcome.digest);
    for (std::size_t i = 0; i < demand->places.size(); ++i) {
        REQUIRE(one.place(i).site == many.place(i).site);
        REQUIRE(one.place(i).time == many.place(i).time);
        REQUIRE(one.place(i).distance == many.place(i).distance);
    }
}

TEST_CASE("Answering can be stopped") {
    std::stop_source stop;
    const service::Inputs inputs{Town().draw({{0, 0}, {300, 0}}).network(), households({{{100, 0}, 1}}),
                                 posts({{0, 0}})};
    const auto ready = prepare(inputs, question_at_36(), nullptr, Task());
    stop.request_stop();
    CHECK_THROWS_AS(answer(*ready, {}, Task(stop.get_token())), Stopped);
    CHECK_THROWS_AS(prepare(inputs, question_at_36(), nullptr, Task(stop.get_token())), Stopped);
}
