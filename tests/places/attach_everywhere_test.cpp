#include <catch2/catch.hpp>
#include <cmath>
#include <random>

#include "geo/ellipsoid.h"
#include "support/town.h"

using namespace otoro;

namespace {

/// Every segment of every link, one by one.
std::optional<places::Attachment> slowly(const roads::Network& network, geo::LonLat place, Millimetres limit) {
    std::optional<places::Attachment> best;
    for (std::uint32_t l = 0; l < network.link_count(); ++l) {
        const auto shape = network.shape(LinkId(l));
        const auto foot = geo::foot_on_line(shape, geo::LocalFrame(place));
        const auto at = geo::between(shape[foot.segment], shape[foot.segment + 1], foot.along);
        const auto away = geo::distance(place, at);
        if (away > limit || (best && away >= best->off_road)) continue;
        double before = 0;
        for (std::size_t i = 0; i < foot.segment; ++i) before += geo::distance_metres(shape[i], shape[i + 1]);
        before += geo::distance_metres(shape[foot.segment], at);
        best = places::Attachment{LinkId(l), std::min(Millimetres::from_metres(before), network.length(LinkId(l))),
                                  away, at};
    }
    return best;
}

}  // namespace

TEST_CASE("A place is attached where going through every road says, near and tens of kilometres away") {
    std::mt19937 random(11);
    const auto at = [&](double low, double high) { return std::uniform_real_distribution<double>(low, high)(random); };
    test::Town town;
    for (int i = 0; i < 150; ++i) {
        const test::At a{at(0, 20'000), at(0, 20'000)};
        town.draw({a, {a.x + at(-300, 300), a.y + at(-300, 300)}});
    }
    std::vector<geo::LonLat> winding;
    for (int i = 0; i < 5000; ++i) winding.push_back(test::place({i * 5.0, 10'000 + 400 * std::sin(i / 30.0)}));
    town.lines().add(winding, test::road());
    town.draw({{-5000, -5000}, {30'000, 25'000}});
    const auto network = town.network();
    const std::vector<bool> usable(network->link_count(), true);
    int attached = 0;
    for (int i = 0; i < 1500; ++i) {
        const double far = i % 3 == 0 ? 70'000 : 0;
        const auto place = test::place({at(-far, 20'000 + far), at(-far, 20'000 + far)});
        const auto limit = Millimetres::metres(i % 2 == 0 ? 250 : 60'000);
        const auto quick = places::attach(*network, usable, place, limit), slow = slowly(*network, place, limit);
        INFO(i << ": " << place.lon << ", " << place.lat);
        REQUIRE(quick.has_value() == slow.has_value());
        if (!quick) continue;
        ++attached;
        REQUIRE(quick->off_road == slow->off_road);
        REQUIRE(quick->link == slow->link);
        REQUIRE(quick->offset == slow->offset);
    }
    CHECK(attached > 700);
}
