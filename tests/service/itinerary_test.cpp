#include "service/itinerary.h"

#include <catch2/catch.hpp>
#include <random>

#include "service/travel_table.h"
#include "support/asking.h"

using namespace otoro;
using namespace otoro::test;
using service::Turn;

namespace {

struct Asked {
    std::shared_ptr<const service::Ready> ready;
    std::shared_ptr<const service::Prepared> prepared;
    explicit Asked(const Town& town, const service::Question& q = question_at_36())
        : ready(prepare({town.network(), households({}), posts({})}, q, nullptr, Task())),
          prepared(prepare_searches(*ready, nullptr, nullptr, Task(), 0)) {}
    [[nodiscard]] service::Itinerary over(const std::vector<At>& stops, bool best = false, bool round = false) const {
        std::vector<geo::LonLat> at;
        for (const At s : stops) at.push_back(place(s));
        const auto plain = itinerary(*ready, nullptr, at, {best, round}, Task());
        auto way = itinerary(*ready, prepared.get(), at, {best, round}, Task());
        Millis steps, legs;
        for (const auto& s : way.steps) steps = steps + s.time;
        for (const auto& l : way.legs) legs = legs + l.time;
        CHECK(steps == way.time);  // whatever turning and closures cost
        CHECK(legs == way.time);
        CHECK(plain.time == way.time);  // by either search
        CHECK(plain.distance == way.distance);
        CHECK(plain.order == way.order);
        return way;
    }
};

/// Long Lane runs east, High Street north from its middle, a bend at its top leads on as Hill Road.
Town crossroads() {
    return Town()
        .draw({{0, 0}, {500, 0}}, "Long Lane")
        .draw({{500, 0}, {1000, 0}}, "Long Lane")
        .draw({{500, 0}, {500, 400}}, "High Street")
        .draw({{500, 400}, {560, 700}}, "Hill Road");
}

}  // namespace

TEST_CASE("A way is told turn by turn, with the names of the roads and how far along each") {
    const auto way = Asked(crossroads()).over({{100, 5}, {555, 700}});
    REQUIRE(way.steps.size() == 3);
    CHECK(way.steps[0].turn == Turn::start);
    CHECK(way.steps[0].road == "Long Lane");
    CHECK(way.steps[0].distance.metres() == Approx(400).margin(0.1));
    CHECK(way.steps[1].turn == Turn::left);
    CHECK(way.steps[1].road == "High Street");
    CHECK(way.steps[1].distance.metres() == Approx(400).margin(0.1));
    CHECK(way.steps[2].turn == Turn::straight);
    CHECK(way.steps[2].road == "Hill Road");
    CHECK(way.distance.metres() == Approx(400 + 400 + 305.9).margin(2));
    CHECK(way.time.count() == Approx(way.distance.metres() * 100).margin(5));
    CHECK(way.line.front() == place({100, 5}));
    CHECK(way.line.back() == place({555, 700}));
}

TEST_CASE("A road that goes on under one name is one line, and from a stop the way may turn back") {
    const auto way = Asked(crossroads()).over({{100, 5}, {900, 5}, {500, 300}});
    REQUIRE(way.steps.size() == 3);
    CHECK(way.steps[0].distance.metres() == Approx(800).margin(0.1));
    CHECK(way.steps[1].turn == Turn::stop);
    CHECK(way.steps[1].distance.metres() == Approx(400).margin(0.1));
    CHECK(way.steps[2].turn == Turn::right);
    CHECK(way.steps[2].road == "High Street");
    CHECK(std::string(describe(way.steps[2].turn)) == "turn right into");
}

TEST_CASE("Two stops on one road are joined along it, and round the block where it is one-way") {
    const Town town = Town()
                          .draw({{0, 0}, {400, 0}}, "North", roads::OneWay::along)
                          .draw({{400, 0}, {400, -100}}, "East")
                          .draw({{400, -100}, {0, -100}}, "South")
                          .draw({{0, -100}, {0, 0}}, "West");
    const Asked asked(town);
    CHECK(asked.over({{100, 2}, {300, 2}}).distance.metres() == Approx(200).margin(0.1));
    const auto round = asked.over({{300, 2}, {100, 2}});
    CHECK(round.distance.metres() == Approx(100 + 100 + 400 + 100 + 100).margin(0.2));
    REQUIRE(round.steps.size() == 5);
    for (std::size_t i = 1; i < 5; ++i) CHECK(round.steps[i].turn == Turn::right);
}

