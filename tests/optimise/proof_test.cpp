#include "optimise/proof.h"

#include <catch2/catch.hpp>

#include "optimise/cover_rows.h"

using namespace otoro;
using namespace otoro::optimise;

namespace {

/// Three columns that bring 5, 3 and 2, no row twice; two are chosen.
struct Three {
    std::vector<std::int64_t> amounts{5, 3, 2};
    Covers covers;
    ChoiceRules rules;
    Three() {
        for (std::uint32_t c = 0; c < 3; ++c) covers.add_row(Columns{c});
        rules.columns = 3;
        rules.choose = 2;
    }
    [[nodiscard]] CoverRows rows() const { return {amounts, covers, rules, {1}}; }
    [[nodiscard]] bool holds(const Proof& proof, Wide bound) const {
        const CoverRows of = rows();
        return shows(proof, {rules, bound, of.grain(), Columns{0, 1}, &of});
    }
};
const GoalRows::Slope kExact{{5, 3, 2}, 0};

}  // namespace

TEST_CASE("A plane shows no more than the best columns that there is room for") {
    const Three three;
    Proof proof;
    proof.end_by_plane(proof.add_plane(kExact));
    CHECK(three.holds(proof, 8));
    CHECK_FALSE(three.holds(proof, 7));
}

TEST_CASE("A plane below the value of a set that is known is found out") {
    const Three three;
    Proof proof;
    proof.end_by_plane(proof.add_plane({{4, 3, 2}, 0}));
    CHECK_FALSE(three.holds(proof, 8));
}

TEST_CASE("A part that is left out, or a column that is settled too soon, is no proof") {
    const Three three;
    Proof one_part;
    one_part.divide(0, true);
    one_part.end_by_plane(one_part.add_plane(kExact));
    CHECK_FALSE(three.holds(one_part, 8));
    one_part.end_by_value();
    CHECK(three.holds(one_part, 8));  // without the first, all that is left brings 5
    Proof too_soon;
    const auto plane = too_soon.add_plane(kExact);
    too_soon.settle(1, false, plane);  // with it, 8 can be had
    too_soon.end_by_plane(plane);
    CHECK_FALSE(three.holds(too_soon, 7));
    Proof too_much;
    too_much.end_by_plane(too_much.add_plane(kExact));
    too_much.end_by_value();
    CHECK_FALSE(three.holds(too_much, 8));
    CHECK_FALSE(three.holds(Proof(), 8));
}

TEST_CASE("Rules end a part only where they do") {
    Three three;
    Proof proof;
    proof.end_by_rules();
    CHECK_FALSE(three.holds(proof, 8));
    three.rules.required = {0, 1, 2};
    CHECK(three.holds(proof, 8));
    three.rules.required = {0, 1};
    three.rules.apart = {{0, 1}};
    CHECK(three.holds(proof, 8));
    three.rules.required = {};
    three.rules.apart = {};
    three.rules.groups = {{{0}, 1}, {{1}, 1}, {{2}, 1}};
    CHECK(three.holds(proof, 8));
}

TEST_CASE("A group that wants its room leaves others less of it") {
    Three three;
    three.rules.groups = {{{1, 2}, 2}};
    Proof proof;
    proof.end_by_plane(proof.add_plane(kExact));
    const CoverRows of = three.rows();
    CHECK(shows(proof, {three.rules, 5, of.grain(), Columns{1, 2}, &of}));
    CHECK_FALSE(shows(proof, {three.rules, 4, of.grain(), Columns{1, 2}, &of}));
}

TEST_CASE("Money buys a part of the column that it does not reach for, rounded up") {
    Three three;
    const std::vector<std::int64_t> costs{4, 2, 2};
    three.rules.costs = costs;
    three.rules.budget = 5;
    Proof proof;
    proof.end_by_plane(proof.add_plane(kExact));
    // 3 for 2, then three quarters of 5: 6.75.
    CHECK(three.holds(proof, 7));
    CHECK_FALSE(three.holds(proof, 6));
}

TEST_CASE("Bounds between values are rounded to the value below") {
    Three three;
    three.amounts = {50, 30, 20};
    Proof proof;
    proof.end_by_plane(proof.add_plane({{50, 30, 20}, 9}));
    CHECK(three.holds(proof, 80));  // 89 is no value
    CHECK_FALSE(three.holds(proof, 79));
}
