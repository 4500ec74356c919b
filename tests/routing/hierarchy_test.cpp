#include <hwy/targets.h>
#include <tbb/global_control.h>

#include <catch2/catch.hpp>
#include <random>
#include <set>

#include "routing/customised.h"
#include "routing/one_to_all.h"
#include "routing/order.h"
#include "support/odd_graphs.h"
#include "support/town.h"

using namespace otoro;
using namespace otoro::routing;

namespace {

LabelArray plain(const Graph& g, std::span<const Seed> seeds) { return nearest_of_many(g, seeds, kFar - 1, Task()); }
LabelArray plain(const Graph& g, std::uint32_t source) { return plain(g, std::array{Seed{source, 0, 0, 0, {}}}); }

Customised customised(const Graph& g) { return {Hierarchy::of(g, Task()), g, Task()}; }

void check_nearest(const LabelArray& expected, const Customised& fast, const std::vector<Seed>& seeds, Run run) {
    const auto swept = nearest(fast, seeds, run);
    for (std::uint32_t v = 0; v < expected.size(); ++v) {
        const Label label = swept.at(fast.hierarchy().rank_of(v));
        REQUIRE(label.cost == expected[v].cost);
        REQUIRE(label.source == expected[v].source);
        REQUIRE(label.other == expected[v].other);
    }
}

std::vector<Seed> random_seeds(const Graph& g, std::mt19937& dice) {
    std::vector<Seed> seeds;
    const std::uint32_t sources = std::array{3U, 3U, 1U << 30U}[dice() % 3];
    for (std::uint32_t k = 0; k < 1 + dice() % 4; ++k)
        seeds.push_back({static_cast<std::uint32_t>(dice() % g.node_count()),
                         static_cast<std::uint32_t>(dice() % 5),
                         static_cast<std::uint32_t>(dice() % 3),
                         static_cast<std::uint32_t>(dice() % sources),
                         {}});
    return seeds;
}

/// Every node's costs from each source, the plain way.
std::vector<std::vector<Label>> plain_few(const Graph& g, const std::vector<Seed>& seeds) {
    std::vector<std::vector<Label>> out(g.node_count());
    std::set<std::uint32_t> sources;
    for (const Seed& s : seeds) sources.insert(s.source);
    for (const std::uint32_t source : sources) {
        std::vector<Seed> own;
        std::copy_if(seeds.begin(), seeds.end(), std::back_inserter(own),
                     [&](const Seed& s) { return s.source == source; });
        const auto labels = plain(g, own);
        for (std::uint32_t v = 0; v < g.node_count(); ++v)
            if (labels[v].reached()) out[v].push_back(labels[v]);
    }
    for (auto& few : out)
        std::sort(few.begin(), few.end(), [](const Label& a, const Label& b) {
            return std::tie(a.cost, a.source, a.other) < std::tie(b.cost, b.source, b.other);
        });
    return out;
}

}  // namespace

TEST_CASE("Ways almost too long to count are found too, where packed labels run over twice") {
    // A road of a hundred stretches, short ones and then such long ones that the far end is ten to twenty-four days
    // away.
    constexpr std::uint32_t kNodes = 101;
    for (const std::uint32_t stretch : {19'000'000U, 21'500'000U, 30'000'000U, 38'000'000U}) {
        const Graph g = make_graph_of_arcs(kNodes, Measure::time, SearchDirection::outward, [&](auto&& use) {
            for (std::uint32_t i = 0; i + 1 < kNodes; ++i) {
                const std::uint32_t cost = i < kNodes / 2 ? 1'000'000 : stretch;
                use(i, Arc{i + 1, cost, 1000, LinkWay::along(LinkId(i))});
                use(i + 1, Arc{i, cost, 1000, LinkWay::against(LinkId(i))});
            }
        });
        const Customised fast(Hierarchy::of(g, Task()), g, Task());
        for (std::uint32_t source = 0; source < kNodes; source += 5) {
            const std::array seeds{Seed{source, 0, 0, 3, {}}};
            const auto swept = nearest(fast, seeds, Run::with);
            const auto plain = nearest_of_many(g, seeds, kFar - 1, Task());
            for (std::uint32_t n = 0; n < kNodes; ++n) {
                INFO("stretch " << stretch << ", from " << source << " to " << n);
                REQUIRE(swept.at(fast.hierarchy().rank_of(n)).cost == plain[n].cost);
            }
        }
    }
}

