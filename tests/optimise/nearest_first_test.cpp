#include "optimise/nearest_first.h"

#include <algorithm>
#include <catch2/catch.hpp>
#include <random>
#include <tuple>

#include "support/cases.h"

using namespace otoro;
using namespace otoro::optimise;

namespace {

struct Table {
    std::vector<std::vector<Pair>> rows;  // cheapest first
    mutable int asked = 0;

    [[nodiscard]] AskForPairs ask() const {
        return [this](std::span<const std::uint32_t> wanted, const std::vector<bool>& has_room, std::uint32_t each) {
            ++asked;
            Pairs out;
            for (const std::uint32_t row : wanted) {
                std::vector<Pair> some;
                for (const Pair& p : rows[row])
                    if (has_room[p.column] && some.size() < each) some.push_back(p);
                out.add_row(some);
            }
            return out;
        };
    }
};

/// Every pair there is, in order: who comes first is first served.
std::vector<Part> plainly(const Table& table, std::vector<std::int64_t> amounts, std::vector<std::int64_t> room,
                          const std::vector<std::uint32_t>& ranks, bool split) {
    std::vector<std::tuple<std::uint32_t, std::uint32_t, std::uint32_t, std::uint32_t>> all;
    for (std::uint32_t row = 0; row < table.rows.size(); ++row)
        for (const Pair& p : table.rows[row]) all.emplace_back(ranks.empty() ? 0 : ranks[row], p.cost, p.column, row);
    std::sort(all.begin(), all.end());
    std::vector<Part> out;
    std::vector<bool> served(amounts.size(), false);
    for (const auto& [rank, cost, column, row] : all) {
        if (served[row]) continue;
        const std::int64_t amount = room[column] >= amounts[row] ? amounts[row] : split ? room[column] : 0;
        if (amount == 0 && amounts[row] > 0) continue;
        out.push_back({row, column, amount});
        amounts[row] -= amount;
        if (room[column] != kNoBound) room[column] -= amount;
        served[row] = amounts[row] == 0;
    }
    std::sort(out.begin(), out.end(),
              [](const Part& a, const Part& b) { return std::tie(a.row, a.column) < std::tie(b.row, b.column); });
    return out;
}

}  // namespace

TEST_CASE("The nearest of all comes first, and a stated order before that") {
    const Table table{{{{0, 5}, {1, 6}}, {{0, 3}, {1, 9}}}, 0};
    const std::vector<std::int64_t> amounts{1, 1}, room{1, 5};
    const auto nearest = nearest_first({amounts, room}, {}, Splitting::whole_rows, table.ask(), 2, Task());
    CHECK(nearest.parts == std::vector<Part>{{0, 1, 1}, {1, 0, 1}});
    CHECK(nearest.total == 9);
    const std::vector<std::uint32_t> ranks{0, 1};
    const auto ranked = nearest_first({amounts, room}, ranks, Splitting::whole_rows, table.ask(), 2, Task());
    CHECK(ranked.parts == std::vector<Part>{{0, 0, 1}, {1, 1, 1}});
}

TEST_CASE("Who does not fit is passed over, and a smaller one still comes in") {
    const Table table{{{{0, 1}}, {{0, 2}}}, 0};
    const std::vector<std::int64_t> amounts{5, 2}, room{3};
    const auto whole = nearest_first({amounts, room}, {}, Splitting::whole_rows, table.ask(), 1, Task());
    CHECK(whole.parts == std::vector<Part>{{1, 0, 2}});
    CHECK(whole.left_over == 5);
    const auto split = nearest_first({amounts, room}, {}, Splitting::allowed, table.ask(), 1, Task());
    CHECK(split.parts == std::vector<Part>{{0, 0, 3}});
    CHECK(split.left_over == 4);
}

TEST_CASE("Knowing few pairs at a time changes nothing, on random tables") {
    std::mt19937 random(3);
    const auto up_to = [&](std::int64_t n) { return std::uniform_int_distribution<std::int64_t>(0, n)(random); };
    for (int n = 0; n < otoro::test::cases(500); ++n) {
        Table table;
        std::vector<std::int64_t> amounts, room;
        std::vector<std::uint32_t> ranks;
        const std::int64_t rows = up_to(20), columns = 1 + up_to(7);
        for (std::int64_t i = 0; i < rows; ++i) {
            std::vector<Pair> row;
            for (std::int64_t k = 0; k < columns; ++k)
                if (up_to(5) > 0) row.push_back({static_cast<std::uint32_t>(k), static_cast<std::uint32_t>(up_to(9))});
            std::sort(row.begin(), row.end(), [](const Pair& a, const Pair& b) {
                return std::tie(a.cost, a.column) < std::tie(b.cost, b.column);
            });
            table.rows.push_back(row);
            amounts.push_back(up_to(6));
            if (n % 2 == 0) ranks.push_back(static_cast<std::uint32_t>(up_to(2)));
        }
        for (std::int64_t k = 0; k < columns; ++k) room.push_back(up_to(6) == 0 ? kNoBound : up_to(12));
        for (const bool split : {true, false})
            for (const std::uint32_t each : {1U, 2U, 9U}) {
                const auto got =
                    nearest_first({amounts, room}, ranks, split ? Splitting::allowed : Splitting::whole_rows,
                                  table.ask(), each, Task());
                REQUIRE(got.parts == plainly(table, amounts, room, ranks, split));
            }
    }
}
