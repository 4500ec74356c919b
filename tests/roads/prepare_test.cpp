#include "roads/prepare.h"

#include <catch2/catch.hpp>
#include <random>

#include "roads/gaps.h"
#include "support/town.h"

using namespace otoro;
using roads::JoinRule;
using test::At;
using test::Town;

namespace {

roads::Preparation by(JoinRule rule) { return {rule, {}}; }
std::size_t pieces(const roads::Network& net) {
    return find_pieces(net, std::vector<bool>(net.link_count(), true)).pieces.size();
}

roads::Attributes at_level(int level) {
    auto a = test::road();
    a.set_level(level);
    return a;
}

}  // namespace

TEST_CASE("A cross of two lines joins only where lines that cross are joined") {
    const Town cross = Town().draw({{-50, 0}, {50, 0}}).draw({{0, -50}, {0, 50}});
    CHECK(pieces(*cross.prepared(by(JoinRule::ends))) == 2);
    CHECK(pieces(*cross.prepared(by(JoinRule::shared_vertices))) == 2);
    const auto net = cross.prepared(by(JoinRule::crossings));
    CHECK(pieces(*net) == 1);
    CHECK(net->link_count() == 4);
    CHECK(net->node_count() == 5);
    for (std::uint32_t i = 0; i < 4; ++i) CHECK(net->length(LinkId(i)).metres() == Approx(50).margin(0.002));
}

TEST_CASE("Lines that pass through a vertex of each other join at shared vertices") {
    const Town town = Town().draw({{-50, 0}, {0, 0}, {50, 0}}).draw({{0, -50}, {0, 0}, {0, 50}});
    CHECK(pieces(*town.prepared(by(JoinRule::ends))) == 2);
    CHECK(town.prepared(by(JoinRule::shared_vertices))->link_count() == 4);
    CHECK(town.prepared(by(JoinRule::crossings))->link_count() == 4);
}

TEST_CASE("A bridge does not join the road below it") {
    const Town town = Town().draw({{-50, 0}, {50, 0}}).draw({{0, -50}, {0, 50}}, at_level(1));
    CHECK(pieces(*town.prepared(by(JoinRule::crossings))) == 2);
}

TEST_CASE("A side road that ends on another between its vertices joins where lines that touch are joined") {
    const Town town = Town().draw({{0, 0}, {100, 0}}).draw({{40, 0}, {40, 60}});
    CHECK(pieces(*town.prepared(by(JoinRule::shared_vertices))) == 2);
    const auto net = town.prepared(by(JoinRule::crossings));
    CHECK(pieces(*net) == 1);
    CHECK(net->link_count() == 3);
}

TEST_CASE("A road that crosses itself is cut there") {
    const Town town = Town().draw({{0, 0}, {100, 0}, {100, 50}, {50, 50}, {50, -50}});
    const auto net = town.prepared(by(JoinRule::crossings));
    CHECK(net->link_count() == 3);
    CHECK(net->total_length().metres() == Approx(100 + 50 + 50 + 100).margin(0.01));
}