TEST_CASE("The best order of stops along a street is the order along the street") {
    const Asked asked(Town().draw({{0, 0}, {2000, 0}}, "Street"));
    const std::vector<At> stops{{50, 2}, {900, 2}, {300, 2}, {1500, 2}, {600, 2}, {1900, 2}};
    const auto best = asked.over(stops, true);
    CHECK(best.order == std::vector<std::size_t>{0, 2, 4, 1, 3, 5});
    CHECK(best.distance.metres() == Approx(1850).margin(0.2));
    CHECK(asked.over(stops).distance.metres() == Approx(850 + 600 + 1200 + 900 + 1300).margin(0.5));
}

TEST_CASE("With turns paid for, a way costs what its turns cost too") {
    auto q = question_at_36();
    q.profile.turning =
        travel::Turning{Millis(8000), Millis(0), Millis(4000), Millis(20'000), {}, travel::TurningBack::anywhere, true};
    const auto way = Asked(crossroads(), q).over({{100, 5}, {500, 300}});
    CHECK(way.time.count() == Approx(70'000 + 8'000).margin(5));
}

TEST_CASE("A round comes back to where it began, and closures are driven round") {
    // A block of 400 by 100 m.
    const Town town = Town()
                          .draw({{0, 0}, {400, 0}}, "North")
                          .draw({{400, 0}, {400, -100}}, "East")
                          .draw({{400, -100}, {0, -100}}, "South")
                          .draw({{0, -100}, {0, 0}}, "West");
    const Asked asked(town);
    const std::vector<At> stops{{100, 2}, {300, -102}, {300, 2}, {100, -102}};
    const auto round = asked.over(stops, true, true);
    CHECK(round.order == std::vector<std::size_t>{0, 2, 1, 3, 0});
    CHECK(round.distance.metres() == Approx(1000).margin(0.5));
    REQUIRE(round.legs.size() == 4);
    CHECK(round.legs[0].distance.metres() == Approx(200).margin(0.2));
    CHECK(asked.over(stops, false, true).order == std::vector<std::size_t>{0, 1, 2, 3, 0});
    service::Plan plan;
    plan.closures = {{"works", roads::ClosureShape::point, {place({200, 0})}}};
    const auto closed = under_closures(*asked.ready, plan, Task());
    const auto way = itinerary(*closed, nullptr, {place({100, 2}), place({300, 2})}, {}, Task());
    CHECK(way.distance.metres() == Approx(100 + 100 + 400 + 100 + 100).margin(0.5));
    Millis steps;
    for (const auto& s : way.steps) steps = steps + s.time;
    CHECK(steps == way.time);
}

TEST_CASE("A stop that no road is near, or that cannot be reached, is named") {
    const Asked asked(crossroads().draw({{0, 3000}, {100, 3000}}, "Island"));
    const auto trouble = [&](const std::vector<At>& stops, bool best = false) {
        try {
            asked.over(stops, best);
        } catch (const InputError& e) {
            return std::string(e.what());
        }
        return std::string();
    };
    CHECK(trouble({{100, 5}, {100, 1500}}).find("stop 2: no road") != std::string::npos);
    CHECK(trouble({{100, 5}, {900, 5}, {50, 3000}}).find("no way from stop 2 to stop 3") != std::string::npos);
    CHECK(trouble({{100, 5}, {50, 3000}, {900, 5}}, true).find("no order of the stops reaches them all") !=
          std::string::npos);
    CHECK(trouble({{100, 5}}).find("two stops") != std::string::npos);
    CHECK(trouble(std::vector<At>(15, At{100, 5}), true).find("13 stops") != std::string::npos);
}

TEST_CASE("Pairs joined one by one say what blocks of sites say, closures and places on one road included") {
    std::mt19937 dice(43);
    for (int round = 0; round < 6; ++round) {
        Town town;
        for (int y = 0; y < 40; ++y)
            for (int x = 0; x < 40; ++x) {
                if (x < 39 && dice() % 8 != 0)
                    town.draw({{100.0 * x, 100.0 * y}, {100.0 * x + 100, 100.0 * y}},
                              dice() % 5 == 0 ? one_way() : road());
                if (y < 39 && dice() % 8 != 0) town.draw({{100.0 * x, 100.0 * y}, {100.0 * x, 100.0 * y + 100}});
            }
        std::vector<std::pair<At, double>> homes;
        std::vector<At> at;
        for (int i = 0; i < 12; ++i)
            at.push_back({static_cast<double>(dice() % 3900), static_cast<double>(dice() % 3900)});
        for (int i = 0; i < 20; ++i)  // some beside a site, on its road
            homes.push_back({i < 8 ? At{at[static_cast<std::size_t>(i)].x + 7, at[static_cast<std::size_t>(i)].y}
                                   : At{static_cast<double>(dice() % 3900), static_cast<double>(dice() % 3900)},
                             1});
        auto q = question_at_36();
        q.towards = round % 2 == 0 ? service::Towards::demand : service::Towards::site;
        if (round % 3 == 0) q.off_road_speed = Speed::km_per_hour(4);
        if (round >= 2) q.serving = service::Nearest{routing::Measure::distance};
        service::Plan plan;
        if (round % 2 == 1)
            plan.closures = {{"works",
                              roads::ClosureShape::area,
                              {place({900, 900}), place({1600, 900}), place({1600, 1700}), place({900, 1700})},
                              roads::ClosureEffect::slowed,
                              300}};
        const auto plain = prepare({town.network(), households(homes), posts(at)}, q, nullptr, Task());
        service::Ready fast = *plain;
        fast.prepared = prepare_searches(*plain, nullptr, nullptr, Task(), 0);
        std::vector<std::vector<service::PlaceOutcome>> rows[2];
        for (const service::Ready* ready : {plain.get(), const_cast<const service::Ready*>(&fast)})
            each_site_to_all(
                *ready, plan,
                [&](SiteIndex, std::span<const service::PlaceOutcome> found) {
                    rows[ready == &fast ? 1 : 0].emplace_back(found.begin(), found.end());
                },
                Task());
        REQUIRE(rows[0].size() == at.size());
        CHECK(rows[0] == rows[1]);
    }
}

TEST_CASE("The row of a site says of every place what asking with that site alone says") {
    std::mt19937 dice(41);
    Town town;
    for (int y = 0; y < 22; ++y)
        for (int x = 0; x < 22; ++x) {
            if (x < 21 && dice() % 8 != 0)
                town.draw({{100.0 * x, 100.0 * y}, {100.0 * x + 100, 100.0 * y}}, dice() % 5 == 0 ? one_way() : road());
            if (y < 21 && dice() % 8 != 0) town.draw({{100.0 * x, 100.0 * y}, {100.0 * x, 100.0 * y + 100}});
        }
    std::vector<std::pair<At, double>> homes;
    for (int i = 0; i < 60; ++i)
        homes.push_back({{static_cast<double>(dice() % 2100), static_cast<double>(dice() % 2100)}, 1});
    const std::vector<At> at{{310, 420}, {1500, 1600}, {900, 200}};
    auto q = question_at_36();
    q.limit = Millis(60'000);
    const auto plain = prepare({town.network(), households(homes), posts(at)}, q, nullptr, Task());
    auto fast = std::make_shared<service::Ready>(*plain);
    fast->prepared = prepare_searches(*plain, nullptr, nullptr, Task(), 0);
    for (const auto& ready : {plain, std::shared_ptr<const service::Ready>(fast)}) {
        std::size_t rows = 0;
        each_site_to_all(
            *ready, {},
            [&](SiteIndex site, std::span<const service::PlaceOutcome> places) {
                CHECK(site.value() == rows++);
                const auto alone = ask(town, households(homes), posts({at[site.value()]}), q);
                for (std::size_t i = 0; i < places.size(); ++i) {
                    REQUIRE(places[i].status == alone.place(i).status);
                    if (!places[i].site) continue;
                    REQUIRE(*places[i].site == site);
                    REQUIRE(places[i].time == alone.place(i).time);
                    REQUIRE(places[i].distance == alone.place(i).distance);
                }
            },
            Task());
        CHECK(rows == 3);
    }
}
