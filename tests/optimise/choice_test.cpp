// Every goal and every rule of choosing, against a general solver of whole-number programs.
#include <tbb/global_control.h>

#include <algorithm>
#include <catch2/catch.hpp>
#include <cmath>
#include <numeric>
#include <random>
#include <tuple>

#include "optimise/choice_search.h"
#include "optimise/fewest_part.h"
#include "optimise/general_solver.h"
#include "optimise/least_total.h"
#include "optimise/least_worst.h"
#include "optimise/most_cover.h"
#include "optimise/room_rows.h"
#include "support/cases.h"

using namespace otoro;
using namespace otoro::optimise;
using otoro::optimise::test::WholeNumberProgram;

namespace {

struct Case {
    Pairs pairs;
    Covers covers;  // the pairs of no more than `limit`
    std::vector<std::int64_t> amounts, costs;
    ChoiceRules rules;
};

constexpr std::uint32_t kLimit = 9;

/// Everything is worked out twice: as it is, and with amounts in millions, as people are counted. Whatever is proven is
/// checked apart from the search.
constexpr std::int64_t kMillion = 1'000'000;
std::vector<std::int64_t> in_millions(const std::vector<std::int64_t>& amounts) {
    std::vector<std::int64_t> out = amounts;
    for (std::int64_t& a : out) a *= kMillion;
    return out;
}
ChoiceLimits to_the_end() {
    ChoiceLimits out;
    out.check_proof = true;
    return out;
}
FewestLimits all_fewest() {
    FewestLimits out;
    out.check_proof = true;
    return out;
}

class Random {
public:
    explicit Random(unsigned seed) : engine_(seed) {}
    std::uint32_t below(std::uint32_t n) { return static_cast<std::uint32_t>(engine_() % n); }
    bool one_in(std::uint32_t n) { return below(n) == 0; }

private:
    std::mt19937 engine_;
};

/// Costs with many ties, some pairs missing, and any of the rules.
Case random_case(Random& random) {
    Case c;
    const std::uint32_t columns = 2 + random.below(10), rows = 1 + random.below(20), missing = 2 + random.below(6);
    const bool all = random.one_in(3);
    for (std::uint32_t row = 0; row < rows; ++row) {
        std::vector<Pair> pairs;
        Columns cover;
        for (std::uint32_t k = 0; k < columns; ++k) {
            if (!all && random.one_in(missing)) continue;
            pairs.push_back({k, random.below(30)});
            if (pairs.back().cost <= kLimit) cover.push_back(k);
        }
        c.pairs.add_row(pairs);
        c.covers.add_row(cover);
        c.amounts.push_back(random.one_in(9) ? 0 : 1 + random.below(7));
    }
    c.rules.columns = columns;
    c.rules.choose = 1 + random.below(5);
    for (std::uint32_t k = 0; k < columns; ++k) {
        if (random.one_in(9))
            c.rules.kept.push_back(k);
        else if (random.one_in(9))
            c.rules.never.push_back(k);
        else if (random.one_in(12))
            c.rules.required.push_back(k);
    }
    if (random.one_in(3))
        for (std::uint32_t n = 1 + random.below(4); n > 0; --n) {
            const std::uint32_t a = random.below(columns), b = random.below(columns);
            if (a != b) c.rules.apart.emplace_back(a, b);
        }
    if (random.one_in(3))
        for (std::uint32_t n = 1 + random.below(2); n > 0; --n)
            c.rules.groups.push_back({{random.below(columns), random.below(columns), random.below(columns)}, 1});
    // Of many no more than some are left out.
    if (random.one_in(3)) {
        Group most;
        for (std::uint32_t k = 0; k < columns; ++k)
            if (!random.one_in(3)) most.columns.push_back(k);
        const auto size = static_cast<std::uint32_t>(most.columns.size());
        most.least = size - std::min(size, 1 + random.below(3));
        if (random.one_in(2)) c.rules.choose = std::max(c.rules.choose, most.least);
        c.rules.groups.push_back(std::move(most));
    }
    // What excludes a kept one is as good as forbidden: whoever only that reaches is no part of the question.
    for (const auto& [a, b] : c.rules.apart)
        for (const auto& [one, other] : {std::pair{a, b}, std::pair{b, a}})
            if (std::count(c.rules.kept.begin(), c.rules.kept.end(), one) > 0) c.rules.never.push_back(other);
    for (std::uint32_t k = 0; k < columns; ++k) c.costs.push_back(random.below(9));
    return c;
}

bool in(const Columns& set, std::uint32_t c) { return std::find(set.begin(), set.end(), c) != set.end(); }

/// What rows that any of these covers weigh.
std::int64_t covered(const Case& c, const Columns& set) {
    std::int64_t sum = 0;
    for (std::uint32_t row = 0; row < c.covers.rows(); ++row) {
        const auto of = c.covers.of(row);
        if (std::any_of(of.begin(), of.end(), [&](std::uint32_t k) { return in(set, k); })) sum += c.amounts[row];
    }
    return sum;
}

/// Variables for the columns, with the rules. \param limited whether there is a number, or a budget, to keep to
std::vector<int> columns_of(WholeNumberProgram& program, const ChoiceRules& rules, bool limited,
                            const std::vector<double>& objective) {
    std::vector<int> x;
    std::vector<std::pair<int, double>> room;
    for (std::uint32_t c = 0; c < rules.columns; ++c) {
        const bool kept = in(rules.kept, c), never = in(rules.never, c) && !kept;
        const bool required = in(rules.required, c);
        x.push_back(program.variable(kept || required ? 1 : 0, never ? 0 : 1, kept ? 0 : objective[c], true));
        if (!kept) room.emplace_back(x.back(), rules.costs.empty() ? 1.0 : static_cast<double>(rules.costs[c]));
    }
    if (limited) program.row(room, -1e9, rules.costs.empty() ? rules.choose : static_cast<double>(rules.budget));
    for (const auto& [a, b] : rules.apart)
        if (!in(rules.kept, a) || !in(rules.kept, b)) program.row({{x[a], 1}, {x[b], 1}}, 0, 1);
    for (const Group& group : rules.groups) {
        std::vector<std::pair<int, double>> terms;
        for (std::uint32_t c = 0; c < rules.columns; ++c)
            if (in(group.columns, c)) terms.emplace_back(x[c], 1);
        if (group.least > 0) program.row(terms, group.least, 1e9);
    }
    return x;
}
std::vector<double> nothing(const ChoiceRules& rules) { return std::vector<double>(rules.columns, 0); }

/// Whether what is in keeps to the rules, apart from the number.
void check_rules(const ChoiceRules& rules, const Columns& set) {
    REQUIRE(keeps_to(rules, set));
    for (const std::uint32_t c : set) REQUIRE(!in(rules.kept, c));
    for (const std::uint32_t c : rules.required) REQUIRE((in(set, c) || in(rules.kept, c)));
}

/// `Solved::objective` as a whole number.
std::int64_t whole(double v) { return std::llround(v); }

WholeNumberProgram::Solved most_cover_by_program(const Case& c, const std::vector<std::int64_t>& levels) {
    WholeNumberProgram program;
    const auto x = columns_of(program, c.rules, true, nothing(c.rules));
    for (std::uint32_t row = 0; row < c.covers.rows(); ++row) {
        std::vector<std::pair<int, double>> terms;
        for (const std::int64_t level : levels)
            terms.emplace_back(program.variable(0, 1, static_cast<double>(level * c.amounts[row]), false), -1);
        for (const std::uint32_t k : c.covers.of(row))
            if (in(c.rules.kept, k) || !in(c.rules.never, k)) terms.emplace_back(x[k], 1);
        program.row(terms, 0, 1e9);
    }
    return program.solved(true);
}

/// Amounts that are left out cost a thousand: more than anything else can.
constexpr double kLeftOut = 10'000;
WholeNumberProgram::Solved least_by_program(const Case& c, bool worst, std::int64_t left_out) {
    WholeNumberProgram program;
    const auto x = columns_of(program, c.rules, true, nothing(c.rules));
    const int farthest = program.variable(0, 1e9, worst ? 1 : 0, false);
    std::vector<std::pair<int, double>> out;
    for (std::uint32_t row = 0; row < c.pairs.rows(); ++row) {
        if (c.amounts[row] == 0) continue;
        std::vector<std::pair<int, double>> whole_row, far{{farthest, -1}};
        for (const Pair& p : c.pairs.of(row)) {
            if (in(c.rules.never, p.column) && !in(c.rules.kept, p.column)) continue;
            const int y = program.variable(0, 1, worst ? 0 : static_cast<double>(p.cost * c.amounts[row]), worst);
            program.row({{y, 1}, {x[p.column], -1}}, -1, 0);
            whole_row.emplace_back(y, 1);
            far.emplace_back(y, p.cost);
        }
        if (whole_row.empty()) continue;
        const int left =
            program.variable(0, 1, left_out < 0 ? kLeftOut * static_cast<double>(c.amounts[row]) : 0, true);
        whole_row.emplace_back(left, 1);
        out.emplace_back(left, static_cast<double>(c.amounts[row]));
        program.row(whole_row, 1, 1);
        program.row(far, -1e9, 0);
    }
    if (left_out >= 0 && !out.empty()) program.row(out, 0, static_cast<double>(left_out));
    return program.solved(false);
}

/// Left off at once, what is said of the best holds; \p got is the best.
template <class Result>
void check_left_off(const Result& at_once, const Result& got) {
    if (at_once.not_reached != got.not_reached) return;
    REQUIRE(at_once.chosen.bound <= got.chosen.value);
    REQUIRE(at_once.chosen.value >= got.chosen.value);
}

/// Every third case has a budget instead of a number.
Case case_with_budget(Random& random, int n) {
    Case c = random_case(random);
    if (n % 3 != 2) return c;
    c.rules.costs = c.costs;
    c.rules.budget = random.below(25);
    return c;
}

}  // namespace

