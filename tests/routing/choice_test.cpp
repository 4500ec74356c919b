#include "routing/choice.h"

#include <catch2/catch.hpp>

using otoro::routing::Asked;
using otoro::routing::choose;
using otoro::routing::Manner;

namespace {

constexpr std::uint32_t kCounty = 700'000;
constexpr std::size_t kArcs = 3'700'000;

Asked county() { return {kCounty, kArcs, 1, 0, {}, 10'000}; }

}  // namespace

TEST_CASE("A district is searched plainly, prepared or not, and a county too until it is prepared") {
    CHECK(choose({4'000, 0, 1, 0, {}, 0}).manner == Manner::plain);
    CHECK(choose({4'000, 0, 1, 0, {}, 0}).why.find("4,000 junctions") != std::string::npos);
    auto unprepared = county();
    unprepared.hierarchy_arcs = 0;
    CHECK(choose(unprepared).manner == Manner::plain);
    CHECK(choose(unprepared).why == "Searched plainly: nothing is prepared.");
}

TEST_CASE("A prepared county is swept for all, and searched plainly within a small limit") {
    CHECK(choose(county()).manner == Manner::one_to_all);
    CHECK(choose(county()).why.find("3,700,000 prepared arcs") != std::string::npos);
    auto near = county();
    near.limit = 480'000;  // 48 roads of the mean length away
    CHECK(choose(near).manner == Manner::plain);
    CHECK(choose(near).why.find("of 700,000 junctions lie within the limit") != std::string::npos);
    near.limit = 36'000'000;
    CHECK(choose(near).manner == Manner::one_to_all);
}

TEST_CASE("A table of few places is joined pair by pair, one to nearly everywhere is swept") {
    auto table = county();
    table.sources = 1'000;
    table.targets = 1'000;
    CHECK(choose(table).manner == Manner::joining);
    table.sources = 3;
    table.targets = 600'000;
    CHECK(choose(table).manner == Manner::one_to_all);
    CHECK(choose(table).microseconds > choose(county()).microseconds);
}
