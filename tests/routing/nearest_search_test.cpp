#include "routing/nearest_search.h"

#include <array>
#include <catch2/catch.hpp>
#include <random>
#include <tuple>

#include "support/town.h"

using namespace otoro;
using routing::kFar;
using routing::Label;
using routing::Measure;
using routing::SearchDirection;
using routing::Seed;
using test::Town;

namespace {

/// The slow, obvious way: relax every arc until nothing gets better.
std::vector<Label> slowly(const routing::Graph& g, const std::vector<Seed>& seeds, std::uint32_t limit) {
    std::vector<Label> labels(g.node_count());
    const auto better = [](const Label& a, const Label& b) {
        return std::tie(a.cost, a.source, a.other) < std::tie(b.cost, b.source, b.other);
    };
    for (const auto& s : seeds)
        if (const Label l{s.cost, s.source, s.other, {}}; s.cost <= limit && better(l, labels[s.node]))
            labels[s.node] = l;
    for (bool changed = true; changed;) {
        changed = false;
        for (std::uint32_t n = 0; n < g.node_count(); ++n) {
            if (!labels[n].reached()) continue;
            for (const auto& arc : g.arcs_of(n)) {
                const std::uint64_t cost = std::uint64_t{labels[n].cost} + arc.cost;
                if (cost > limit || cost >= kFar) continue;
                const std::uint64_t other = std::min<std::uint64_t>(std::uint64_t{labels[n].other} + arc.other, kFar);
                const Label l{
                    static_cast<std::uint32_t>(cost), labels[n].source, static_cast<std::uint32_t>(other), {}};
                if (better(l, labels[arc.head])) {
                    labels[arc.head] = l;
                    changed = true;
                }
            }
        }
    }
    return labels;
}

void check_same(const routing::LabelArray& a, const std::vector<Label>& b) {
    REQUIRE(a.size() == b.size());
    for (std::size_t i = 0; i < a.size(); ++i) {
        REQUIRE(a[i].cost == b[i].cost);
        if (a[i].reached()) {
            REQUIRE(a[i].source == b[i].source);
            REQUIRE(a[i].other == b[i].other);
        }
    }
}

/// A tangle of few corners, so that parallel roads, loops and ties are common; times drawn from few values, zero among
/// them.
struct Tangle {
    std::shared_ptr<const roads::Network> network;
    std::vector<travel::TraversalTime> traversal_times;