TEST_CASE("Most cover, backup and expected cover are those of a general solver under every rule") {
    Random random(11);
    int impossible = 0;
    for (int n = 0; n < otoro::test::cases(400); ++n) {
        INFO("case " << n);
        const Case c = case_with_budget(random, n);
        const std::vector<std::int64_t> levels = n % 4 == 0   ? std::vector<std::int64_t>{1}
                                                 : n % 4 == 1 ? std::vector<std::int64_t>{3, 2}
                                                 : n % 4 == 2 ? std::vector<std::int64_t>{700, 210, 63, 19}
                                                              : std::vector<std::int64_t>{1, 1};
        const auto expected = most_cover_by_program(c, levels);
        const auto got = most_cover({c.amounts, c.covers, levels}, c.rules, to_the_end(), Task());
        REQUIRE(got.any == expected.any);
        const auto many = in_millions(c.amounts);
        const auto of_many = most_cover({many, c.covers, levels}, c.rules, to_the_end(), Task());
        REQUIRE(of_many.any == got.any);
        if (!got.any) {
            ++impossible;
            continue;
        }
        check_rules(c.rules, got.columns);
        REQUIRE(got.proven());
        REQUIRE(static_cast<std::int64_t>(got.value) == whole(expected.objective));
        REQUIRE(of_many.value == got.value * kMillion);
        REQUIRE(of_many.proven());
        // Just below, at and above what can be had, and the next value below: wanted is found, or shown not to be.
        for (const Wide wanted : {of_many.value - kMillion, of_many.value - kMillion + 1, of_many.value - 1,
                                  of_many.value, of_many.value + 1, of_many.value + kMillion}) {
            auto limits = to_the_end();
            limits.wanted = wanted;
            const auto found = most_cover({many, c.covers, levels}, c.rules, limits, Task());
            REQUIRE(found.bound >= std::min(wanted, of_many.value));
            if (wanted <= of_many.value) REQUIRE(found.value >= wanted);
            if (wanted > of_many.value) REQUIRE(found.bound < wanted);
        }
        const auto at_once =
            most_cover({c.amounts, c.covers, levels}, c.rules, {0, {}, [](const Chosen&) { return true; }}, Task());
        REQUIRE(static_cast<std::int64_t>(at_once.bound) >= whole(expected.objective));
        REQUIRE(static_cast<std::int64_t>(at_once.value) <= whole(expected.objective));
    }
    CHECK(impossible > otoro::test::cases(20));
    CHECK(impossible < 200);
}

