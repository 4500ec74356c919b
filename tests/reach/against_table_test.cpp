#include <catch2/catch.hpp>
#include <cmath>
#include <random>

#include "geo/ellipsoid.h"
#include "service/cover.h"
#include "service/reach.h"
#include "support/asking.h"
#include "support/cases.h"
#include "support/closing.h"
#include "support/reaching.h"

using namespace otoro;
using test::At;
using test::reach_of;
using test::Reached;
using test::Town;

namespace {

/// The class that a place at the spot would be counted in.
std::uint32_t by_table(const test::Answered& asked, geo::LonLat p, const std::vector<double>& limits) {
    const auto reading = service::read_spot(*asked.ready, asked.outcome, p);
    if (!reading.outcome.site || !reading.outcome.served()) return reach::kNobody;
    const reach::Bands bands{limits, 0};
    const reach::Classes classes{static_cast<std::uint32_t>(limits.size())};
    return classes.of(reading.outcome.site->value(), bands.of(static_cast<double>(reading.outcome.time.count())));
}

/// How many of the spots differ from the table without an edge within a metre.
int compare(const test::Answered& asked, const Reached& reached, const std::vector<double>& limits, double extent,
            int spots, std::mt19937& rng, int least) {
    std::uniform_real_distribution<double> xy(-400, extent + 400);
    int wrong = 0, inside = 0;
    for (int i = 0; i < spots; ++i) {
        const At at{xy(rng), xy(rng)};
        const auto area = reached.ground(test::place(at)), table = by_table(asked, test::place(at), limits);
        inside += table != reach::kNobody ? 1 : 0;
        if (area == table) continue;
        bool near_edge = false;
        for (int k = 0; k < 16 && !near_edge; ++k) {
            const double a = k * 0.3927;
            near_edge = reached.ground(test::place({at.x + std::cos(a), at.y + std::sin(a)})) != area ||
                        by_table(asked, test::place({at.x + std::cos(a), at.y + std::sin(a)}), limits) != table;
        }
        if (near_edge) continue;
        ++wrong;
        UNSCOPED_INFO("at " << at.x << ", " << at.y << ": area says " << area << ", table " << table);
    }
    CHECK(inside >= least);
    return wrong;
}

Town random_town(std::mt19937& rng, double extent) {
    std::uniform_real_distribution<double> xy(0, extent);
    std::uniform_int_distribution<int> kind(0, 9);
    Town town;
    const int cross = static_cast<int>(extent / 160);
    std::vector<std::vector<At>> at(static_cast<std::size_t>(cross) + 1);
    for (int i = 0; i <= cross; ++i)
        for (int j = 0; j <= cross; ++j)
            at[static_cast<std::size_t>(i)].push_back(
                {i * 160.0 + xy(rng) / extent * 60, j * 160.0 + xy(rng) / extent * 60});
    const auto road = [&](At a, At b) {
        const int k = kind(rng);
        if (k < 2) return;
        const auto way = k == 3 ? test::one_way() : test::road();
        if (k == 4)
            town.draw({a, {(a.x + b.x) / 2 + 30, (a.y + b.y) / 2 - 20}, b}, way);
        else if (k == 5)
            town.draw({a, {a.x + (b.x - a.x) * 0.6, a.y + (b.y - a.y) * 0.6}}, way);  // a cul-de-sac
        else
            town.draw({a, b}, way);
    };
    for (std::size_t i = 0; i < at.size(); ++i)
        for (std::size_t j = 0; j < at.size(); ++j) {
            if (i + 1 < at.size()) road(at[i][j], at[i + 1][j]);
            if (j + 1 < at.size()) road(at[i][j], at[i][j + 1]);
        }
    town.draw({{-50, extent / 3}, {extent + 50, extent / 2}});  // over all others, on another level
    return town;
}

/// What files have besides: loops, roads drawn twice or upon one another in part, roads of no length and of 3 m, a
/// street with a vertex every metre, a hairpin.
void draw_odd_roads(Town& town, std::mt19937& rng, double extent) {
    std::uniform_real_distribution<double> xy(0, extent);
    const auto at = [&] { return At{std::round(xy(rng)), std::round(xy(rng))}; };
    for (int i = 0; i < 3; ++i) {
        const At a = at(), b = at();
        town.draw({a, {a.x + 80, a.y}, {a.x + 80, a.y + 60}, {a.x, a.y + 60}, a});  // begins where it ends
        town.draw({b, {b.x + 200, b.y}});
        town.draw({b, {b.x + 200, b.y}}, test::one_way());
        town.draw({{b.x + 50, b.y}, {b.x + 150, b.y}});  // upon them, joined to nothing
        town.draw({a, a});
        town.draw({at(), at()});
        const At c = at();
        town.draw({c, {c.x + 3, c.y + 1}});
        town.draw({c, {c.x + 90, c.y + 2}, {c.x, c.y + 4}});
    }
    const At from = at();
    for (int i = 0; i < 60; ++i) town.draw({{from.x + i, from.y + i % 2}, {from.x + i + 1, from.y + (i + 1) % 2}});
}

service::Plan random_closures(std::mt19937& rng, double extent) {
    using roads::ClosureEffect;
    std::uniform_real_distribution<double> xy(0, extent), size(20, 200);
    std::vector<roads::Closure> all;
    for (const auto effect : {ClosureEffect::closed, ClosureEffect::slowed, ClosureEffect::delay}) {
        const At a{xy(rng), xy(rng)}, b{xy(rng), xy(rng)};
        const double s = size(rng);
        all.push_back(test::closed_at(a, effect));
        all.push_back(test::drawn(roads::ClosureShape::line, {b, {b.x + s, b.y + s}}, effect));
        all.push_back(test::drawn(roads::ClosureShape::area, {a, {a.x + s, a.y}, {a.x, a.y + s}}, effect));
    }
    return test::with(std::move(all));
}

service::Question question_of(unsigned seed) {
    auto q = test::question_at_36();
    q.attach_limit = Millimetres::metres(seed % 2 == 0 ? 250 : 60);
    if (seed % 5 == 1) q.turnout = Millis(7'000);
    if (seed % 4 >= 2) q.towards = service::Towards::site;
    if (seed % 4 == 3) q.profile.turning = travel::Turning{};
    return q;
}

}  // namespace

TEST_CASE("On random towns, ground is inside exactly when a place there would be counted inside") {
    const auto seed = GENERATE(range(1U, 13U));
    std::mt19937 rng(seed);
    constexpr double kExtent = 1600;
    const Town town = random_town(rng, kExtent);
    std::uniform_real_distribution<double> xy(0, kExtent);
    auto q = question_of(seed);
    if (seed % 3 == 0) q.off_road_speed = Speed::km_per_hour(5);
    const auto asked = test::ask(town, test::households({{{100, 100}, 1}}),
                                 test::posts({{xy(rng), xy(rng)}, {xy(rng), xy(rng)}, {xy(rng), xy(rng)}}), q);
    const std::vector<double> limits{20'000, 45'000, 80'000};
    const auto reached = reach_of(asked, limits);
    CAPTURE(seed);
    for (const auto& region : reached.regions) CHECK(test::flaw_of(region.polygons).empty());
    CHECK(compare(asked, reached, limits, kExtent, 3000, rng, 30) == 0);
}

TEST_CASE("Where sites serve no farther than a limit of their own, ground is its nearest site's that reaches so far") {
    const auto seed = GENERATE(range(1U, 1U + static_cast<unsigned>(test::cases(12))));
    std::mt19937 rng(seed);
    constexpr double kExtent = 1600;
    const Town town = random_town(rng, kExtent);
    std::uniform_real_distribution<double> xy(0, kExtent);
    auto q = question_of(seed);
    q.own_limits = true;
    if (seed % 3 == 2) q.limit = seed % 2 == 0 ? Amount(Millis(60'000)) : Amount(Millimetres::metres(500));
    std::vector<At> at;
    for (int i = 0; i < 5; ++i) at.push_back({xy(rng), xy(rng)});
    auto sites = std::make_shared<places::SiteSet>(*test::posts(at));
    // Most serve some seconds or metres, one as far as there is a way.
    for (std::size_t i = 0; i + 1 < at.size(); ++i) {
        if (rng() % 2 == 0)
            sites->sites[i].limit = Millis(static_cast<std::int64_t>(rng() % 70'000));
        else
            sites->sites[i].limit = Millimetres(static_cast<std::int64_t>(rng() % 700'000));
    }
    if (seed % 6 == 5) sites->sites.back().limit = Millis(0);
    std::vector<std::pair<At, double>> homes;
    for (int i = 0; i < 60; ++i) homes.push_back({{xy(rng), xy(rng)}, 1.0 + i % 3});
    const auto asked = test::ask(town, test::households(homes), sites, q);
    const std::vector<double> limits{20'000, 45'000, 80'000};
    const auto reached = reach_of(asked, limits);
    CAPTURE(seed);
    for (const auto& region : reached.regions) CHECK(test::flaw_of(region.polygons) == "");
    CHECK(compare(asked, reached, limits, kExtent, test::cases(3000), rng, test::cases(30)) == 0);
    // The same of areas, of whoever is in them, of uncovered ground and of a surface.
    service::ReachRequest request;
    request.limits = {Millis(45'000)};
    for (const auto overlap : {service::Overlap::nearest, service::Overlap::merged}) {
        request.overlap = overlap;
        std::vector<std::uint32_t> inside, expected;
        for (const auto& a : reach_areas(asked.ready, {}, request, Task()).areas)
            for (const DemandIndex p : a.places) inside.push_back(static_cast<std::uint32_t>(p.value()));
        for (std::uint32_t i = 0; i < asked.outcome.places.size(); ++i)
            if (service::is_within(asked.outcome.places[i], Millis(45'000))) expected.push_back(i);
        std::sort(inside.begin(), inside.end());
        CHECK(inside == expected);
    }
    const auto values = nearest_values(asked.ready, {}, service::ValueOf::time, {}, Task());
    const auto places = values->at_places();
    REQUIRE(places.size() == asked.outcome.places.size());
    for (std::size_t i = 0; i < places.size(); ++i) CHECK(places[i] == asked.outcome.places[i]);
    Weight missing;
    for (std::uint32_t i = 0; i < places.size(); ++i)
        if (places[i].status != service::Status::no_road_near &&
            !service::is_within(asked.outcome.places[i], Millis(45'000)))
            missing += asked.ready->inputs.demand.at(i).weight;
    const auto uncovered = service::uncovered(asked.ready, {}, Millis(45'000), 0, Task());
    Weight in_patches = uncovered.elsewhere.weight;
    for (const auto& patch : uncovered.patches) in_patches += patch.inside.weight;
    CHECK(in_patches == missing);
}

TEST_CASE("So it is with odd roads, turns that cost, closures, and sites upon one another") {
    const auto seed = GENERATE(values({1U, 2U, 3U, 4U, 5U, 6U, 7U, 8U, 9U, 10U, 13U, 19U, 67U, 89U}));
    std::mt19937 rng(seed);
    constexpr double kExtent = 1100;
    Town town = random_town(rng, kExtent);
    draw_odd_roads(town, rng, kExtent);
    std::uniform_real_distribution<double> xy(0, kExtent);
    auto q = seed % 2 == 0 ? test::turning(Millis(7'000), Millis(3'000), Millis(20'000)) : test::question_at_36();
    q.attach_limit = Millimetres::metres(seed % 3 == 0 ? 30 : 120);
    if (seed % 4 == 0) q.off_road_speed = Speed::km_per_hour(3);
    if (seed % 3 == 1) q.turnout = Millis(4'000);
    if (seed % 5 >= 3) q.towards = service::Towards::site;
    if (seed % 7 == 0) q.limit = Millimetres::metres(500);
    const At twice{xy(rng), xy(rng)};
    const auto asked =
        test::ask(town, test::households({{{100, 100}, 1}}),
                  test::posts({twice, twice, {160, 160}, {xy(rng), xy(rng)}}), q, random_closures(rng, kExtent));
    const std::vector<double> limits{15'000, 16'000, 60'000};
    const auto reached = reach_of(asked, limits);
    CAPTURE(seed);
    for (const auto& region : reached.regions) CHECK(test::flaw_of(region.polygons).empty());
    CHECK(compare(asked, reached, limits, kExtent, 3000, rng, 0) == 0);  // closures may leave a site with nothing
}

TEST_CASE("Along roads that an area slows or delays the value has no gap, and no line of equal time is a slit") {
    using roads::ClosureEffect;
    for (const auto effect : {ClosureEffect::slowed, ClosureEffect::delay, ClosureEffect::closed})
        for (const unsigned seed : {1U, 2U, 3U, 4U}) {
            INFO("effect " << static_cast<int>(effect) << ", seed " << seed);
            std::mt19937 rng(seed);
            constexpr double kExtent = 1600;
            const Town town = random_town(rng, kExtent);
            // The eastern half and more, by a line that is on no road.
            const auto plan = test::with({test::drawn(
                roads::ClosureShape::area, {{701.3, -900}, {5000, -900}, {5000, 5000}, {403.7, 5000}}, effect)});
            auto q = question_of(seed);
            q.turnout = {};
            const auto asked = test::ask(town, test::households({{{100, 100}, 1}}), test::posts({{300, 300}}), q);
            const auto values = nearest_values(asked.ready, plan, service::ValueOf::time, {}, Task());
            const auto& network = *asked.ready->inputs.network;
            const LinkId of_site = values->sites().front().attachment->link;  // before it one may have to go around
            std::vector<reach::Stretch> stretches;
            int looked = 0;
            for (std::uint32_t i = 0; i < network.link_count(); ++i) {
                const LinkId link(i);
                values->stretches(link, stretches);
                for (std::size_t k = 0; k + 1 < stretches.size(); ++k) {
                    const auto &a = stretches[k], &b = stretches[k + 1];
                    // Only what is shut parts a road; only a delay is paid at once.
                    if (effect != ClosureEffect::closed) CHECK(b.from == a.to);
                    if (effect == ClosureEffect::slowed && link != of_site)
                        CHECK(std::abs(b.value_from - a.value_to) <= 2);
                    ++looked;
                }
                if (effect != ClosureEffect::closed && !stretches.empty()) {
                    CHECK(stretches.front().from == 0);
                    CHECK(stretches.back().to == static_cast<double>(network.length(link).count()));
                }
            }
            CHECK(looked > (effect == ClosureEffect::closed ? 4 : 40));
            service::ReachRequest request;
            for (int second = 20; second <= 200; second += 20) request.limits.emplace_back(Millis(second * 1000));
            const auto lines = equal_lines(asked.ready, plan, request, Task());
            CHECK(lines.size() > 4);
            for (const auto& line : lines) {
                if (line.vertices.size() < 4 || !(line.vertices.front() == line.vertices.back())) continue;
                double length = 0;
                for (std::size_t k = 1; k < line.vertices.size(); ++k)
                    length += geo::distance_metres(line.vertices[k - 1], line.vertices[k]);
                CHECK(2 * std::abs(reach::ring_area(line.vertices)) / length > 0.05);
            }
        }
}