TEST_CASE("Cutting keeps lengths, names, classes and times") {
    Town town;
    auto timed = test::road(roads::RoadClass::primary);
    timed.fixed_ms = 10'001;
    timed.name = town.lines().names.add("Long Causeway");
    town.draw({{0, 0}, {300, 0}}, timed).draw({{100, -50}, {100, 50}});
    const auto net = town.prepared(by(JoinRule::crossings));
    REQUIRE(net->link_count() == 4);
    std::uint32_t ms = 0;
    for (std::uint32_t i = 0; i < 2; ++i) {
        CHECK(net->name(LinkId(i)) == "Long Causeway");
        CHECK(net->attributes(LinkId(i)).road_class == roads::RoadClass::primary);
        CHECK(net->lines().as_read(i) == 0);
        ms += net->attributes(LinkId(i)).fixed_ms;
    }
    CHECK(ms == 10'001);
    CHECK(net->attributes(LinkId(0u)).fixed_ms == Approx(3334).margin(2));
}

TEST_CASE("Random lines joined where they cross: every crossing found, nothing lengthened") {
    for (int seed = 0; seed < 40; ++seed) {
        std::mt19937 dice(static_cast<unsigned>(seed));
        std::uniform_real_distribution<double> place(0, 400);
        std::vector<std::pair<At, At>> drawn;
        Town town;
        for (int i = 0; i < 14; ++i) {
            drawn.push_back({{place(dice), place(dice)}, {place(dice), place(dice)}});
            town.draw({drawn.back().first, drawn.back().second});
        }
        // The slow, obvious way: every pair of segments.
        std::size_t crossings = 0;
        for (std::size_t i = 0; i < drawn.size(); ++i)
            for (std::size_t j = i + 1; j < drawn.size(); ++j) {
                const auto side = [](At a, At b, At p) {
                    return (b.x - a.x) * (p.y - a.y) - (b.y - a.y) * (p.x - a.x);
                };
                const auto [a, b] = drawn[i];
                const auto [c, d] = drawn[j];
                crossings += side(a, b, c) * side(a, b, d) < 0 && side(c, d, a) * side(c, d, b) < 0;
            }
        const auto plain = town.network();
        const auto net = town.prepared(by(JoinRule::crossings));
        CHECK(net->link_count() == 14 + 2 * crossings);
        CHECK(net->node_count() == 28 + crossings);
        CHECK(net->total_length().metres() ==
              Approx(plain->total_length().metres()).margin(0.002 * (1.0 + static_cast<double>(crossings))));
    }
}

TEST_CASE("Two ends that miss each other by three metres are a gap, and closing it joins them") {
    Town town = Town().draw({{0, 0}, {100, 0}}).draw({{103, 0}, {200, 0}});
    const auto net = town.network();
    const auto all = find_pieces(*net, std::vector<bool>(2, true));
    const auto gaps = find_gaps(*net, all, Millimetres::metres(10), Task());
    REQUIRE(gaps.size() == 1);
    CHECK(gaps[0].distance.metres() == Approx(3).margin(0.01));
    CHECK(gaps[0].meets_end);
    CHECK(gaps[0].joins_pieces());
    CHECK(find_gaps(*net, all, Millimetres::metres(2), Task()).empty());

    const auto closed = town.prepared({JoinRule::ends, {gaps[0].closing}});
    CHECK(pieces(*closed) == 1);
    CHECK(closed->link_count() == 3);
    CHECK(closed->length(LinkId(2u)).metres() == Approx(3).margin(0.01));
    CHECK(closed->lines().as_read(2) == roads::Lines::kAdded);
    CHECK(
        find_gaps(*closed, find_pieces(*closed, std::vector<bool>(3, true)), Millimetres::metres(10), Task()).empty());
    CHECK(town.lines().count() == 2);  // the lines as read are as they were
}

TEST_CASE("An end that nearly meets the middle of a road is a gap, and closing it cuts the road there") {
    const Town town = Town().draw({{0, 0}, {100, 0}}).draw({{40, 5}, {40, 80}});
    const auto net = town.network();
    const auto gaps = find_gaps(*net, find_pieces(*net, std::vector<bool>(2, true)), Millimetres::metres(10), Task());
    REQUIRE(gaps.size() == 1);
    CHECK_FALSE(gaps[0].meets_end);
    const auto closed = town.prepared({JoinRule::ends, {gaps[0].closing}});
    CHECK(pieces(*closed) == 1);
    CHECK(closed->link_count() == 4);
    CHECK(closed->total_length().metres() == Approx(100 + 75 + 5).margin(0.01));
}

TEST_CASE("What is joined by a short way is no gap, a dead end that would be far round is") {
    // The stub beside its own junction is joined; the two closes that back onto each other are not.
    const Town stub = Town().draw({{0, 0}, {100, 0}}).draw({{100, 0}, {104, 4}}).draw({{100, 0}, {200, 0}});
    const auto a = stub.network();
    CHECK(find_gaps(*a, find_pieces(*a, std::vector<bool>(3, true)), Millimetres::metres(10), Task()).empty());
    const Town closes = Town().draw({{0, 0}, {0, 200}}).draw({{0, 200}, {96, 200}, {96, 0}}).draw({{0, 0}, {90, 0}});
    const auto b = closes.network();
    const auto gaps = find_gaps(*b, find_pieces(*b, std::vector<bool>(3, true)), Millimetres::metres(10), Task());
    REQUIRE(gaps.size() == 1);
    CHECK_FALSE(gaps[0].joins_pieces());
}

TEST_CASE("Gaps close also between roads whose source names its joints") {
    Town town = Town().draw({{0, 0}, {100, 0}}).draw({{40, 5}, {40, 80}});
    town.lines().named_ends = {{1, 2}, {3, 4}};
    const auto net = town.network();
    const auto gaps = find_gaps(*net, find_pieces(*net, std::vector<bool>(2, true)), Millimetres::metres(10), Task());
    REQUIRE(gaps.size() == 1);
    CHECK(pieces(*town.prepared({JoinRule::ends, {gaps[0].closing}})) == 1);
}

TEST_CASE("A piece cut off knows the nearest road that it could be joined to") {
    const Town town = Town().draw({{0, 0}, {300, 0}}).draw({{300, 0}, {300, 100}}).draw({{100, 64}, {100, 164}});
    const auto net = town.network();
    const auto all = find_pieces(*net, std::vector<bool>(3, true));
    const auto join = nearest_joins(*net, all, {1}).front();
    REQUIRE(join);
    CHECK(join->distance.metres() == Approx(64).margin(0.05));
    CHECK(pieces(*town.prepared({JoinRule::ends, {join->closing}})) == 1);
}

TEST_CASE("Dead ends are counted") {
    const auto net = Town().draw({{0, 0}, {100, 0}}).draw({{100, 0}, {200, 0}}).draw({{100, 0}, {100, 50}}).network();
    CHECK(count_dead_ends(*net, find_pieces(*net, std::vector<bool>(3, true))) == 3);
}

TEST_CASE("A road that bends back on itself has a gap where it nearly closes, judged by the way along it") {
    // A crescent of some 300 m whose end comes within 4 m of its middle, and a hook so small that its end is near by
    // anyway.
    const auto gaps_of = [](const Town& town) {
        const auto net = town.network();
        return find_gaps(*net, find_pieces(*net, std::vector<bool>(net->link_count(), true)), Millimetres::metres(10),
                         Task());
    };
    const auto crescent = gaps_of(Town().draw({{0, 0}, {100, 0}, {100, 100}, {50, 100}, {50, 4}}));
    REQUIRE(crescent.size() == 1);
    CHECK(crescent[0].distance.metres() == Approx(4).margin(0.01));
    CHECK(crescent[0].link == LinkId(0u));
    CHECK(gaps_of(Town().draw({{0, 0}, {100, 0}, {100, 8}, {96, 8}, {96, 4}})).empty());
    // The other road bends: its end is near, but the way along it is long.
    const auto bent = gaps_of(Town().draw({{0, 0}, {100, 0}}).draw({{0, 0}, {0, 80}, {104, 80}, {104, 5}, {300, 5}}));
    REQUIRE(bent.size() == 1);
    CHECK(bent[0].distance.metres() == Approx(6.403).margin(0.01));
}