TEST_CASE("Most cover with room for only so many is that of a general solver under every rule") {
    Random random(19);
    int full = 0;
    for (int n = 0; n < otoro::test::cases(250); ++n) {
        INFO("case " << n);
        const Case c = case_with_budget(random, n);
        std::vector<std::int64_t> room;
        for (std::uint32_t k = 0; k < c.rules.columns; ++k)
            room.push_back(random.one_in(6) ? 1'000'000 : random.below(20));
        WholeNumberProgram program;
        const auto x = columns_of(program, c.rules, true, nothing(c.rules));
        std::vector<std::vector<std::pair<int, double>>> into(c.rules.columns);
        for (std::uint32_t row = 0; row < c.covers.rows(); ++row) {
            std::vector<std::pair<int, double>> whole_row;
            for (const std::uint32_t k : c.covers.of(row)) {
                if (in(c.rules.never, k) && !in(c.rules.kept, k)) continue;
                const int y = program.variable(0, static_cast<double>(c.amounts[row]), 1, false);
                program.row({{y, 1}, {x[k], -static_cast<double>(c.amounts[row])}}, -1e9, 0);
                whole_row.emplace_back(y, 1);
                into[k].emplace_back(y, 1);
            }
            if (!whole_row.empty()) program.row(whole_row, 0, static_cast<double>(c.amounts[row]));
        }
        for (std::uint32_t k = 0; k < c.rules.columns; ++k)
            if (!into[k].empty()) program.row(into[k], 0, static_cast<double>(room[k]));
        const auto expected = program.solved(true);
        const auto got = most_cover_with_room(c.amounts, c.covers, room, c.rules, {}, to_the_end(), Task());
        REQUIRE(got.any == expected.any);
        const auto of_many = most_cover_with_room(in_millions(c.amounts), c.covers, in_millions(room), c.rules, {},
                                                  to_the_end(), Task());
        REQUIRE(of_many.any == got.any);
        REQUIRE((!got.any || (of_many.value == got.value * kMillion && of_many.proven())));
        if (!got.any) continue;
        check_rules(c.rules, got.columns);
        REQUIRE(got.proven());
        REQUIRE(static_cast<std::int64_t>(got.value) == whole(expected.objective));
        const auto at_once = most_cover_with_room(c.amounts, c.covers, room, c.rules, {},
                                                  {0, {}, [](const Chosen&) { return true; }}, Task());
        REQUIRE(at_once.bound >= got.value);
        REQUIRE(at_once.value <= got.value);
        const auto free = most_cover({c.amounts, c.covers, {1}}, c.rules, {}, Task());
        REQUIRE(free.value >= got.value);
        full += free.value > got.value ? 1 : 0;
    }
    CHECK(full > otoro::test::cases(50));
}

