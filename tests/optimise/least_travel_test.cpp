#include "optimise/least_travel.h"

#include <glpk.h>

#include <algorithm>
#include <array>
#include <catch2/catch.hpp>
#include <cmath>
#include <map>
#include <numeric>
#include <random>
#include <tuple>

#include "support/cases.h"

using namespace otoro;
using namespace otoro::optimise;

namespace {

struct Case {
    Pairs pairs;
    std::vector<std::int64_t> amounts, room, least;
    [[nodiscard]] Demand demand() const { return {amounts, room, least}; }
    LeastTravel solved(Splitting splitting) const { return least_travel(pairs, demand(), splitting, Task()); }
};

Case made(const std::vector<std::vector<Pair>>& rows, std::vector<std::int64_t> amounts, std::vector<std::int64_t> room,
          std::vector<std::int64_t> least = {}) {
    Case c;
    for (const auto& row : rows) c.pairs.add_row(row);
    c.amounts = std::move(amounts);
    c.room = std::move(room);
    c.least = std::move(least);
    return c;
}

/// Sizes from 1 to `largest`, costs with many ties, some pairs missing.
Case random_case(std::mt19937& random, std::int64_t largest) {
    const auto up_to = [&](std::int64_t n) { return std::uniform_int_distribution<std::int64_t>(0, n)(random); };
    Case c;
    const std::int64_t rows = 1 + up_to(11), columns = 1 + up_to(4);
    for (std::int64_t i = 0; i < rows; ++i) {
        std::vector<Pair> row;
        for (std::int64_t k = 0; k < columns; ++k)
            if (up_to(4) > 0) row.push_back({static_cast<std::uint32_t>(k), static_cast<std::uint32_t>(up_to(20))});
        c.pairs.add_row(row);
        c.amounts.push_back(up_to(8) == 0 ? 0 : 1 + up_to(largest - 1));
    }
    for (std::int64_t k = 0; k < columns; ++k) c.room.push_back(up_to(9) == 0 ? kNoBound : up_to(3 * largest));
    return c;
}

Case with_least(Case c, std::mt19937& random, std::int64_t largest) {
    for (const std::int64_t room : c.room)
        c.least.push_back(std::min(room, std::uniform_int_distribution<std::int64_t>(0, 2 * largest)(random)));
    return c;
}

/// Left over, short of the least, total.
using Result = std::tuple<std::int64_t, std::int64_t, std::int64_t>;
Result result_of(const Allocation& a) { return {a.left_over, a.short_of_least, static_cast<std::int64_t>(a.total)}; }

/// The same by a general solver of linear programs: what is left over costs more than anything else, what columns are
/// short of more than any way.
Result by_linear_program(const Case& c) {
    constexpr double kLeftOver = 1e7, kShort = 1e4;
    glp_term_out(GLP_OFF);
    glp_prob* lp = glp_create_prob();
    const int rows = static_cast<int>(c.pairs.rows()), columns = static_cast<int>(c.room.size());
    glp_add_rows(lp, rows + columns);
    std::vector<int> row_of{0}, column_of{0};
    std::vector<double> value{0};
    const auto add = [&](int row, int variable) {
        row_of.push_back(row);
        column_of.push_back(variable);
        value.push_back(1);
    };
    const auto variable = [&](double cost) {
        const int v = glp_add_cols(lp, 1);
        glp_set_col_bnds(lp, v, GLP_LO, 0, 0);
        glp_set_obj_coef(lp, v, cost);
        return v;
    };
    std::vector<int> spare, missing;
    for (int i = 0; i < rows; ++i) {
        const auto amount = static_cast<double>(c.amounts[static_cast<std::size_t>(i)]);
        glp_set_row_bnds(lp, i + 1, GLP_FX, amount, amount);
        for (const Pair& p : c.pairs.of(static_cast<std::uint32_t>(i))) {
            const int v = variable(p.cost);
            add(i + 1, v);
            add(rows + 1 + static_cast<int>(p.column), v);
        }
        spare.push_back(variable(kLeftOver));
        add(i + 1, spare.back());
    }
    for (int k = 0; k < columns; ++k) {
        const auto room = c.room[static_cast<std::size_t>(k)];
        if (room == kNoBound)
            glp_set_row_bnds(lp, rows + 1 + k, GLP_FR, 0, 0);
        else
            glp_set_row_bnds(lp, rows + 1 + k, GLP_UP, 0, static_cast<double>(room));
    }
    for (std::size_t k = 0; k < c.least.size(); ++k) {
        const int row = glp_add_rows(lp, 1);
        glp_set_row_bnds(lp, row, GLP_LO, static_cast<double>(c.least[k]), 0);
        const std::size_t entries = value.size();
        for (std::size_t e = 1; e < entries; ++e)
            if (row_of[e] == rows + 1 + static_cast<int>(k)) add(row, column_of[e]);
        missing.push_back(variable(kShort));
        add(row, missing.back());
    }
    glp_load_matrix(lp, static_cast<int>(value.size()) - 1, row_of.data(), column_of.data(), value.data());
    glp_set_obj_dir(lp, GLP_MIN);
    REQUIRE(glp_simplex(lp, nullptr) == 0);
    double left = 0, missed = 0;
    for (const int v : spare) left += glp_get_col_prim(lp, v);
    for (const int v : missing) missed += glp_get_col_prim(lp, v);
    const double total = glp_get_obj_val(lp) - kLeftOver * left - kShort * missed;
    glp_delete_prob(lp);
    return {std::llround(left), std::llround(missed), std::llround(total)};
}

/// The best with every row whole, by trying everything.
Result by_trying(const Case& c, std::uint32_t row, std::vector<std::int64_t>& loads) {
    if (row == c.pairs.rows()) {
        std::int64_t missing = 0;
        for (std::size_t k = 0; k < c.least.size(); ++k) missing += std::max<std::int64_t>(c.least[k] - loads[k], 0);
        return {0, missing, 0};
    }
    const std::int64_t amount = c.amounts[row];
    auto best = by_trying(c, row + 1, loads);
    std::get<0>(best) += amount;
    for (const Pair& p : c.pairs.of(row)) {
        if (c.room[p.column] - loads[p.column] < amount) continue;
        loads[p.column] += amount;
        auto with = by_trying(c, row + 1, loads);
        loads[p.column] -= amount;
        std::get<2>(with) += amount * p.cost;
        best = std::min(best, with);
    }
    return best;
}
Result by_trying(const Case& c) {
    std::vector<std::int64_t> loads(c.room.size(), 0);
    return by_trying(c, 0, loads);
}

/// That parts are of the case, fit, and add up to what is said.
void check_sound(const Case& c, const Allocation& a, bool whole) {
    std::vector<std::int64_t> loads(c.room.size(), 0), given(c.amounts.size(), 0);
    std::int64_t total = 0;
    for (std::size_t i = 0; i < a.parts.size(); ++i) {
        const Part& p = a.parts[i];
        if (i > 0) REQUIRE(std::pair(a.parts[i - 1].row, a.parts[i - 1].column) < std::pair(p.row, p.column));
        const auto row = c.pairs.of(p.row);
        const auto pair = std::find_if(row.begin(), row.end(), [&](const Pair& q) { return q.column == p.column; });
        REQUIRE(pair != row.end());
        if (whole) REQUIRE(p.amount == c.amounts[p.row]);
        loads[p.column] += p.amount;
        given[p.row] += p.amount;
        total += p.amount * pair->cost;
    }
    std::int64_t left = 0;
    for (std::size_t i = 0; i < given.size(); ++i) {
        REQUIRE(given[i] <= c.amounts[i]);
        left += c.amounts[i] - given[i];
    }
    for (std::size_t k = 0; k < loads.size(); ++k) REQUIRE(loads[k] <= c.room[k]);
    std::int64_t missing = 0;
    for (std::size_t k = 0; k < c.least.size(); ++k) missing += std::max<std::int64_t>(c.least[k] - loads[k], 0);
    REQUIRE(a.short_of_least == missing);
    REQUIRE(a.left_over == left);
    REQUIRE(a.total == total);
}

/// Two sites to a few places each, all with a least that is near what they get on average.
Case large_case(std::mt19937& random, int rows, int columns, bool tight) {
    const auto up_to = [&](std::int64_t n) { return std::uniform_int_distribution<std::int64_t>(0, n)(random); };
    Case c;
    std::int64_t sum = 0;
    for (int i = 0; i < rows; ++i) {
        std::vector<Pair> row;
        for (std::uint32_t k = 0; k < static_cast<std::uint32_t>(columns); ++k)
            row.push_back({k, static_cast<std::uint32_t>(1 + up_to(999))});
        c.pairs.add_row(row);
        c.amounts.push_back(10 + up_to(40));
        sum += c.amounts.back();
    }
    for (int k = 0; k < columns; ++k) {
        c.room.push_back(sum / columns * 2);
        c.least.push_back(sum / columns * (tight ? 97 : 80) / 100);
    }
    return c;
}

/// The ten lines that anybody would write first: the largest row to the column that lacks most; or each column its
/// cheapest rows until it has enough, and then every row to its cheapest with room.
Result by_filling(const Case& c, bool columns_first) {
    std::vector<std::uint32_t> order(c.amounts.size());
    std::iota(order.begin(), order.end(), 0U);
    std::stable_sort(order.begin(), order.end(), [&](auto a, auto b) { return c.amounts[a] > c.amounts[b]; });
    std::vector<std::int64_t> loads(c.room.size(), 0);
    std::vector<bool> given(c.amounts.size());
    Result out{};
    const auto give = [&](std::uint32_t row, const Pair& p) {
        loads[p.column] += c.amounts[row];
        std::get<2>(out) += c.amounts[row] * p.cost;
        given[row] = true;
    };
    const auto fits = [&](std::uint32_t row, const Pair& p) {
        return c.room[p.column] - loads[p.column] >= c.amounts[row];
    };
    for (std::uint32_t k = 0; columns_first && k < c.room.size(); ++k)
        while (loads[k] < c.least[k]) {
            const Pair* best = nullptr;
            std::uint32_t of = 0;
            for (const std::uint32_t row : order)
                for (const Pair& p : c.pairs.of(row))
                    if (!given[row] && p.column == k && fits(row, p) && (!best || p.cost < best->cost)) {
                        best = &p;
                        of = row;
                    }
            if (!best) break;
            give(of, *best);
        }
    for (const std::uint32_t row : order) {
        if (given[row]) continue;
        const Pair* best = nullptr;
        const auto key = [&](const Pair& p) {
            return std::pair(std::min<std::int64_t>(loads[p.column] - c.least[p.column], 0), p.cost);
        };
        for (const Pair& p : c.pairs.of(row))
            if (fits(row, p) && (!best || key(p) < key(*best))) best = &p;
        if (best)
            give(row, *best);
        else
            std::get<0>(out) += c.amounts[row];
    }
    for (std::size_t k = 0; k < loads.size(); ++k) std::get<1>(out) += std::max<std::int64_t>(c.least[k] - loads[k], 0);
    return out;
}

}  // namespace