TEST_CASE(
    "Nearest of many by sweeping is nearest of many by searching, to the unit, both ways, on thousands of odd graphs") {
    std::mt19937 dice(3);
    for (int i = 0; i < 3000; ++i) {
        INFO("case " << i);
        const Graph g = test::random_graph(dice);
        const auto fast = customised(g);
        const auto seeds = random_seeds(g, dice);
        check_nearest(plain(g, seeds), fast, seeds, Run::with);
        check_nearest(plain(test::turned(g), seeds), fast, seeds, Run::against);
    }
}

TEST_CASE("The few nearest by sweeping are those of one search a source") {
    std::mt19937 dice(4);
    for (int i = 0; i < 600; ++i) {
        INFO("case " << i);
        const Graph g = test::random_graph(dice);
        const auto fast = customised(g);
        auto seeds = random_seeds(g, dice);
        seeds.push_back(seeds.front());
        const std::size_t k = 1 + dice() % 4;
        const Run run = dice() % 2 == 0 ? Run::with : Run::against;
        const auto expected = plain_few(run == Run::with ? g : test::turned(g), seeds);
        const auto few = nearest_k(fast, seeds, k, run);
        for (std::uint32_t v = 0; v < g.node_count(); ++v)
            for (std::size_t place = 0; place < k; ++place) {
                const Label& label = few[fast.hierarchy().rank_of(v) * k + place];
                REQUIRE(label.reached() == (place < expected[v].size()));
                if (!label.reached()) continue;
                REQUIRE(label.cost == expected[v][place].cost);
                REQUIRE(label.source == expected[v][place].source);
                REQUIRE(label.other == expected[v][place].other);
            }
    }
}

TEST_CASE("Trees, one by one and sixteen at a time, are what searching gives") {
    std::mt19937 dice(5);
    for (int i = 0; i < 300; ++i) {
        const Graph g = test::random_graph(dice);
        const auto fast = customised(g);
        std::vector<std::uint32_t> sources;
        for (std::uint32_t k = 0; k < 1 + dice() % 40; ++k)
            sources.push_back(static_cast<std::uint32_t>(dice() % g.node_count()));
        const Run run = dice() % 2 == 0 ? Run::with : Run::against;
        const Graph way = run == Run::with ? g : test::turned(g);
        std::size_t rows = 0;
        trees(
            fast, sources, run,
            [&](std::size_t row, std::span<const std::uint32_t> costs) {
                REQUIRE(row == rows++);
                const auto expected = plain(way, sources[row]);
                const auto alone = tree(fast, sources[row], run);
                for (std::uint32_t v = 0; v < g.node_count(); ++v) {
                    REQUIRE(alone[fast.hierarchy().rank_of(v)] == expected[v].cost);
                    REQUIRE(costs[fast.hierarchy().rank_of(v)] == expected[v].cost);
                }
            },
            Task());
        REQUIRE(rows == sources.size());
    }
}

TEST_CASE("A table holds, for every source and target, what a search of each source finds") {
    std::mt19937 dice(6);
    for (int i = 0; i < 600; ++i) {
        INFO("case " << i);
        const Graph g = test::random_graph(dice);
        const auto fast = customised(g);
        std::vector<std::uint32_t> sources, targets;
        for (std::uint32_t k = 0; k < dice() % 6; ++k)
            sources.push_back(static_cast<std::uint32_t>(dice() % g.node_count()));
        for (std::uint32_t k = 0; k < dice() % 9; ++k)
            targets.push_back(static_cast<std::uint32_t>(dice() % g.node_count()));
        const Run run = dice() % 2 == 0 ? Run::with : Run::against;
        const Graph way = run == Run::with ? g : test::turned(g);
        std::size_t rows = 0;
        table(
            fast, sources, targets, run,
            [&](std::size_t row, std::span<const std::uint32_t> costs, std::span<const std::uint32_t> others) {
                REQUIRE(row == rows++);
                const auto expected = plain(way, sources[row]);
                for (std::size_t t = 0; t < targets.size(); ++t) {
                    REQUIRE(costs[t] == expected[targets[t]].cost);
                    REQUIRE(others[t] == expected[targets[t]].other);
                }
            },
            Task());
        REQUIRE(rows == sources.size());
    }
}