    explicit Tangle(std::uint64_t seed) {
        std::mt19937_64 dice(seed);
        const auto below = [&](std::uint32_t n) { return static_cast<std::uint32_t>(dice() % n); };
        const std::uint32_t corners = 2 + below(25);
        Town town;
        const std::uint32_t links = 1 + below(60);
        const auto corner = [&] {
            const auto c = below(corners);
            return test::At{100.0 * (c % 5), 100.0 * (c / 5)};
        };
        for (std::uint32_t i = 0; i < links; ++i) {
            const auto a = corner();
            const auto b = corner();
            town.draw({a, {a.x + 1, a.y + 1}, b});
        }
        network = town.network();
        constexpr std::array<std::uint32_t, 7> kTimes{0, 0, 1, 2, 3, 1000, 4'000'000'000};
        for (std::uint32_t i = 0; i < links; ++i) {
            const auto way = [&] { return below(3) == 0 ? travel::kNotAllowed : kTimes[below(kTimes.size())]; };
            traversal_times.push_back({way(), way()});
        }
    }
};

}  // namespace

TEST_CASE("Random tangles agree with the slow way, to the last unit") {
    for (std::uint64_t seed = 0; seed < 1500; ++seed) {
        const Tangle t(seed);
        std::mt19937_64 dice(seed + 7);
        std::vector<Seed> seeds;
        for (std::uint32_t s = 0; s < 1 + dice() % 4; ++s)
            seeds.push_back({static_cast<std::uint32_t>(dice() % t.network->node_count()),
                             static_cast<std::uint32_t>(dice() % 3),
                             static_cast<std::uint32_t>(dice() % 50),
                             s,
                             {}});
        const std::uint32_t limit = dice() % 3 == 0 ? 3 : kFar - 1;
        const auto g = make_graph(*t.network, t.traversal_times, dice() % 2 ? Measure::time : Measure::distance,
                                  dice() % 2 ? SearchDirection::outward : SearchDirection::inward);
        INFO("seed " << seed);
        check_same(nearest_of_many(g, seeds, limit, Task()), slowly(g, seeds, limit));
    }
}

TEST_CASE("An inward search on one-way roads is an outward search on the roads turned round") {
    const auto net =
        Town().draw({{0, 0}, {100, 0}}, test::one_way()).draw({{100, 0}, {200, 0}}, test::one_way()).network();
    const auto crossings = travel::traversal_times(*net, {travel::Mode::drive, Speed::km_per_hour(36)}, Task());
    const std::array<Seed, 1> middle{Seed{net->ends(LinkId(0u)).to.value(), 0, 0, 0, {}}};
    const auto first = net->ends(LinkId(0u)).from.value();
    const auto last = net->ends(LinkId(1u)).to.value();
    const auto out =
        nearest_of_many(make_graph(*net, crossings, Measure::time, SearchDirection::outward), middle, kFar - 1, Task());
    CHECK_FALSE(out[first].reached());
    CHECK(out[last].cost == Approx(10'000).margin(1));
    const auto in =
        nearest_of_many(make_graph(*net, crossings, Measure::time, SearchDirection::inward), middle, kFar - 1, Task());
    CHECK(in[first].cost == Approx(10'000).margin(1));
    CHECK_FALSE(in[last].reached());
}

TEST_CASE("A tie goes to the source with the smaller number") {
    const auto net = Town().draw({{0, 0}, {100, 0}}).draw({{200, 0}, {100, 0}}).network();
    const std::vector<travel::TraversalTime> crossings{{500, 500}, {500, 500}};
    const auto g = make_graph(*net, crossings, Measure::time, SearchDirection::outward);
    const auto left = net->ends(LinkId(0u)).from.value();
    const auto right = net->ends(LinkId(1u)).from.value();
    const auto middle = net->ends(LinkId(0u)).to.value();
    CHECK(nearest_of_many(g, std::array{Seed{left, 0, 0, 1, {}}, Seed{right, 0, 0, 0, {}}}, kFar - 1, Task())[middle]
              .source == 0);
    CHECK(nearest_of_many(g, std::array{Seed{left, 0, 0, 0, {}}, Seed{right, 0, 0, 1, {}}}, kFar - 1, Task())[middle]
              .source == 0);
}

TEST_CASE("Costs too large to hold are no route, not a short one") {
    const auto net = Town().draw({{0, 0}, {100, 0}}).draw({{100, 0}, {200, 0}}).network();
    const std::vector<travel::TraversalTime> crossings{{2'000'000'000, 2'000'000'000}, {2'000'000'000, 2'000'000'000}};
    const auto labels =
        nearest_of_many(make_graph(*net, crossings, Measure::time, SearchDirection::outward),
                        std::array{Seed{net->ends(LinkId(0u)).from.value(), 0, 0, 0, {}}}, kFar - 1, Task());
    CHECK(labels[net->ends(LinkId(0u)).to.value()].cost == 2'000'000'000);
    CHECK_FALSE(labels[net->ends(LinkId(1u)).to.value()].reached());
}

TEST_CASE("No source, no labels") {
    const auto net = Town().draw({{0, 0}, {100, 0}}).network();
    for (const auto& l : nearest_of_many(
             make_graph(*net, travel::traversal_times(*net, {}, Task()), Measure::time, SearchDirection::outward), {},
             kFar - 1, Task()))
        CHECK_FALSE(l.reached());
}
