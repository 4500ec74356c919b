#include "optimise/most_cover.h"

#include <algorithm>
#include <array>
#include <bit>
#include <catch2/catch.hpp>
#include <random>

#include "support/cases.h"

using namespace otoro;
using namespace otoro::optimise;

namespace {

struct Case {
    Covers covers;
    std::vector<std::int64_t> amounts;
    std::uint32_t columns = 0, choose = 0;
    std::vector<std::uint32_t> kept, never;
    [[nodiscard]] CoverAsked asked() const { return {amounts, covers}; }
    [[nodiscard]] ChoiceRules rules() const { return {columns, kept, choose, never}; }
    [[nodiscard]] Chosen solved(const ChoiceLimits& limits = {}) const {
        return most_cover(asked(), rules(), limits, Task());
    }
    [[nodiscard]] std::int64_t value(const std::vector<std::uint32_t>& chosen) const {
        std::int64_t sum = 0;
        for (std::uint32_t row = 0; row < covers.rows(); ++row) {
            const auto of = covers.of(row);
            const auto in = [&](const std::vector<std::uint32_t>& set) {
                return std::any_of(of.begin(), of.end(),
                                   [&](std::uint32_t c) { return std::count(set.begin(), set.end(), c) > 0; });
            };
            if (in(chosen) || in(kept)) sum += amounts[row];
        }
        return sum;
    }
    /// By trying every set.
    [[nodiscard]] std::int64_t best() const {
        std::vector<std::uint32_t> may;
        for (std::uint32_t c = 0; c < columns; ++c)
            if (std::count(kept.begin(), kept.end(), c) + std::count(never.begin(), never.end(), c) == 0)
                may.push_back(c);
        const auto most = static_cast<int>(std::min<std::size_t>(choose, may.size()));
        std::int64_t out = 0;
        for (std::uint32_t bits = 0; bits < 1U << may.size(); ++bits) {
            if (std::popcount(bits) != most) continue;
            std::vector<std::uint32_t> set;
            for (std::uint32_t k = 0; k < may.size(); ++k)
                if ((bits >> k & 1U) != 0) set.push_back(may[k]);
            out = std::max(out, value(set));
        }
        return out;
    }
};

Case random_case(std::mt19937& random) {
    const auto below = [&](std::uint32_t n) { return static_cast<std::uint32_t>(random() % n); };
    Case c;
    c.columns = 1 + below(11);
    c.choose = below(6);
    const std::uint32_t rows = below(40), one_in = 2 + below(4);
    for (std::uint32_t row = 0; row < rows; ++row) {
        std::vector<std::uint32_t> of;
        for (std::uint32_t k = 0; k < c.columns; ++k)
            if (below(one_in) == 0) of.push_back(k);
        c.covers.add_row(of);
        c.amounts.push_back(below(5) == 0 ? 0 : 1 + below(6));
    }
    for (std::uint32_t k = 0; k < c.columns; ++k) {
        if (below(7) == 0)
            c.kept.push_back(k);
        else if (below(7) == 0)
            c.never.push_back(k);
    }
    return c;
}

}  // namespace

TEST_CASE("What two cover is not counted twice, and what is kept is not chosen again") {
    Case c;
    c.columns = 3;
    c.choose = 2;
    c.covers.add_row(std::array{0U, 1U});
    c.covers.add_row(std::array{0U, 1U});
    c.covers.add_row(std::array{2U});
    c.amounts = {5, 5, 1};
    // The second would bring nothing beside the first.
    const auto both = c.solved();
    CHECK(both.columns == std::vector<std::uint32_t>{0, 2});
    CHECK(both.value == 11);
    CHECK(both.proven());
    c.kept = {1};
    c.choose = 1;
    CHECK(c.solved().columns == std::vector<std::uint32_t>{2});
    c.never = {2};
    CHECK(c.solved().value == 10);
    c.choose = 9;
    CHECK(c.solved().columns == std::vector<std::uint32_t>{0});
}

TEST_CASE("Taking the best one after another is not always best") {
    // The large one of 6 overlaps with both of 5 that together have 10.
    Case c;
    c.columns = 3;
    c.choose = 2;
    for (const auto& [columns, amount] : {std::pair{std::vector{0U, 1U}, 3}, std::pair{std::vector{0U, 2U}, 3},
                                          std::pair{std::vector{1U}, 2}, std::pair{std::vector{2U}, 2}}) {
        c.covers.add_row(columns);
        c.amounts.push_back(amount);
    }
    const auto chosen = c.solved();
    CHECK(chosen.columns == std::vector<std::uint32_t>{1, 2});
    CHECK(chosen.value == 10);
}

TEST_CASE("The set that covers most is that of trying every set, and proven, on random cases") {
    std::mt19937 random(7);
    for (int n = 0; n < otoro::test::cases(1500); ++n) {
        INFO("case " << n);
        const auto c = random_case(random);
        const auto chosen = c.solved();
        REQUIRE(chosen.value == c.best());
        REQUIRE(chosen.value == c.value(chosen.columns));
        REQUIRE(chosen.proven());
        REQUIRE(std::is_sorted(chosen.columns.begin(), chosen.columns.end()));
    }
}

TEST_CASE("Left off before it is proven the bound still holds, and a gap that is allowed is kept to") {
    std::mt19937 random(8);
    for (int n = 0; n < otoro::test::cases(300); ++n) {
        INFO("case " << n);
        const auto c = random_case(random);
        const auto at_once = c.solved({0, {}, [](const Chosen&) { return true; }});
        REQUIRE(at_once.value == c.value(at_once.columns));
        REQUIRE(at_once.bound >= c.best());
        const auto near = c.solved({0.1});
        REQUIRE(near.bound >= c.best());
        REQUIRE(static_cast<double>(near.bound - near.value) <= 0.1 * static_cast<double>(near.value));
    }
}