TEST_CASE("Costs that changed in part are as if customised anew, and can be put back") {
    std::mt19937 dice(7);
    for (int i = 0; i < 1500; ++i) {
        INFO("case " << i);
        const Graph g = test::random_graph(dice);
        const auto fast = customised(g);
        const auto changed = test::change(g, dice);
        std::vector<Customised::Joint> touched;
        for (const auto& [tail, head] : changed.touched) touched.push_back({tail, head});
        Customised partly = fast;
        const auto earlier = partly.update(changed.graph, touched);
        const Customised whole(fast.shared_hierarchy(), changed.graph, Task());
        for (std::uint32_t slot = 0; slot < fast.hierarchy().arc_count(); ++slot) {
            REQUIRE(partly.up(slot, Run::with) == whole.up(slot, Run::with));
            REQUIRE(partly.down(slot, Run::with) == whole.down(slot, Run::with));
        }
        partly.restore(earlier);
        for (std::uint32_t slot = 0; slot < fast.hierarchy().arc_count(); ++slot) {
            REQUIRE(partly.up(slot, Run::with) == fast.up(slot, Run::with));
            REQUIRE(partly.down(slot, Run::with) == fast.down(slot, Run::with));
        }
    }
}

TEST_CASE("A town of twenty thousand crossings, with cells, levels and threads, is exact in every kind of search") {
    std::mt19937 dice(8);
    const Graph g = test::grid(200, 110, dice);
    const auto fast = customised(g);
    const auto& h = fast.hierarchy();
    REQUIRE(h.stretches().size() > 2);
    std::vector<Seed> seeds;
    for (std::uint32_t s = 0; s < 30; ++s)
        seeds.push_back(
            {static_cast<std::uint32_t>(dice() % g.node_count()), static_cast<std::uint32_t>(dice() % 1000), 5, s, {}});
    check_nearest(plain(g, seeds), fast, seeds, Run::with);
    check_nearest(plain(test::turned(g), seeds), fast, seeds, Run::against);
    // So far that a packed label does not hold it.
    for (auto& s : seeds) s.cost += 100'000'000;
    check_nearest(plain(g, seeds), fast, seeds, Run::with);
    for (auto& s : seeds) s.other += 700'000'000;
    check_nearest(plain(g, seeds), fast, seeds, Run::with);
    // Sources of such large numbers that as numbers they leave no room for a cost, near enough and too far to pack.
    for (auto& s : seeds) s = {s.node, s.cost - 100'000'000, 5, 2'000'000'000U - 1'000 * s.source, {}};
    check_nearest(plain(g, seeds), fast, seeds, Run::with);
    for (auto& s : seeds) s.cost += 2'000'000'000;
    check_nearest(plain(g, seeds), fast, seeds, Run::with);

    const std::vector<std::uint32_t> sources{17, 5'000, 12'345};
    trees(
        fast, sources, Run::with,
        [&](std::size_t row, std::span<const std::uint32_t> costs) {
            const auto expected = plain(g, sources[row]);
            const auto alone = tree(fast, sources[row], Run::with);
            std::uint32_t differ = 0;
            for (std::uint32_t v = 0; v < g.node_count(); ++v)
                differ += costs[h.rank_of(v)] != expected[v].cost || alone[h.rank_of(v)] != expected[v].cost;
            CHECK(differ == 0);
        },
        Task());
}

TEST_CASE("A few sources side by side have what each has alone, prepared or plainly") {
    std::mt19937 dice(12);
    for (const std::uint32_t wide : {3U, 40U, 90U}) {
        const Graph g = test::grid(wide, 70, dice);
        const Customised fast(Hierarchy::of(g, Task()), g, Task());
        std::vector<std::vector<Seed>> sources(FewToAll::kMost);
        for (std::uint32_t lane = 0; lane + 1 < sources.size(); ++lane)  // the last has none
            for (std::uint32_t i = 0; i < lane % 3 + 1; ++i)
                sources[lane].push_back({(lane * 37 + i * 11) % g.node_count(), i * 5, i, 0, {}});
        FewToAll prepared, plainly;
        prepared.run(fast, sources, Run::with);
        plainly.run(g, sources, Task());
        for (std::size_t lane = 0; lane < sources.size(); ++lane) {
            const auto expected = nearest_of_many(g, sources[lane], kFar - 1, Task());
            for (std::uint32_t node = 0; node < g.node_count(); ++node) {
                const std::uint64_t both = expected[node].reached()
                                               ? (std::uint64_t{expected[node].cost} << 32U) | expected[node].other
                                               : std::uint64_t{kFar} << 32U;
                REQUIRE(plainly.line(node)[lane] == both);
                REQUIRE(prepared.line(fast.hierarchy().rank_of(node))[lane] == both);
            }
        }
    }
}

