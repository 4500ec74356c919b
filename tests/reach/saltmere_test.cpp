#include <atomic>
#include <catch2/catch.hpp>
#include <cmath>
#include <random>

#include "files/add_data.h"
#include "service/reach.h"
#include "service/surface.h"
#include "support/cases.h"
#include "support/reaching.h"

using namespace otoro;

namespace {

service::Study saltmere() {
    const std::string folder = OTORO_SALTMERE;
    const auto layer = [&](const char* file) { return files::LayerChoice{folder + "/" + file, "", ""}; };
    service::Study s;
    s = with_roads(std::move(s), files::add_roads({layer("roads.gpkg"), {}}, {}, Task()));
    s = with_demand(std::move(s), files::add_demand({layer("households.csv"), {}, {}}, "", Task()));
    s = with_sites(std::move(s), files::add_sites({layer("ambulance-posts.geojson"), {}, {}, {}, {}}, "", Task()));
    s.question().profile.mode = travel::Mode::respond;
    return s;
}

test::Answered asked_of(const service::Study& s, const service::Plan& plan = {}) {
    const auto ready = prepare(*s.inputs(), s.question(), nullptr, Task());
    return {ready, answer(*ready, plan, Task())};
}

}  // namespace

TEST_CASE("On Saltmere, areas agree with the table for every household and for 100,000 random spots") {
    const auto asked = asked_of(saltmere());
    const std::vector<double> limits{240'000, 480'000};
    const auto reached = test::reach_of(asked, limits);
    for (const auto& r : reached.regions) CHECK(test::flaw_of(r.polygons).empty());
    const reach::Bands bands{limits, 0};
    const reach::Classes classes{2};
    const auto class_of = [&](const service::PlaceOutcome& p) {
        return p.site ? classes.of(p.site->value(), bands.of(static_cast<double>(p.time.count()))) : reach::kNobody;
    };
    const auto by_table = [&](geo::LonLat p) {
        return class_of(service::read_spot(*asked.ready, asked.outcome, p).outcome);
    };
    const auto scale = geo::MetresPerDegree::at_latitude(46.2);
    const auto near_edge = [&](geo::LonLat p, std::uint32_t area, std::uint32_t table) {
        for (int k = 0; k < 24; ++k) {
            const double a = k * 0.2618;
            const geo::LonLat q{p.lon + std::cos(a) / scale.east, p.lat + std::sin(a) / scale.north};
            if (reached.ground(q) != area || by_table(q) != table) return true;
        }
        return false;
    };
    int wrong = 0, edges = 0, inside = 0;
    const auto look = [&](geo::LonLat p, std::uint32_t table) {
        const auto area = reached.ground(p);
        inside += table != reach::kNobody ? 1 : 0;
        if (area == table) return;
        if (near_edge(p, area, table)) {
            ++edges;
            return;
        }
        ++wrong;
        UNSCOPED_INFO(p.lon << "," << p.lat << ": area " << area << ", table " << table);
    };
    for (std::uint32_t i = 0; i < asked.outcome.places.size(); ++i)
        if (const auto& at = asked.ready->inputs.demand.at(i).position) look(*at, class_of(asked.outcome.places[i]));
    std::mt19937 rng(7);
    const auto& e = asked.ready->inputs.network->extent();
    std::uniform_real_distribution<double> lon(e.west, e.east), lat(e.south, e.north);
    for (int i = 0; i < test::cases(100'000); ++i) {
        const geo::LonLat p{lon(rng), lat(rng)};
        look(p, by_table(p));
    }
    CHECK(wrong == 0);
    CHECK(edges < 100);
    CHECK(inside > 15'000);
}

TEST_CASE("Bands add up to the full area, and the nearest sites' areas to the merged one") {
    const auto study = saltmere();
    const auto ready = std::shared_ptr(prepare(*study.inputs(), study.question(), nullptr, Task()));
    service::ReachRequest request;
    request.limits = {Millis::minutes(3), Millis::minutes(6), Millis::minutes(9)};
    const auto sum = [](const service::Reach& r, const std::optional<Amount>& to = std::nullopt) {
        double square_metres = 0;
        std::uint32_t places = 0;
        std::int64_t road = 0;
        for (const auto& a : r.areas) {
            if (to && a.to != *to) continue;
            square_metres += a.square_metres;
            places += a.inside.places;
            road += a.road.count();
        }
        return std::tuple(square_metres, places, road);
    };
    const auto bands = sum(reach_areas(ready, {}, request, Task()));
    request.full = true;
    const auto full = sum(reach_areas(ready, {}, request, Task()), Amount(Millis::minutes(9)));
    request.overlap = service::Overlap::merged;
    const auto merged = sum(reach_areas(ready, {}, request, Task()), Amount(Millis::minutes(9)));
    CHECK(std::get<0>(bands) == Approx(std::get<0>(full)).epsilon(1e-9));
    CHECK(std::get<0>(bands) == Approx(std::get<0>(merged)).epsilon(1e-9));
    CHECK(std::get<1>(bands) == std::get<1>(full));
    CHECK(std::get<1>(bands) == std::get<1>(merged));
    CHECK(std::abs(std::get<2>(bands) - std::get<2>(merged)) < 100);  // of 1,000 km, rounded area by area
    // And with the table.
    const auto outcome = answer(*ready, {}, Task());
    CHECK(std::get<1>(bands) == within(outcome, Millis::minutes(9)).places);
    request.overlap = service::Overlap::count;
    request.limits = {Millis::minutes(9)};
    const auto counted = reach_areas(ready, {}, request, Task());
    CHECK(std::get<0>(sum(counted)) == Approx(std::get<0>(merged)).epsilon(1e-6));
    CHECK(std::get<1>(sum(counted)) == std::get<1>(merged));
    // As often as they are counted: all sites' own areas together.
    request.overlap = service::Overlap::each;
    const auto each = reach_areas(ready, {}, request, Task());
    double often = 0;
    for (const auto& a : counted.areas) often += a.sites_reaching * a.square_metres;
    CHECK(often == Approx(std::get<0>(sum(each))).epsilon(1e-6));
}

TEST_CASE("Simplified areas are valid, and nowhere farther from the true ones than was asked for") {
    const auto study = saltmere();
    const auto ready = std::shared_ptr(prepare(*study.inputs(), study.question(), nullptr, Task()));
    service::ReachRequest request;
    request.limits = {Millis::minutes(4), Millis::minutes(8)};
    const auto exact = reach_areas(ready, {}, request, Task());
    request.simplify_metres = 5;
    const auto simple = reach_areas(ready, {}, request, Task());
    REQUIRE(exact.areas.size() == simple.areas.size());
    std::size_t before = 0, after = 0;
    for (std::size_t i = 0; i < exact.areas.size(); ++i) {
        CHECK(test::flaw_of(simple.areas[i].polygons).empty());
        CHECK(simple.areas[i].inside.places == exact.areas[i].inside.places);
        for (const auto& p : exact.areas[i].polygons) before += p.outer.size();
        for (const auto& p : simple.areas[i].polygons) after += p.outer.size();
        // Every vertex that stays was there; every one that went is within 5 m of what is left.
        for (const auto& p : exact.areas[i].polygons)
            for (const auto v : p.outer) {
                double least = 1e9;
                const geo::LocalFrame frame(v);
                for (const auto& q : simple.areas[i].polygons) {
                    least = std::min(least, geo::foot_on_line(q.outer, frame).squared);
                    for (const auto& h : q.holes) least = std::min(least, geo::foot_on_line(h, frame).squared);
                }
                CHECK(std::sqrt(least) < 5.01);
            }
    }
    CHECK(after < before / 2);
}

TEST_CASE("Every cell of a surface says what a place in its middle would be told") {
    const auto study = saltmere();
    const auto ready = std::shared_ptr(prepare(*study.inputs(), study.question(), nullptr, Task()));
    const auto outcome = answer(*ready, {}, Task());
    const auto values = nearest_values(ready, {}, service::ValueOf::time, {}, Task());
    const auto& e = ready->inputs.network->extent();
    service::SurfaceGrid grid{300, 280, [&](double c, double r) {
                                  return geo::LonLat{e.west + (e.east - e.west) * (c + 0.5) / 300,
                                                     e.north - (e.north - e.south) * (r + 0.5) / 280};
                              }};
    int wrong = 0, there = 0;
    std::vector<std::optional<geo::LonLat>> spots;
    std::vector<float> all;
    surface(
        *values, service::ValueOf::time, grid,
        [&](std::uint32_t first, std::uint32_t rows, const std::vector<float>& cells) {
            for (std::uint32_t r = 0; r < rows; ++r)
                for (std::uint32_t c = 0; c < grid.columns; ++c) {
                    const float value = cells[r * grid.columns + c];
                    const auto spot = grid.place_of(c, first + r);
                    spots.push_back(spot);
                    all.push_back(value);
                    const auto read = read_spot(*ready, outcome, spot);
                    const bool has = read.outcome.site.has_value();
                    there += has ? 1 : 0;
                    // Between two roads a millimetre may tell.
                    const bool same = has ? std::abs(value - static_cast<float>(read.outcome.time.minutes())) < 0.001F
                                          : std::isnan(value);
                    wrong += same ? 0 : 1;
                }
        },
        Task());
    CHECK(there > 20'000);
    CHECK(wrong <= 15);
    const auto sampled = surface_at(*values, service::ValueOf::time, spots, Task());
    int differ = 0;
    for (std::size_t i = 0; i < all.size(); ++i)
        differ += std::isnan(sampled[i]) != std::isnan(all[i]) || std::abs(sampled[i] - all[i]) > 0.001F ? 1 : 0;
    CHECK(differ <= 15);
}