TEST_CASE("Of two who would go to one place, the one who loses less gives way") {
    const auto c = made({{{0, 5}, {1, 9}}, {{0, 6}, {1, 7}}}, {1, 1}, {1, 1});
    const auto solved = c.solved(Splitting::whole_rows);
    CHECK(solved.allocation.parts == std::vector<Part>{{0, 0, 1}, {1, 1, 1}});
    CHECK(solved.allocation.total == 12);
    CHECK(solved.proven());
}

TEST_CASE("Making room may take a chain of moves") {
    // Everyone moves one site on, since only the last has room.
    const auto c = made({{{0, 1}, {1, 2}}, {{1, 1}, {2, 3}}, {{0, 0}}}, {1, 1, 1}, {1, 1, 1});
    const auto solved = c.solved(Splitting::allowed);
    CHECK(solved.allocation.parts == std::vector<Part>{{0, 1, 1}, {1, 2, 1}, {2, 0, 1}});
    CHECK(solved.allocation.total == 5);
}

TEST_CASE("A row that does not fit is split where it may be, and goes elsewhere whole where it may not") {
    const auto c = made({{{0, 1}, {1, 2}}}, {10}, {6, 20});
    CHECK(c.solved(Splitting::allowed).allocation.parts == std::vector<Part>{{0, 0, 6}, {0, 1, 4}});
    const auto whole = c.solved(Splitting::whole_rows);
    CHECK(whole.allocation.parts == std::vector<Part>{{0, 1, 10}});
    CHECK(whole.allocation.total == 20);
    CHECK(whole.bound <= 20);
}