TEST_CASE("Whatever vector instructions the processor has, all find the same") {
    std::mt19937 dice(11);
    const Graph g = test::grid(120, 90, dice);
    const auto order = Hierarchy::of(g, Task());
    const std::vector<Seed> seeds{{5, 0, 0, 0, {}}, {4'000, 3, 0, 1, {}}, {9'000, 0, 2, 2, {}}};
    const std::vector<std::uint32_t> from{1, 77, 5'000, 10'000}, to{3, 400, 8'000};
    struct Found {
        Amounts tree;
        std::vector<std::uint32_t> rest;
        bool operator==(const Found&) const = default;
    };
    const auto find = [&] {
        const Customised fast(order, g, Task());
        Found f;
        f.tree = tree(fast, 17, Run::with);
        const auto near = nearest(fast, seeds, Run::with);
        for (std::uint32_t rank = 0; rank < g.node_count(); ++rank) {
            const auto r = near.reached(rank);
            f.rest.insert(f.rest.end(), {r.cost, r.source, r.other});
        }
        const auto take = [&](std::span<const std::uint32_t> row) {
            f.rest.insert(f.rest.end(), row.begin(), row.end());
        };
        trees(
            fast, from, Run::against, [&](std::size_t, std::span<const std::uint32_t> row) { take(row); }, Task());
        const auto pairs = [&](std::size_t, std::span<const std::uint32_t> costs,
                               std::span<const std::uint32_t> others) {
            take(costs);
            take(others);
        };
        table(fast, from, to, Run::with, pairs, Task());
        FewToAll few;
        const std::array<std::vector<Seed>, 3> lanes{{{seeds[0]}, {}, {seeds[1], seeds[2]}}};
        few.run(fast, lanes, Run::with);
        for (std::uint32_t rank = 0; rank < g.node_count(); ++rank)
            for (std::size_t lane = 0; lane < FewToAll::kMost; ++lane) {
                f.rest.push_back(static_cast<std::uint32_t>(few.line(rank)[lane]));
                f.rest.push_back(static_cast<std::uint32_t>(few.line(rank)[lane] >> 32U));
            }
        return f;
    };
    const std::int64_t all = hwy::SupportedTargets();
    const Found best = find();
    int kinds = 0;
    for (std::int64_t rest = all; rest != 0; rest &= rest - 1) {
        hwy::SetSupportedTargetsForTest(rest & -rest);
        hwy::GetChosenTarget().Update(hwy::SupportedTargets());
        INFO(hwy::TargetName(rest & -rest));
        CHECK(find() == best);
        ++kinds;
    }
    hwy::SetSupportedTargetsForTest(0);
    hwy::GetChosenTarget().Update(hwy::SupportedTargets());
    CHECK(kinds > 0);
}

TEST_CASE("Order and costs are the same on one thread and on many") {
    std::mt19937 dice(10);
    const Graph g = test::grid(150, 140, dice);
    const auto many = Hierarchy::of(g, Task());
    const Customised fast(many, g, Task());
    const tbb::global_control alone(tbb::global_control::max_allowed_parallelism, 1);
    const auto one = Hierarchy::of(g, Task());
    CHECK(one->positions() == many->positions());
    const Customised slow(many, g, Task());
    std::size_t differ = 0;
    for (std::uint32_t slot = 0; slot < many->arc_count(); ++slot)
        differ += slow.up(slot, Run::with) != fast.up(slot, Run::with) ||
                  slow.down(slot, Run::with) != fast.down(slot, Run::with);
    CHECK(differ == 0);
    CHECK(slow.largest_cost() == fast.largest_cost());
}

TEST_CASE("One order serves other costs, the other direction and closures") {
    std::mt19937 dice(9);
    for (int i = 0; i < 60; ++i) {
        test::Town town;
        std::vector<test::At> corners;
        for (int k = 0; k < 25; ++k)
            corners.push_back({100.0 * (k % 5) + static_cast<double>(dice() % 40),
                               100.0 * (k / 5) + static_cast<double>(dice() % 40)});
        for (int k = 0; k < 45; ++k) {
            const auto a = corners[dice() % 25], b = corners[dice() % 25];
            if (a.x != b.x || a.y != b.y)
                town.draw({a, b}, dice() % 4 == 0 ? test::one_way()
                                                  : test::road(dice() % 2 == 0 ? roads::RoadClass::primary
                                                                               : roads::RoadClass::service));
        }
        const auto net = town.network();
        auto crossings = travel::traversal_times(*net, {}, Task());
        const auto order = Hierarchy::of(make_graph(*net, crossings, Measure::time, SearchDirection::outward), Task());
        for (const auto& [measure, sweep] :
             {std::pair{Measure::time, SearchDirection::inward}, std::pair{Measure::distance, SearchDirection::outward},
              std::pair{Measure::time, SearchDirection::outward}}) {
            INFO("case " << i << (measure == Measure::time ? ", time" : ", distance")
                         << (sweep == SearchDirection::outward ? ", outward" : ", inward"));
            if (measure == Measure::time && sweep == SearchDirection::outward)
                crossings[dice() % crossings.size()] = {};  // shut
            const Graph outward = make_graph(*net, crossings, measure, SearchDirection::outward),
                        asked = make_graph(*net, crossings, measure, sweep);
            const std::vector<Seed> seeds{{static_cast<std::uint32_t>(dice() % asked.node_count()), 0, 0, 1, {}},
                                          {static_cast<std::uint32_t>(dice() % asked.node_count()), 7, 0, 0, {}}};
            check_nearest(plain(asked, seeds), Customised(order, outward, Task()), seeds,
                          sweep == SearchDirection::outward ? Run::with : Run::against);
        }
    }
}

TEST_CASE("Arcs lead upwards, higher neighbours of a node are joined to one another, and subtrees stand together") {
    std::mt19937 dice(11);
    for (int i = 0; i < 200; ++i) {
        const auto h = Hierarchy::of(test::random_graph(dice), Task());
        std::uint32_t children = 0, roots = 0;
        for (std::uint32_t r = 0; r < h->node_count(); ++r) {
            CHECK(h->node_at(h->rank_of(r)) == r);
            CHECK(h->by_position()[h->position_of(r)] == r);
            h->each_child(r, [&](std::uint32_t child) {
                CHECK(h->parent(child) == r);
                ++children;
            });
            roots += h->parent(r) == kFar;
            const auto row = h->row(r);
            for (std::uint32_t k = 0; k < row.count; ++k) {
                const std::uint32_t head = h->head(row.slot(k));
                REQUIRE(head < r);
                REQUIRE(h->slot_of(r, head) == row.slot(k));
                if (k > 0) REQUIRE(h->slot_of(h->parent(r), head) != kFar);
            }
        }
        CHECK(children + roots == h->node_count());
    }
}

TEST_CASE("An order found earlier gives the same hierarchy, and what is no order gives none") {
    std::mt19937 dice(12);
    const Graph g = test::grid(30, 30, dice);
    const auto h = Hierarchy::of(g, Task());
    auto turns = h->positions();
    const auto again = Hierarchy::of(g, turns, Task());
    REQUIRE(again != nullptr);
    for (std::uint32_t v = 0; v < g.node_count(); ++v) REQUIRE(again->rank_of(v) == h->rank_of(v));
    CHECK(Hierarchy::of(g, std::span(turns).first(turns.size() - 1), Task()) == nullptr);
    auto twice = turns;
    twice[3] = twice[4];
    CHECK(Hierarchy::of(g, twice, Task()) == nullptr);
    twice[3] = g.node_count();
    CHECK(Hierarchy::of(g, twice, Task()) == nullptr);
    std::shuffle(turns.begin(), turns.end(), dice);
    CHECK(Hierarchy::of(g, turns, Task()) == nullptr);
}

TEST_CASE("Ordering and customising stop when asked to") {
    std::mt19937 dice(13);
    const Graph g = test::grid(40, 40, dice);
    const auto h = Hierarchy::of(g, Task());
    std::stop_source stop;
    stop.request_stop();
    CHECK_THROWS_AS(Hierarchy::of(g, Task(stop.get_token())), Stopped);
    CHECK_THROWS_AS(Customised(h, g, Task(stop.get_token())), Stopped);
    const Customised fast(h, g, Task());
    CHECK_THROWS_AS(trees(
                        fast, std::array{1U}, Run::with, [](auto, auto) {}, Task(stop.get_token())),
                    Stopped);
    CHECK_THROWS_AS(
        table(
            fast, std::array{1U}, std::array{2U}, Run::with, [](auto, auto, auto) {}, Task(stop.get_token())),
        Stopped);
}