TEST_CASE("Least total travel is that of a general solver, once as little is left out as can be") {
    Random random(12);
    for (int n = 0; n < otoro::test::cases(400); ++n) {
        INFO("case " << n);
        const Case c = case_with_budget(random, n);
        const auto expected = least_by_program(c, false, -1);
        const auto got = least_total({c.amounts, c.pairs}, c.rules, to_the_end(), Task());
        REQUIRE(got.chosen.any == expected.any);
        if (!got.chosen.any) continue;
        const auto many = in_millions(c.amounts);
        const auto of_many = least_total({many, c.pairs}, c.rules, to_the_end(), Task());
        REQUIRE(of_many.chosen.value == got.chosen.value * kMillion);
        REQUIRE(of_many.not_reached == got.not_reached * kMillion);
        REQUIRE(of_many.chosen.proven());
        check_rules(c.rules, got.chosen.columns);
        REQUIRE(got.not_reached == got.least_not_reached);
        const auto sum = static_cast<std::int64_t>(got.not_reached * whole(kLeftOut) + got.chosen.value);
        REQUIRE(sum == whole(expected.objective));
        REQUIRE(got.chosen.proven());
        const auto at_once =
            least_total({c.amounts, c.pairs}, c.rules, {0, {}, [](const Chosen&) { return true; }}, Task());
        check_left_off(at_once, got);
    }
}

