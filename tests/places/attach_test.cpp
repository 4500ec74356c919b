#include <catch2/catch.hpp>
#include <random>

#include "geo/ellipsoid.h"
#include "places/demand.h"
#include "roads/shape.h"
#include "support/town.h"

using namespace otoro;
using test::At;
using test::Town;

namespace {
const Millimetres kLimit = Millimetres::metres(250);
std::optional<places::Attachment> attach_at(const roads::Network& net, At p, Millimetres limit = kLimit) {
    return places::attach(net, std::vector<bool>(net.link_count(), true), test::place(p), limit);
}
}  // namespace

TEST_CASE("A place is joined to the nearest point of the nearest road") {
    const auto net = Town().draw({{0, 0}, {200, 0}}).draw({{0, 100}, {200, 100}}).network();
    const auto a = attach_at(*net, {60, 30});
    REQUIRE(a);
    CHECK(a->link == LinkId(0u));
    CHECK(a->offset.metres() == Approx(60).margin(0.01));
    CHECK(a->off_road.metres() == Approx(30).margin(0.01));
    CHECK(attach_at(*net, {60, 70})->link == LinkId(1u));
}

TEST_CASE("Offsets are measured along the bends") {
    const auto net = Town().draw({{0, 0}, {100, 0}, {100, 100}}).network();
    CHECK(attach_at(*net, {110, 40})->offset.metres() == Approx(140).margin(0.01));
}

TEST_CASE("Beyond the attach limit there is nothing, at the limit there is") {
    const auto net = Town().draw({{0, 0}, {200, 0}}).network();
    CHECK_FALSE(attach_at(*net, {50, 251}));
    CHECK(attach_at(*net, {50, 249}));
    const auto exact = attach_at(*net, {50, 100})->off_road;
    CHECK(attach_at(*net, {50, 100}, exact));
    CHECK_FALSE(attach_at(*net, {50, 100}, exact - Millimetres(1)));
}

TEST_CASE("Beyond the end of a road the end itself is nearest") {
    const auto net = Town().draw({{0, 0}, {200, 0}}).network();
    const auto a = attach_at(*net, {230, 40});
    CHECK(a->offset == net->length(LinkId(0u)));
    CHECK(a->off_road.metres() == Approx(50).margin(0.01));
}

TEST_CASE("Roads at the same distance: the first in the file is taken") {
    const auto net = Town().draw({{100, 0}, {100, 80}}).draw({{0, 0}, {100, 0}}).draw({{100, 0}, {100, -80}}).network();
    CHECK(attach_at(*net, {130, 0})->link == LinkId(0u));
}

TEST_CASE("A road that the traveller may not use is passed over") {
    const auto net = Town().draw({{0, 0}, {200, 0}}).draw({{0, 100}, {200, 100}}).network();
    const auto a = places::attach(*net, {false, true}, test::place({50, 5}), kLimit);
    CHECK(a->link == LinkId(1u));
    CHECK(a->off_road.metres() == Approx(95).margin(0.01));
}

TEST_CASE("Attaching many places agrees with looking at every road for each") {
    std::mt19937_64 dice(5);
    std::uniform_real_distribution<double> at(-1500, 1500), bend(-120, 120);
    Town town;
    for (int i = 0; i < 300; ++i) {
        const At p{at(dice), at(dice)};
        town.draw({p, {p.x + bend(dice), p.y + bend(dice)}, {p.x + 2 * bend(dice), p.y + 2 * bend(dice)}});
    }
    const auto net = town.network();
    const std::vector<bool> usable(net->link_count(), true);
    std::vector<std::optional<geo::LonLat>> places;
    for (int i = 0; i < 60; ++i) places.emplace_back(test::place({at(dice), at(dice)}));
    places.emplace_back(std::nullopt);
    const auto attached = places::attach_set(*net, usable, places, {}, kLimit, Task());
    CHECK_FALSE(attached.back());
    for (std::size_t i = 0; i + 1 < places.size(); ++i) {
        // The slow way: sample every segment finely and take the least distance.
        double least = 1e9;
        for (std::uint32_t l = 0; l < net->link_count(); ++l) {
            const auto shape = net->shape(LinkId(l));
            for (std::size_t s = 1; s < shape.size(); ++s)
                for (int k = 0; k <= 200; ++k)
                    least = std::min(least,
                                     geo::distance_metres(*places[i], geo::between(shape[s - 1], shape[s], k / 200.0)));
        }
        if (attached[i]) {
            REQUIRE(attached[i]->off_road.metres() <= least + 0.001);
            REQUIRE(attached[i]->off_road.metres() >= least - 0.7);
        } else {
            REQUIRE(least > 249);
        }
    }
}

TEST_CASE("A part of a road's shape can be cut out in either direction") {
    const auto net = Town().draw({{0, 0}, {100, 0}, {100, 100}}).network();
    const auto there = roads::shape_between(*net, LinkId(0u), Millimetres::metres(50), Millimetres::metres(150));
    REQUIRE(there.size() == 3);
    CHECK(geo::distance_metres(there[0], test::place({50, 0})) < 0.01);
    CHECK(geo::distance_metres(there[1], test::place({100, 0})) < 0.01);
    CHECK(geo::distance_metres(there[2], test::place({100, 50})) < 0.01);
    auto back = roads::shape_between(*net, LinkId(0u), Millimetres::metres(150), Millimetres::metres(50));
    std::reverse(back.begin(), back.end());
    CHECK(back == there);
}
