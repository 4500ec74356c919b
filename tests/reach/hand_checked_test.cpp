#include <catch2/catch.hpp>
#include <cmath>
#include <numbers>

#include "service/cover.h"
#include "service/reach.h"
#include "support/reaching.h"

using namespace otoro;
using service::Overlap;
using test::At;
using test::place;
using test::Town;

namespace {

struct Asked {
    std::shared_ptr<const service::Ready> ready;
    service::Reach reach(std::vector<Amount> limits, Overlap overlap = Overlap::merged, bool full = false) const {
        service::ReachRequest request;
        request.limits = std::move(limits);
        request.overlap = overlap;
        request.full = full;
        return reach_areas(ready, {}, request, Task());
    }
    /// Square metres within some seconds of any site.
    double ground(int seconds) const {
        double sum = 0;
        for (const auto& a : reach({Millis::seconds(seconds)}).areas) sum += a.square_metres;
        return sum;
    }
    bool inside(At at, int seconds) const {
        for (const auto& a : reach({Millis::seconds(seconds)}).areas)
            if (reach::area_of(a.polygons).contains(ready->inputs.network->near(place(at)))) return true;
        return false;
    }
};

/// Everything at 10 m a second, places attached within 100 m.
Asked asked(const Town& town, const std::vector<At>& sites, const service::Question& question) {
    return {prepare({town.network(), test::households({{{0, 0}, 1}}), test::posts(sites)}, question, nullptr, Task())};
}
Asked asked(const Town& town, const std::vector<At>& sites) {
    auto q = test::question_at_36();
    q.attach_limit = Millimetres::metres(100);
    return asked(town, sites, q);
}

}  // namespace

TEST_CASE("From the middle of a straight road ground is a strip, and around its end half a circle") {
    const auto one = asked(Town().draw({{0, 0}, {1000, 0}}), {{500, 0}});
    CHECK(one.ground(20) == Approx(400 * 200).epsilon(0.001));  // 200 m either way, 100 m to both sides
    CHECK(one.ground(60) == Approx(1000 * 200 + std::numbers::pi * 100 * 100).epsilon(0.001));
    CHECK(one.inside({690, 99}, 20));
    CHECK_FALSE(one.inside({710, 0}, 20));
    CHECK_FALSE(one.inside({690, 101}, 20));
    const auto reach = one.reach({Millis::seconds(20)});
    CHECK(reach.areas[0].road == Millimetres::metres(400));
}