TEST_CASE("The least worst case is that of a general solver, once as little is left out as can be") {
    Random random(13);
    for (int n = 0; n < otoro::test::cases(250); ++n) {
        INFO("case " << n);
        const Case c = case_with_budget(random, n);
        const auto got = least_worst({c.amounts, c.pairs}, c.rules, to_the_end(), Task());
        const auto many = in_millions(c.amounts);
        const auto of_many = least_worst({many, c.pairs}, c.rules, to_the_end(), Task());
        REQUIRE(of_many.chosen.any == got.chosen.any);
        REQUIRE(of_many.chosen.value == got.chosen.value);
        REQUIRE(of_many.not_reached == got.not_reached * kMillion);
        REQUIRE(of_many.chosen.proven() == got.chosen.proven());
        const auto left = least_by_program(c, false, -1);
        REQUIRE(got.chosen.any == left.any);
        if (!got.chosen.any) continue;
        check_rules(c.rules, got.chosen.columns);
        REQUIRE(static_cast<std::int64_t>(got.not_reached) == whole(left.objective) / whole(kLeftOut));
        const auto expected = least_by_program(c, true, static_cast<std::int64_t>(got.not_reached));
        REQUIRE(static_cast<std::int64_t>(got.chosen.value) == whole(expected.objective));
        REQUIRE(got.chosen.proven());
        const auto at_once =
            least_worst({c.amounts, c.pairs}, c.rules, {0, {}, [](const Chosen&) { return true; }}, Task());
        check_left_off(at_once, got);
    }
}

TEST_CASE("The fewest that cover all, the cheapest, and the fewest that cover a part are those of a general solver") {
    Random random(14);
    for (int n = 0; n < otoro::test::cases(400); ++n) {
        INFO("case " << n);
        Case c = random_case(random);
        if (n % 2 == 1) c.rules.costs = c.costs;
        const auto price = [&](std::uint32_t k) { return n % 2 == 1 ? static_cast<double>(c.costs[k]) : 1.0; };
        std::vector<double> objective;
        for (std::uint32_t k = 0; k < c.rules.columns; ++k) objective.push_back(price(k));
        WholeNumberProgram all, part;
        const auto x = columns_of(all, c.rules, false, objective);
        const auto y = columns_of(part, c.rules, false, std::vector<double>(c.rules.columns, 1));
        std::vector<std::pair<int, double>> covered;
        std::int64_t most = 0;
        for (std::uint32_t row = 0; row < c.covers.rows(); ++row) {
            std::vector<std::pair<int, double>> terms, part_terms;
            for (const std::uint32_t k : c.covers.of(row)) {
                if (in(c.rules.never, k) && !in(c.rules.kept, k)) continue;
                terms.emplace_back(x[k], 1);
                part_terms.emplace_back(y[k], 1);
            }
            if (terms.empty()) continue;
            most += c.amounts[row];
            all.row(terms, 1, 1e9);
            const int z = part.variable(0, 1, 0, false);
            covered.emplace_back(z, static_cast<double>(c.amounts[row]));
            part_terms.emplace_back(z, -1);
            part.row(part_terms, 0, 1e9);
        }
        const bool several_cost = n % 2 == 1 && wants_several(c.rules);
        const auto expected = all.solved(false);
        const auto got = several_cost ? Fewest{} : fewest_for_all(c.covers, c.rules, all_fewest(), Task());
        if (!several_cost) REQUIRE(got.any == expected.any);
        if (got.any && !several_cost) {
            ChoiceRules free = c.rules;
            free.choose = free.columns;
            free.budget = 1'000;
            check_rules(free, got.columns);
            REQUIRE(got.value == whole(expected.objective));
            REQUIRE(got.proven());
            const auto at_once = fewest_for_all(c.covers, c.rules,
                                                {0,
                                                 {},
                                                 [&](const Fewest& told) {
                                                     CHECK(told.bound <= got.value);  // also before there is one
                                                     return true;
                                                 }},
                                                Task());
            REQUIRE(at_once.bound <= got.value);
        }
        const std::int64_t wanted = (most * (1 + random.below(4)) + 3) / 4;
        part.row(covered, static_cast<double>(wanted), 1e9);
        const auto expected_part = part.solved(false);
        ChoiceRules counted = c.rules;
        counted.costs = {};
        const auto got_part = fewest_for_part(c.amounts, c.covers, wanted, counted, all_fewest(), Task());
        REQUIRE(got_part.any == expected_part.any);
        // As many millions, or a little less than that, which is no less in whole ones.
        const auto many = in_millions(c.amounts);
        for (const std::int64_t less : {std::int64_t{0}, std::int64_t{1}, kMillion - 1}) {
            if (wanted == 0) break;
            const auto of_many =
                fewest_for_part(many, c.covers, wanted * kMillion - less, counted, all_fewest(), Task());
            REQUIRE(of_many.any == got_part.any);
            REQUIRE((!got_part.any || (of_many.value == got_part.value && of_many.proven())));
        }
        if (!got_part.any) continue;
        REQUIRE(got_part.value == whole(expected_part.objective));
        REQUIRE(got_part.proven());
    }
}