TEST_CASE("Where there is too little room as much as can be is given, and the dearest are left over") {
    const auto c = made({{{0, 1}}, {{0, 2}}, {{0, 3}}}, {1, 1, 1}, {2});
    const auto solved = c.solved(Splitting::whole_rows);
    CHECK(solved.allocation.parts == std::vector<Part>{{0, 0, 1}, {1, 0, 1}});
    CHECK(solved.allocation.left_over == 1);
    // Somebody near gives up the place for somebody who has no other.
    const auto both = made({{{0, 0}, {1, 100}}, {{0, 50}}}, {1, 1}, {1, 1}).solved(Splitting::allowed);
    CHECK(both.allocation.left_over == 0);
    CHECK(both.allocation.total == 150);
}

TEST_CASE("Nothing at all, rows of nothing and rows without a pair are answered") {
    CHECK(made({}, {}, {}).solved(Splitting::allowed).allocation.parts.empty());
    const auto c = made({{{1, 4}, {0, 4}}, {}}, {0, 3}, {0, 0});
    const auto solved = c.solved(Splitting::allowed);
    CHECK(solved.allocation.parts == std::vector<Part>{{0, 0, 0}});
    CHECK(solved.allocation.left_over == 3);
}

TEST_CASE("Prices say that no other pair would be cheaper") {
    std::mt19937 random(5);
    for (int n = 0; n < otoro::test::cases(200); ++n) {
        auto c = random_case(random, 6);
        if (n % 2 == 0) c = with_least(std::move(c), random, 6);
        const auto solved = c.solved(Splitting::allowed);
        const auto dear = [&](const Pair& p) { return p.cost + solved.prices[p.column]; };
        for (const Part& part : solved.allocation.parts) {
            if (part.amount == 0) continue;
            const auto row = c.pairs.of(part.row);
            const auto own =
                std::find_if(row.begin(), row.end(), [&](const Pair& q) { return q.column == part.column; });
            for (const Pair& p : row) REQUIRE(dear(*own) <= dear(p));
            REQUIRE(dear(*own) <= solved.no_room);
        }
        // What prices prove: no answer is less than every row at its least price, less what the room is worth, and with
        // what the least of each column costs.
        Wide bound = 0;
        for (std::uint32_t row = 0; row < c.pairs.rows(); ++row) {
            std::int64_t least = solved.no_room;
            for (const Pair& p : c.pairs.of(row)) least = std::min(least, dear(p));
            bound += Wide{least} * c.amounts[row];
        }
        REQUIRE(bound == solved.objective + solved.worth_of_room);
        for (std::size_t k = 0; k < c.room.size(); ++k) {
            if (solved.prices[k] > 0) bound -= Wide{solved.prices[k]} * c.room[k];
            if (solved.prices[k] < 0) bound -= Wide{solved.prices[k]} * c.least[k];
        }
        const Wide left_over = Wide{solved.least_left_over} * solved.no_room;
        if (solved.least_short == 0)
            REQUIRE(bound == solved.bound + left_over);
        else
            REQUIRE(bound > solved.bound + left_over);
    }
}