TEST_CASE("A limit of nothing reaches nothing, and no road is reached where there is none") {
    const auto one = asked(Town().draw({{0, 0}, {1000, 0}}), {{500, 0}});
    CHECK(one.reach({Millis(0)}).areas.empty());
    const auto away = asked(Town().draw({{0, 0}, {1000, 0}}), {{500, 5000}});  // as in the sea
    CHECK(away.reach({Millis::minutes(8)}).areas.empty());
    CHECK_THROWS_AS(one.reach({}), InputError);
    CHECK_THROWS_AS(one.reach({Millis::minutes(8), Millis::minutes(4)}), InputError);
    CHECK_THROWS_AS(one.reach({Millis::minutes(4), Millimetres::metres(800)}), InputError);
    std::vector<Amount> many;
    for (int i = 1; i <= 10'000; ++i) many.emplace_back(Millis::seconds(i));
    CHECK_THROWS_AS(one.reach(many), InputError);
}

TEST_CASE("A limit that falls exactly on a junction goes no farther, along none of its roads") {
    const auto one =
        asked(Town().draw({{0, 0}, {200, 0}}).draw({{200, 0}, {600, 0}}).draw({{200, 0}, {200, 600}}), {{0, 0}});
    const auto roads = reached_roads(one.ready, {}, {.limits = {Millis::seconds(20)}}, Task());
    double metres = 0;
    for (const auto& r : roads) metres += (r.to - r.from).metres();
    CHECK(metres == Approx(200).margin(0.01));
    CHECK_FALSE(one.inside({205, 0}, 20));
    CHECK_FALSE(one.inside({200, 5}, 20));
    CHECK(one.inside({150, 20}, 20));
}

TEST_CASE("The far bank is not reached over the water, only over the bridge") {
    // Two streets 120 m apart; the bridge is a kilometre away.
    const auto one =
        asked(Town().draw({{0, 0}, {1000, 0}}).draw({{1000, 0}, {1000, 120}}).draw({{1000, 120}, {0, 120}}), {{0, 0}});
    CHECK(one.inside({100, 50}, 30));
    CHECK_FALSE(one.inside({100, 70}, 30));  // nearer to the other street
    CHECK(one.inside({990, 119}, 120));
    CHECK_FALSE(one.inside({700, 119}, 120));
    CHECK(one.inside({700, 119}, 145));
}

TEST_CASE("A one-way loop is reached one way around") {
    const auto one = asked(Town()
                               .draw({{0, 0}, {400, 0}}, test::one_way())
                               .draw({{400, 0}, {400, 400}}, test::one_way())
                               .draw({{400, 400}, {0, 400}}, test::one_way())
                               .draw({{0, 400}, {0, 0}}, test::one_way()),
                           {{0, 0}});
    CHECK(one.inside({300, 0}, 40));
    CHECK_FALSE(one.inside({0, 100}, 40));
    CHECK(one.inside({0, 100}, 151));
    auto q = one.ready->question;
    q.towards = service::Towards::site;  // coming to it, it is the other way around
    const auto back = asked(Town()
                                .draw({{0, 0}, {400, 0}}, test::one_way())
                                .draw({{400, 0}, {400, 400}}, test::one_way())
                                .draw({{400, 400}, {0, 400}}, test::one_way())
                                .draw({{0, 400}, {0, 0}}, test::one_way()),
                            {{0, 0}}, q);
    CHECK(back.inside({0, 100}, 40));
    CHECK_FALSE(back.inside({300, 0}, 40));
}

TEST_CASE("A cul-de-sac behind a wall is a hole until it is reached from its other side") {
    // A ring of streets, and within it a yard whose only way out is far away.
    const auto one = asked(Town()
                               .draw({{-150, -150}, {150, -150}, {150, 150}, {-150, 150}, {-150, -150}})
                               .draw({{0, 0}, {30, 0}})
                               .draw({{150, -150}, {900, -150}})
                               .draw({{-150, -150}, {-150, -149}}),
                           {{150, -150}});
    const auto reach = one.reach({Millis::seconds(70)});
    REQUIRE(reach.areas.size() == 1);
    REQUIRE(reach.areas[0].polygons.size() == 1);
    CHECK(reach.areas[0].polygons[0].holes.size() == 1);
    CHECK_FALSE(one.inside({10, 10}, 70));
    CHECK(test::flaw_of(reach.areas[0].polygons).empty());
}

TEST_CASE("Roads that cross on two levels share the ground, and neither is come onto from the other") {
    const auto one = asked(Town().draw({{-500, 0}, {500, 0}}).draw({{0, -500}, {0, 500}}), {{-400, 0}});
    CHECK(one.inside({30, 10}, 60));
    CHECK_FALSE(one.inside({10, 30}, 60));  // nearer to the road above
    CHECK_FALSE(one.inside({0, 400}, 600));
    const auto reach = one.reach({Millis::seconds(600)});
    CHECK(test::flaw_of(reach.areas[0].polygons).empty());
}

TEST_CASE("Every site reaches as far as its own limit says") {
    auto set = std::make_shared<places::SiteSet>(*test::posts({{100, 0}, {900, 0}}));
    set->sites[0].limit = Millis::seconds(5);
    set->sites[1].limit = Millis::seconds(10);
    auto q = test::question_at_36();
    q.attach_limit = Millimetres::metres(100);
    const auto ready = std::shared_ptr(prepare({Town().draw({{0, 0}, {1000, 0}}).network(),
                                                test::households({{{130, 5}, 2}, {{300, 5}, 3}, {{850, 5}, 4}}), set},
                                               q, nullptr, Task()));
    service::ReachRequest request;
    request.overlap = Overlap::each;
    request.own_limits = {set->sites[0].limit, set->sites[1].limit};
    const auto reach = reach_areas(ready, {}, request, Task());
    REQUIRE(reach.areas.size() == 2);
    CHECK(reach.areas[0].road == Millimetres::metres(100));
    CHECK(reach.areas[1].road == Millimetres::metres(200));
    CHECK(reach.areas[0].inside.weight == Weight::of(2));
    CHECK(reach.areas[1].inside.weight == Weight::of(4));
    CHECK(reach.areas[1].to == Amount(Millis::seconds(10)));
}

TEST_CASE("Behind a site whose own limit has ended ground is another's that reaches on") {
    Town town;
    town.draw({{0, 0}, {2000, 0}});
    auto sites = std::make_shared<places::SiteSet>(*test::posts({{0, 0}, {1000, 0}}));
    sites->sites[0].limit = Millimetres::metres(100);
    sites->sites[1].limit = Millimetres::metres(800);
    auto q = test::question_at_36();
    q.own_limits = true;
    const auto asked = test::ask(town, test::households({{{50, 0}, 1}, {{150, 0}, 2}, {{250, 0}, 4}}), sites, q);
    CHECK(asked.outcome.places[1].status == service::Status::beyond_limit);  // 150 m and 850 m
    CHECK(asked.outcome.places[2].site == SiteIndex(1U));                    // 250 m is too far, 750 m is not
    // By the question, and by the limits that areas are asked for.
    service::ReachRequest by_question, by_request;
    by_question.limits = {Millimetres::metres(5000)};
    for (const auto& s : sites->sites) by_request.own_limits.push_back(s.limit);
    for (const auto* request : {&by_question, &by_request}) {
        const auto areas = reach_areas(asked.ready, {}, *request, Task()).areas;
        REQUIRE(areas.size() == 2);
        CHECK(areas[0].road.metres() == Approx(100).margin(0.01));
        CHECK(areas[1].road.metres() == Approx(1600).margin(0.01));
        CHECK(areas[0].inside.weight == Weight::of(1));
        CHECK(areas[1].inside.weight == Weight::of(4));
    }
    // Off-road legs would end each site's ground elsewhere.
    auto with_legs = asked.ready->question;
    with_legs.off_road_speed = Speed::km_per_hour(5);
    const auto other = prepare(asked.ready->inputs, with_legs, nullptr, Task());
    CHECK_THROWS_WITH(reach_areas(other, {}, by_question, Task()), Catch::Contains("cannot be laid together"));
    by_question.overlap = service::Overlap::each;
    CHECK(reach_areas(other, {}, by_question, Task()).areas.size() == 2);
}

TEST_CASE("Counted, ground says how many sites reach it, and areas of each by itself overlap") {
    const auto two = asked(Town().draw({{0, 0}, {1000, 0}}), {{300, 0}, {500, 0}});
    const auto counted = two.reach({Millis::seconds(20)}, Overlap::count);
    double once = 0, twice = 0;
    for (const auto& a : counted.areas) (a.sites_reaching == 2 ? twice : once) += a.square_metres;
    CHECK(twice == Approx(200 * 200).epsilon(0.001));  // 300 to 500
    CHECK(once == Approx(400 * 200).epsilon(0.001));   // 100 to 300, 500 to 700
    double each = 0;
    for (const auto& a : two.reach({Millis::seconds(20)}, Overlap::each).areas) each += a.square_metres;
    CHECK(each == Approx(800 * 200).epsilon(0.001));
}

TEST_CASE("Across the 180th meridian ground is whole, and as large as anywhere") {
    roads::Lines lines;
    const auto scale = geo::MetresPerDegree::at_latitude(46.2);
    const auto at = [&](double x, double y) { return geo::normalised({180 + x / scale.east, 46.2 + y / scale.north}); };
    lines.add(std::array{at(-500, 0), at(0, 0)}, test::road());
    lines.add(std::array{at(0, 0), at(500, 0)}, test::road());
    auto q = test::question_at_36();
    q.attach_limit = Millimetres::metres(100);
    auto sites = std::make_shared<places::SiteSet>();
    sites->name = "posts";
    sites->sites.push_back({"s", "", at(100, 0), places::SiteState::open, std::nullopt});
    count_on_longitudes(lines);
    const auto network = std::make_shared<const roads::Network>(join(std::move(lines), Task()));
    const Asked one{prepare({network, test::households({{{0, 0}, 1}}), sites}, q, nullptr, Task())};
    const auto reach = one.reach({Millis::seconds(30)});
    REQUIRE(reach.areas.size() == 1);
    CHECK(reach.areas[0].square_metres == Approx(600 * 200).epsilon(0.001));
    const auto cut = reach::normalised(reach.areas[0].polygons);
    CHECK(cut.size() == 2);
    CHECK(reach::square_metres(cut) == Approx(600 * 200).epsilon(0.001));
    for (const auto& p : cut)
        for (const auto v : p.outer) CHECK(std::abs(v.lon) <= 180);
}

TEST_CASE("Lines that are no roads: towns attached to a railway from 5 km off, their way to it counted") {
    // At 60 km/h; the way to the line at 5 km/h takes 12 minutes a kilometre.
    auto q = test::question_at_36();
    q.profile.one_speed = Speed::km_per_hour(60);
    q.attach_limit = Millimetres::metres(5000);
    q.off_road_speed = Speed::km_per_hour(5);
    const auto rail = asked(Town().draw({{0, 0}, {20'000, 0}}), {{0, 0}}, q);
    CHECK(rail.inside({10'000, 4000}, 3600));        // 10 min and 48 min
    CHECK_FALSE(rail.inside({10'000, 4300}, 3600));  // 10 min and 51.6 min
    CHECK(rail.inside({1000, 4800}, 3600));
    CHECK_FALSE(rail.inside({1000, 5100}, 100'000));
}

TEST_CASE("What no site reaches is told patch by patch, heaviest first, with how much too far it is") {
    auto q = test::question_at_36();
    q.attach_limit = Millimetres::metres(100);
    q.standard = service::Standard{Share::percent(90), Millis::seconds(30)};
    Town town;
    town.draw({{0, 0}, {1000, 0}}, "Long Street").draw({{0, 500}, {400, 500}}, "Cut Lane");
    const auto ready = std::shared_ptr(prepare(
        {town.network(), test::households({{{100, 10}, 1}, {{900, 10}, 5}, {{200, 510}, 9}}), test::posts({{0, 0}})}, q,
        nullptr, Task()));
    const auto found = uncovered(ready, {}, Millis::seconds(30), 0, Task());
    REQUIRE(found.patches.size() == 2);
    CHECK_THAT(found.patches[0].name, Catch::Contains("by Cut Lane, ") && Catch::Contains(" of s"));
    CHECK(found.patches[0].inside.weight == Weight::of(9));
    CHECK_FALSE(found.patches[0].too_far);
    CHECK_THAT(found.patches[1].name, Catch::Contains("by Long Street, ") && Catch::Contains(" east of s0"));
    CHECK(found.patches[1].inside.weight == Weight::of(5));
    CHECK(found.patches[1].too_far == Amount(Millis::seconds(60)));
    CHECK(found.patches[1].square_metres == Approx(700 * 200 + std::numbers::pi * 5000).epsilon(0.002));
}

TEST_CASE("Whoever is uncovered by a road of their own, on ground that is covered, is told apart and in no patch") {
    auto q = test::question_at_36();
    q.attach_limit = Millimetres::metres(100);
    auto people =
        std::make_shared<places::DemandSet>(*test::households({{{100, 10}, 1}, {{120, 10}, 4}, {{900, 10}, 5}}));
    people->attaching.by_hand[1] = place({990, 0});  // stands beside the site, and is 99 s off by the end of the road
    const auto ready = std::shared_ptr(
        prepare({Town().draw({{0, 0}, {1000, 0}}).network(), people, test::posts({{0, 0}})}, q, nullptr, Task()));
    const auto found = uncovered(ready, {}, Millis::seconds(30), 0, Task());
    REQUIRE(found.patches.size() == 1);
    CHECK(found.patches[0].places == std::vector{DemandIndex(2U)});
    CHECK(found.elsewhere_places == std::vector{DemandIndex(1U)});
    CHECK(found.elsewhere.weight == Weight::of(4));
}

TEST_CASE("Zones as wide as a continent are looked at where the roads are") {
    auto q = test::question_at_36();
    q.attach_limit = Millimetres::metres(100);
    const auto ready = std::shared_ptr(
        prepare({Town().draw({{0, 0}, {1000, 0}}).network(), test::households({{{150, 10}, 1}}), test::posts({{0, 0}})},
                q, nullptr, Task()));
    const geo::LonLat at = place({0, 0});
    const auto zone = [&](const char* id, geo::Box b) {
        places::Zone z{id, "", {}};
        z.area.add({{b.west, b.south}, {b.east, b.south}, {b.east, b.north}, {b.west, b.north}});
        return z;
    };
    places::ZoneSet zones;
    zones.zones.push_back(zone("all", {at.lon - 60, -80, at.lon + 60, 84}));
    zones.zones.push_back(zone("far", {at.lon - 50, at.lat - 20, at.lon - 40, at.lat - 10}));
    // Beside the road, where nothing but ground within the attach limit is.
    const geo::LonLat low = place({200, 40}), high = place({400, 90});
    zones.zones.push_back(zone("beside", {low.lon, low.lat, high.lon, high.lat}));
    CHECK(ready->ground->tiles_around(geo::Box{at.lon - 60, -80, at.lon + 60, 84}).size() < 40);
    CHECK(ready->ground->tiles_around(geo::Box{at.lon - 50, at.lat - 20, at.lon - 40, at.lat - 10}).empty());
    const auto found = zones_covered(ready, {}, zones, Millis::seconds(200), service::AnswersFor::any, Task());
    REQUIRE(found.size() == 3);
    CHECK(found[0].covered);
    CHECK(found[0].square_metres == Approx(1000 * 200 + std::numbers::pi * 10'000).epsilon(0.002));
    CHECK(found[1].square_metres == 0);
    CHECK(found[2].square_metres == Approx(200 * 50).epsilon(0.002));
}

TEST_CASE("Sites far apart have their own ground divided, and nothing between them") {
    auto q = test::question_at_36();
    q.attach_limit = Millimetres::metres(50);
    Town town;
    for (int i = 0; i < 40; ++i) town.draw({{i * 1000.0, 0}, {i * 1000.0 + 1000, 0}});
    const auto ready = std::shared_ptr(
        prepare({town.network(), test::households({{{100, 10}, 1}}), test::posts({{100, 0}, {39'900, 0}})}, q, nullptr,
                Task()));
    service::ReachRequest request;
    request.limits = {Millis::seconds(20)};
    const auto reach = reach_areas(ready, {}, request, Task());
    REQUIRE(reach.areas.size() == 2);
    const geo::Box between{place({15'000, 0}).lon, place({0, -10}).lat, place({25'000, 0}).lon, place({0, 10}).lat};
    for (const auto& tile : ready->ground->tiles_around(between)) CHECK_FALSE(ready->ground->has(tile));
}

TEST_CASE("An attach limit of nothing leaves no ground, and the table counts who stands on the road") {
    auto q = test::question_at_36();
    q.attach_limit = Millimetres(0);
    for (const bool legs : {false, true}) {
        if (legs) q.off_road_speed = Speed::km_per_hour(5);
        const auto ready = std::shared_ptr(prepare(
            {Town().draw({{0, 0}, {1000, 0}}).network(), test::households({{{150, 0}, 1}}), test::posts({{0, 0}})}, q,
            nullptr, Task()));
        service::ReachRequest request;
        request.limits = {Millis::seconds(10), Millis::seconds(60)};
        const auto reach = reach_areas(ready, {}, request, Task());
        double ground = 0;
        for (const auto& a : reach.areas) ground += a.square_metres;
        CHECK(ground == 0);
        CHECK(equal_lines(ready, {}, request, Task()).empty());
        CHECK(uncovered(ready, {}, Millis::seconds(10), 0, Task()).square_metres == 0);
    }
}

TEST_CASE("Polygons are valid with nine decimals, whatever is too small for them") {
    const auto box = [](double west, double south, double east, double north) {
        return std::vector<geo::LonLat>{{west, south}, {east, south}, {east, north}, {west, north}, {west, south}};
    };
    auto hole = box(0.001, 0.001, 0.001 + 3e-10, 0.001 + 3e-10);
    std::reverse(hole.begin(), hole.end());
    // A hole and a polygon of no size, and two that are as near as nothing to one another.
    const reach::Polygons polygons{{box(0, 0, 0.002, 0.002), {hole}},
                                   {box(0.005, 0.005, 0.005 + 2e-10, 0.005 + 4e-10), {}},
                                   {box(0.002 + 2e-10, 0, 0.004, 0.002), {}}};
    const auto found = reach::on_grid(polygons, 1e9);
    CHECK(test::flaw_of(found) == "");
    CHECK(reach::square_metres(found) == Approx(reach::square_metres(polygons)).margin(0.001));
    for (const auto& p : found) {
        CHECK(p.outer.size() >= 4);
        CHECK(p.holes.empty());
        for (const auto at : p.outer) CHECK(std::round(at.lon * 1e9) / 1e9 == at.lon);
    }
    // What is valid is rounded, and otherwise as it was.
    CHECK(reach::on_grid({{box(0, 0, 1, 1), {}}}, 1e9).at(0).outer == box(0, 0, 1, 1));
    CHECK(reach::on_grid({}, 1e9).empty());
}

TEST_CASE("A simpler edge passes over no hole") {
    // A ring road around a small one that cannot be reached: simplified by more than is between them.
    auto q = test::question_at_36();
    q.attach_limit = Millimetres::metres(20);
    for (const double wide : {70.0, 120.0, 300.0}) {
        Town town;
        town.draw({{0, 0}, {wide, -15}, {wide + 80, wide / 2}, {wide, wide + 12}, {0, wide}, {-60, wide / 2}, {0, 0}});
        town.draw({{wide - 18, wide / 2}, {wide - 8, wide / 2}});
        const auto ready = std::shared_ptr(
            prepare({town.network(), test::households({{{0, 0}, 1}}), test::posts({{0, 0}})}, q, nullptr, Task()));
        for (const double simplify : {5.0, 30.0, 80.0, 500.0}) {
            service::ReachRequest request;
            request.limits = {Millis::minutes(20)};
            request.overlap = service::Overlap::merged;
            request.simplify_metres = simplify;
            INFO("wide " << wide << ", simplified by " << simplify);
            for (const auto& a : reach_areas(ready, {}, request, Task()).areas)
                CHECK(test::flaw_of(a.polygons).empty());
        }
    }
}

TEST_CASE("A zone is covered when all its ground near roads, its roads and its places are") {
    auto q = test::question_at_36();
    q.attach_limit = Millimetres::metres(100);
    const auto ready = std::shared_ptr(
        prepare({Town().draw({{0, 0}, {1000, 0}}).network(),
                 test::households({{{150, 10}, 1}, {{650, 10}, 3}, {{750, 10}, 1}}), test::posts({{0, 0}})},
                q, nullptr, Task()));
    const auto box = [](const char* id, double from, double to) {
        places::Zone z{id, "", {}};
        z.area.add({place({from, -300}), place({to, -300}), place({to, 300}), place({from, 300})});
        return z;
    };
    places::ZoneSet zones{"zones", {box("near", 100, 400), box("far", 600, 900), box("nowhere", 3000, 3300)}};
    const auto found = zones_covered(ready, {}, zones, Millis::seconds(70), service::AnswersFor::any, Task());
    CHECK(found[0].covered);
    CHECK(found[0].square_metres == Approx(300 * 200).epsilon(0.002));
    CHECK(found[0].square_metres_no_road == Approx(300 * 400).epsilon(0.002));
    CHECK_FALSE(found[1].covered);
    CHECK(found[1].square_metres_within == Approx(100 * 200).epsilon(0.002));
    CHECK(found[1].road.metres() == Approx(300).margin(0.1));
    CHECK(found[1].road_within.metres() == Approx(100).margin(0.1));
    CHECK(found[1].places_within.weight == Weight::of(3));
    CHECK(found[1].failing_places.size() == 1);
    CHECK(found[2].square_metres == 0);
    CHECK_THROWS_AS(zones_covered(ready, {}, zones, Millis::seconds(70), service::AnswersFor::own, Task()), InputError);
}

TEST_CASE("Two reaches compared: what a closed road loses, and what another limit gains") {
    Town town;
    town.draw({{0, 0}, {1000, 0}});
    const auto one = asked(town, {{0, 0}});
    service::Plan shut{"shut", {}, {}};
    roads::Closure gate;
    gate.vertices = {place({300, 0})};
    shut.closures = {gate};
    const auto lost = reach_change(one.ready, {}, Millis::seconds(60), one.ready, shut, Millis::seconds(60), Task());
    CHECK(lost.lost_square_metres == Approx(300 * 200).epsilon(0.001));
    CHECK(lost.gained_square_metres < 1);
    const auto more = reach_change(one.ready, {}, Millis::seconds(60), one.ready, {}, Millis::seconds(80), Task());
    CHECK(more.gained_square_metres == Approx(200 * 200).epsilon(0.001));
    CHECK(more.kept_square_metres == Approx(600 * 200 + std::numbers::pi * 5000).epsilon(0.001));
}