TEST_CASE("Columns that contradict each other are no set") {
    Covers covers;
    covers.add_row(Columns{0, 1});
    const std::vector<std::int64_t> amounts{1};
    ChoiceRules rules;
    rules.columns = 2;
    rules.choose = 2;
    rules.required = {0, 1};
    rules.apart = {{0, 1}};
    CHECK(!most_cover({amounts, covers}, rules, {}, Task()).any);
    CHECK(!fewest_for_all(covers, rules, {}, Task()).any);
    rules.required = {};
    rules.groups = {{{0}, 1}, {{1}, 1}};
    CHECK(!most_cover({amounts, covers}, rules, {}, Task()).any);
    CHECK(!fewest_for_part(amounts, covers, 1, rules, {}, Task()).any);
    rules.apart = {};
    CHECK(most_cover({amounts, covers}, rules, {}, Task()).columns == Columns{0, 1});
    rules.choose = 1;
    CHECK(!most_cover({amounts, covers}, rules, {}, Task()).any);
}

namespace {

/// Large enough that a bound that does not know the group proves nothing soon.
void check_many_columns(unsigned seed) {
    Random random(seed);
    for (int n = 0; n < std::max(1, otoro::test::cases(3)); ++n) {
        INFO("case " << n);
        Case c;
        c.rules.columns = 30;
        std::vector<std::pair<int, int>> at;  // places of the columns
        const auto anywhere = [&] {
            return std::pair(static_cast<int>(random.below(100)), static_cast<int>(random.below(100)));
        };
        for (std::uint32_t k = 0; k < c.rules.columns; ++k) at.push_back(anywhere());
        for (int row = 0; row < 150; ++row) {
            Columns cover;
            std::vector<Pair> pairs;
            const auto [x, y] = anywhere();
            for (std::uint32_t k = 0; k < c.rules.columns; ++k) {
                const auto cost = static_cast<std::uint32_t>(std::abs(at[k].first - x) + std::abs(at[k].second - y));
                if (cost <= 60) pairs.push_back({k, cost});
                if (cost <= 18) cover.push_back(k);
            }
            c.covers.add_row(cover);
            c.pairs.add_row(pairs);
            c.amounts.push_back(1 + random.below(9));
        }
        // Nine are open; two of them at most close, and as many open elsewhere, or one more.
        Group open{{}, 7};
        for (std::uint32_t k = 0; k < 9; ++k) open.columns.push_back(k);
        c.rules.groups = {open};
        c.rules.choose = 9 + random.below(2);
        const auto expected = most_cover_by_program(c, {1});
        const auto got = most_cover({c.amounts, c.covers, {1}, open.columns}, c.rules, to_the_end(), Task());
        REQUIRE(got.proven());
        check_rules(c.rules, got.columns);
        REQUIRE(covered(c, got.columns) == static_cast<std::int64_t>(got.value));
        REQUIRE(static_cast<std::int64_t>(got.value) == whole(expected.objective));
        // However soon it is left off: no worse than what it began with.
        const auto at_once = most_cover({c.amounts, c.covers, {1}, open.columns}, c.rules,
                                        {0, {}, [](const Chosen&) { return true; }}, Task());
        REQUIRE(static_cast<std::int64_t>(at_once.value) >= covered(c, open.columns));
        REQUIRE(at_once.bound >= got.value);
        // A set to begin with that is too large is none.
        ChoiceRules fewer = c.rules;
        fewer.groups.clear();
        fewer.choose = 4;
        const auto begun = least_total({c.amounts, c.pairs, open.columns}, fewer, {}, Task());
        const auto plain = least_total({c.amounts, c.pairs}, fewer, {}, Task());
        REQUIRE(begun.not_reached == plain.not_reached);
        REQUIRE(begun.chosen.value == plain.chosen.value);
        const auto travel = least_total({c.amounts, c.pairs, open.columns}, c.rules, to_the_end(), Task());
        const auto least = least_by_program(c, false, -1);
        REQUIRE(travel.chosen.proven());
        REQUIRE(static_cast<std::int64_t>(travel.not_reached * whole(kLeftOut) + travel.chosen.value) ==
                whole(least.objective));
    }
}

}  // namespace

