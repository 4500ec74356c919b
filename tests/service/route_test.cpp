#include <catch2/catch.hpp>
#include <random>

#include "geo/ellipsoid.h"
#include "support/asking.h"

using namespace otoro;
using test::ask;
using test::At;
using test::households;
using test::posts;
using test::question_at_36;
using test::Town;

namespace {
double metres_along(const std::vector<geo::LonLat>& route) {
    double sum = 0;
    for (std::size_t i = 1; i < route.size(); ++i) sum += geo::distance_metres(route[i - 1], route[i]);
    return sum;
}
}  // namespace

TEST_CASE("The drawn route is as long as the answer says, off-road legs besides") {
    for (std::uint64_t seed = 0; seed < 60; ++seed) {
        std::mt19937_64 dice(seed);
        std::uniform_real_distribution<double> at(0, 700);
        Town town;
        for (int i = 0; i <= 6; ++i)
            for (int j = 0; j <= 6; ++j) {
                const At p{i * 110.0 + (j % 2) * 20, j * 100.0};
                const auto way = [&] { return dice() % 3 == 0 ? test::one_way() : test::road(); };
                town.draw({p, {p.x + 60, p.y + 9}, {(i + 1) * 110.0 + (j % 2) * 20, p.y}}, way());
                town.draw({p, {i * 110.0 + ((j + 1) % 2) * 20, p.y + 100}}, way());
            }
        auto demand = std::make_shared<places::DemandSet>();
        for (int i = 0; i < 30; ++i)
            demand->places.push_back({std::to_string(i), test::place({at(dice), at(dice)}), Weight::one()});
        auto q = question_at_36();
        q.towards = dice() % 2 ? service::Towards::demand : service::Towards::site;
        q.serving = service::Nearest{dice() % 2 ? routing::Measure::time : routing::Measure::distance};
        const auto a = ask(town, demand, posts({{at(dice), at(dice)}, {at(dice), at(dice)}}), q);
        for (std::uint32_t i = 0; i < demand->count(); ++i) {
            if (!a.place(i).served()) continue;
            const auto r = read_place(*a.ready, a.outcome, DemandIndex(i));
            const auto& site = a.outcome.sites[a.place(i).site->value()];
            INFO("seed " << seed << ", place " << i);
            REQUIRE(r.outcome.time == a.place(i).time);
            const double legs = r.attachment->off_road.metres() + site.attachment->off_road.metres();
            REQUIRE(metres_along(r.route) == Approx(a.place(i).distance.metres() + legs).margin(0.05));
            Millimetres by_steps;
            for (const auto& s : r.steps) by_steps = by_steps + s.distance;
            REQUIRE(by_steps == a.place(i).distance);
            const bool outward = q.towards == service::Towards::demand;
            REQUIRE((outward ? r.route.back() : r.route.front()) == *demand->places[i].position);
            REQUIRE((outward ? r.route.front() : r.route.back()) == *site.planned.site.position);
        }
    }
}

TEST_CASE("A route is told turn by turn, as it is travelled") {
    // Along Long Lane to the east, north up High Street.
    const Town town = Town().draw({{0, 0}, {400, 0}}, "Long Lane").draw({{400, 0}, {400, 300}}, "High Street");
    auto q = question_at_36();
    const auto out = ask(town, households({{{400, 200}, 1}}), posts({{100, 0}}), q);
    const auto there = read_place(*out.ready, out.outcome, DemandIndex(0u));
    REQUIRE(there.steps.size() == 2);
    CHECK(there.steps[0].turn == service::Turn::start);
    CHECK(there.steps[0].road == "Long Lane");
    CHECK(there.steps[0].distance.metres() == Approx(300).margin(0.1));
    CHECK(there.steps[1].turn == service::Turn::left);
    CHECK(there.steps[1].road == "High Street");
    CHECK(there.steps[1].distance.metres() == Approx(200).margin(0.1));
    q.towards = service::Towards::site;
    const auto in = ask(town, households({{{400, 200}, 1}}), posts({{100, 0}}), q);
    const auto back = read_place(*in.ready, in.outcome, DemandIndex(0u));
    REQUIRE(back.steps.size() == 2);
    CHECK(back.steps[0].road == "High Street");
    CHECK(back.steps[1].turn == service::Turn::right);
    CHECK(back.steps[1].road == "Long Lane");
}

TEST_CASE("Any spot can be read as if a place stood there") {
    const auto a =
        ask(Town().draw({{0, 0}, {1000, 0}}), households({{{400, 0}, 1}}), posts({{0, 0}}), question_at_36());
    const auto r = read_spot(*a.ready, a.outcome, test::place({400, 0}));
    CHECK(r.outcome.time == a.place(0).time);
    CHECK(r.route.size() >= 2);
    const auto nowhere = read_spot(*a.ready, a.outcome, test::place({400, 900}));
    CHECK(nowhere.outcome.status == service::Status::no_road_near);
    CHECK(nowhere.route.empty());
}