TEST_CASE("A column gets its least from who loses least by it, and nobody is left over for that") {
    // Both would go to the first; the second is to have one.
    const auto c = made({{{0, 1}, {1, 9}}, {{0, 1}, {1, 4}}}, {1, 1}, {2, 2}, {0, 1});
    const auto solved = c.solved(Splitting::whole_rows);
    CHECK(solved.allocation.parts == std::vector<Part>{{0, 0, 1}, {1, 1, 1}});
    CHECK(solved.proven());
    CHECK(solved.prices[1] == -3);
    // Whoever has no way to it cannot help; what is missing is said.
    const auto alone = made({{{0, 1}}, {{0, 1}, {1, 4}}}, {1, 1}, {2, 2}, {0, 2}).solved(Splitting::allowed);
    CHECK(alone.allocation.short_of_least == 1);
    CHECK(alone.allocation.left_over == 0);
    CHECK(alone.proven());
    // A chain: the last is filled by the middle, which is filled by the first.
    const auto chain = made({{{0, 0}, {1, 5}}, {{1, 0}, {2, 5}}}, {1, 1}, {2, 2, 2}, {0, 1, 1});
    CHECK(chain.solved(Splitting::allowed).allocation.parts == std::vector<Part>{{0, 1, 1}, {1, 2, 1}});
}