TEST_CASE("Of many columns no more than a few give way, as a general solver has it") { check_many_columns(21); }
TEST_CASE("Of many other columns no more than a few give way, as a general solver has it") { check_many_columns(22); }

TEST_CASE("One thread and several choose the same set and prove the same") {
    Random random(15);
    Pairs pairs;
    Covers covers;
    std::vector<std::int64_t> amounts;
    constexpr std::uint32_t kColumns = 40;
    for (int row = 0; row < 6'000; ++row) {
        std::vector<Pair> of;
        Columns cover;
        const std::uint32_t x = random.below(1'000), y = random.below(1'000);
        for (std::uint32_t k = 0; k < kColumns; ++k) {
            const std::int64_t dx = std::int64_t{x} - k * 331 % 1'000, dy = std::int64_t{y} - k * 577 % 1'000;
            const auto cost = static_cast<std::uint32_t>(dx * dx + dy * dy) / 100;
            of.push_back({k, cost});
            if (cost < 300) cover.push_back(k);
        }
        pairs.add_row(of);
        covers.add_row(cover);
        amounts.push_back(1 + random.below(5));
    }
    ChoiceRules rules;
    rules.columns = kColumns;
    rules.choose = 6;
    const auto solved = [&](std::size_t threads) {
        const tbb::global_control limit(tbb::global_control::max_allowed_parallelism, threads);
        // Left off at the root, so that what is compared has not been settled by proof.
        const ChoiceLimits at_root{0, {}, {}, 1};
        return std::tuple{most_cover({amounts, covers}, rules, at_root, Task()),
                          least_total({amounts, pairs}, rules, at_root, Task()).chosen,
                          most_cover({amounts, covers}, rules, {}, Task()),
                          least_total({amounts, pairs}, rules, {}, Task()).chosen};
    };
    const auto [cover_1, total_1, best_cover_1, best_total_1] = solved(1);
    const auto [cover_2, total_2, best_cover_2, best_total_2] = solved(2);
    for (const auto& [a, b] : {std::pair{cover_1, cover_2}, std::pair{total_1, total_2},
                               std::pair{best_cover_1, best_cover_2}, std::pair{best_total_1, best_total_2}}) {
        CHECK(a.columns == b.columns);
        CHECK(static_cast<double>(a.value) == static_cast<double>(b.value));
        CHECK(static_cast<double>(a.bound) == static_cast<double>(b.bound));
    }
    CHECK(best_cover_1.proven());
    CHECK(best_total_1.proven());
}