TEST_CASE("The least travel is that of a general solver of linear programs, on random cases") {
    std::mt19937 random(1);
    for (int n = 0; n < otoro::test::cases(600); ++n) {
        const std::int64_t largest = n % 3 == 0 ? 1 : 9;
        auto c = random_case(random, largest);
        if (n % 2 == 0) c = with_least(std::move(c), random, largest);
        const auto solved = c.solved(Splitting::allowed);
        check_sound(c, solved.allocation, false);
        CHECK(solved.proven());
        REQUIRE(result_of(solved.allocation) == by_linear_program(c));
    }
}

TEST_CASE("Rows that stay whole are never below the bound, and the best there is on small cases") {
    std::mt19937 random(2);
    constexpr int kCases = 400;
    for (int n = 0; n < otoro::test::cases(kCases); ++n) {
        const std::int64_t largest = n % 2 == 0 ? 1 : 5;
        auto c = random_case(random, largest);
        if (n % 4 < 2) c = with_least(std::move(c), random, largest);
        const auto times = [&](std::vector<std::int64_t>& all, std::int64_t by) {
            for (auto& a : all)
                if (a != kNoBound) a *= by;
        };
        if (n % 8 < 4)  // sizes of 7, and leasts that are none of it
            for (auto* all : {&c.amounts, &c.room}) times(*all, 7);
        if (n % 3 == 0)  // people, in millionths
            for (auto* all : {&c.amounts, &c.room, &c.least}) times(*all, 1'000'000);
        const auto solved = c.solved(Splitting::whole_rows);
        check_sound(c, solved.allocation, true);
        const auto expected = by_trying(c);
        const auto [left_over, missing, total] = expected;
        REQUIRE(solved.least_left_over <= left_over);
        if (solved.least_left_over == left_over) {
            REQUIRE(solved.least_short <= missing);
            if (solved.least_short == missing) REQUIRE(static_cast<std::int64_t>(solved.bound) <= total);
        }
        REQUIRE(result_of(solved.allocation) == expected);
        REQUIRE(solved.best);
    }
}

TEST_CASE("The order of rows decides nothing but which of two that are alike goes where") {
    std::mt19937 random(3);
    for (int n = 0; n < otoro::test::cases(24); ++n) {
        auto c = n % 4 == 0 ? large_case(random, 60, 15, n % 8 == 0) : with_least(random_case(random, 9), random, 9);
        const auto before = result_of(c.solved(Splitting::whole_rows).allocation);
        std::vector<std::uint32_t> order(c.amounts.size());
        std::iota(order.begin(), order.end(), 0U);
        std::shuffle(order.begin(), order.end(), random);
        Case other;
        other.room = c.room;
        other.least = c.least;
        for (const std::uint32_t row : order) {
            other.pairs.add_row(c.pairs.of(row));
            other.amounts.push_back(c.amounts[row]);
        }
        REQUIRE(result_of(other.solved(Splitting::whole_rows).allocation) == before);
    }
}

TEST_CASE("On large cases whole rows come near the bound, and no simple way of filling is better") {
    std::mt19937 random(4);
    for (const auto& [rows, columns, tight] : {std::tuple(60, 12, true), std::tuple(200, 40, false),
                                               std::tuple(200, 40, true), std::tuple(600, 300, false)}) {
        const auto c = large_case(random, rows, columns, tight);
        const auto solved = c.solved(Splitting::whole_rows);
        check_sound(c, solved.allocation, true);
        const auto got = result_of(solved.allocation);
        const auto bound = Result{solved.least_left_over, solved.least_short, static_cast<std::int64_t>(solved.bound)};
        CHECK(got >= bound);
        for (const bool columns_first : {false, true}) CHECK(got <= by_filling(c, columns_first));
        INFO(rows << " by " << columns << ": short " << solved.allocation.short_of_least << ", at least "
                  << solved.least_short << "; total over bound "
                  << static_cast<double>(solved.allocation.total) / static_cast<double>(solved.bound));
        CHECK(solved.allocation.left_over == 0);
        CHECK(solved.allocation.short_of_least == solved.least_short);
        CHECK(static_cast<double>(solved.allocation.total) <
              (tight || rows == 600 ? 2.0 : 1.15) * static_cast<double>(solved.bound));
    }
}
