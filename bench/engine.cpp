#include "engine.h"

#include <boost/graph/compressed_sparse_row_graph.hpp>
#include <boost/graph/dijkstra_shortest_paths_no_color_map.hpp>
#include <cmath>
#include <numeric>
#include <random>
#include <tuple>

#include "generator/streets.h"
#include "measure.h"
#include "routing/one_to_all.h"

namespace otoro::bench {

using BoostGraph = boost::compressed_sparse_row_graph<boost::directedS, boost::no_property, boost::no_property,
                                                      std::uint32_t, std::uint32_t>;

/// One tree by Boost from one node, on the same arcs with the same numbering.
double boost_tree(const routing::Graph& g, std::uint32_t source, std::vector<std::uint32_t>& distance) {
    std::vector<std::pair<std::uint32_t, std::uint32_t>> edges;
    std::vector<std::uint32_t> weights;
    for (std::uint32_t n = 0; n < g.node_count(); ++n)
        for (const auto& a : g.arcs_of(n)) {
            edges.emplace_back(n, a.head);
            weights.push_back(a.cost);
        }
    const BoostGraph graph(boost::edges_are_sorted, edges.begin(), edges.end(), g.node_count());
    edges = {};
    distance.assign(g.node_count(), 0);
    std::vector<std::uint32_t> before(g.node_count());
    const auto edge_index = get(boost::edge_index, graph);
    return best_of(9, [&] {
        dijkstra_shortest_paths_no_color_map(
            graph, source,
            boost::distance_map(boost::make_iterator_property_map(distance.begin(), get(boost::vertex_index, graph)))
                .predecessor_map(boost::make_iterator_property_map(before.begin(), get(boost::vertex_index, graph)))
                .weight_map(boost::make_iterator_property_map(weights.begin(), edge_index)));
        kept = distance.back();
    });
}

namespace {

using routing::Customised;
using routing::Graph;
using routing::Hierarchy;
using routing::Run;

std::vector<std::uint32_t> spread(std::uint32_t nodes, std::uint32_t count, std::uint32_t shift) {
    std::vector<std::uint32_t> out;
    for (std::uint32_t i = 0; i < count; ++i)
        out.push_back(static_cast<std::uint32_t>((std::uint64_t{nodes} * i + shift) / count % nodes));
    return out;
}

/// The same graph with a hundred roads near one node shut; says which.
Graph with_closures(const Graph& g, std::uint32_t near, std::vector<Customised::Joint>& touched) {
    std::vector<std::uint32_t> shut, reached{near};
    std::vector<bool> seen(g.node_count(), false);
    seen[near] = true;
    for (std::size_t i = 0; i < reached.size() && shut.size() < 100; ++i)
        for (const auto& a : g.arcs_of(reached[i])) {
            if (shut.size() < 100 && std::find(shut.begin(), shut.end(), a.way.link().value()) == shut.end())
                shut.push_back(a.way.link().value());
            if (!seen[a.head]) {
                seen[a.head] = true;
                reached.push_back(a.head);
            }
        }
    return routing::make_graph_of_arcs(g.node_count(), g.measure(), g.direction(), [&](auto&& use) {
        touched.clear();
        for (std::uint32_t v = 0; v < g.node_count(); ++v)
            for (const auto& a : g.arcs_of(v)) {
                if (std::find(shut.begin(), shut.end(), a.way.link().value()) != shut.end())
                    touched.push_back({v, a.head});
                else
                    use(v, a);
            }
    });
}

/// Reads what a pass reads and writes what it writes, and does nothing else.
double stream_and_write(const Customised& fast, std::size_t rows) {
    const auto& h = fast.hierarchy();
    routing::Amounts out(h.node_count() * rows);
    return best_of(5, [&] {
        std::uint64_t total = 0;
        for (const auto s : h.spots()) total += s;
        for (const auto c : fast.down_costs(Run::with)) total += c;
        std::fill(out.begin(), out.end(), static_cast<std::uint32_t>(total));
        kept = total + out.back();
    });
}

}  // namespace

void run_engine(const Graph& graph, std::span<const routing::Seed> seeds, const routing::LabelArray& labels,
                double boost_time, double building) {
    const std::string against = "one Boost Dijkstra tree";
    const std::uint32_t n = graph.node_count();
    std::shared_ptr<const Hierarchy> order;
    const double ordering = seconds([&] { order = Hierarchy::of(graph, Task()); });
    row(fmt::format("ordering once, {:.2f} arcs a node", static_cast<double>(order->arc_count()) / n), ms(ordering),
        "reading and building", ordering / building, 6.0);
    const auto turns = order->positions();
    row("  the same from an order kept", ms(best_of(2, [&] { kept = Hierarchy::of(graph, turns, Task())->height(); })),
        "", 0, 0);
    std::unique_ptr<Customised> fast;
    const double customising = best_of(7, [&] { fast = std::make_unique<Customised>(order, graph, Task()); });
    row("customising whole, two cores", ms(customising), against, customising / boost_time, 1.0);

    std::vector<Customised::Joint> touched;
    const Graph closed = with_closures(graph, n / 3, touched);
    std::vector<Customised::Earlier> earlier;
    double closing = 1e300;
    for (int i = 0; i < 7; ++i) {
        closing = std::min(closing, seconds([&] { earlier = fast->update(closed, touched); }));
        if (i + 1 < 7) fast->restore(earlier);
    }
    row(fmt::format("  a closure of 100 links, {} arcs changed", earlier.size()), ms(closing), against,
        closing / boost_time, 0.05);
    {
        const Customised anew(order, closed, Task());
        std::uint64_t differ = 0;
        for (std::uint32_t slot = 0; slot < order->arc_count(); ++slot)
            differ += anew.up(slot, Run::with) != fast->up(slot, Run::with) ||
                      anew.down(slot, Run::with) != fast->down(slot, Run::with);
        fmt::print("{:<44} {:>12}   of {} arcs differ from customising anew\n", "", differ, order->arc_count());
    }
    fast->restore(earlier);

    const double arrays = static_cast<double>(graph.all_arcs().size_bytes() + graph.all_offsets().size_bytes());
    const double memory = static_cast<double>(order->bytes() + fast->bytes());
    row("memory of order and costs", fmt::format("{:.0f} MB", memory / 1e6),
        fmt::format("the network's arrays: {:.0f} MB", arrays / 1e6), memory / arrays, 4.0);

    routing::Amounts swept_costs;
    const double tree_time = best_of(15, [&] {
        tree(*fast, seeds[0].node, Run::with, swept_costs);
        kept = swept_costs.back();
    });
    row("one tree by a sweep", ms(tree_time), against, tree_time / boost_time, 1.0 / 20);
    const auto sources = spread(n, 1008, 7);
    const double many = seconds([&] {
                            trees(
                                *fast, sources, Run::with,
                                [&](std::size_t, std::span<const std::uint32_t> r) { kept = kept + r.back(); }, Task());
                        }) /
                        static_cast<double>(sources.size());
    row("of 1008 trees, each", fmt::format("{:.3f} ms", many * 1000), against, many / boost_time, 1.0 / 120);
    const double floor = stream_and_write(*fast, 16) / 16;
    row("", "", fmt::format("streaming the arrays, writing rows: {:.3f} ms", floor * 1000), many / floor, 0);
    const double floor_alone = stream_and_write(*fast, 1);
    row("", "", fmt::format("the same for one row alone: {:.3f} ms", floor_alone * 1000), many / floor_alone, 2.0);

    routing::NearestByRank swept;
    const double near = best_of(15, [&] { nearest(*fast, seeds, Run::with, swept); });
    row("nearest of 100, with the other measure", ms(near), against, near / boost_time, 1.0 / 20);
    std::uint64_t differ = 0;
    for (std::uint32_t v = 0; v < n; ++v) {
        const auto l = swept.at(order->rank_of(v));
        differ += l.cost != labels[v].cost || l.source != labels[v].source || l.other != labels[v].other;
    }
    fmt::print("{:<44} {:>12}   of {} nodes disagree with the search\n", "", differ, n);
    const double few = best_of(3, [&] { kept = nearest_k(*fast, seeds, 3, Run::with).size(); });
    row("three nearest of 100", ms(few), against, few / boost_time, 0);

    const auto from = spread(n, 1000, 3), to = spread(n, 1000, 311);
    std::vector<std::uint32_t> first_costs, first_others;
    const double tabling = best_of(3, [&] {
        table(
            *fast, from, to, Run::with,
            [&](std::size_t r, std::span<const std::uint32_t> costs, std::span<const std::uint32_t> others) {
                if (r != 500) return;
                first_costs.assign(costs.begin(), costs.end());
                first_others.assign(others.begin(), others.end());
            },
            Task());
    });
    row("1,000 x 1,000 table, both measures", ms(tabling), "1,000 of the same", tabling / (1000 * boost_time),
        1.0 / 1000);
    const auto plain =
        nearest_of_many(graph, std::array{routing::Seed{from[500], 0, 0, 0, {}}}, routing::kFar - 1, Task());
    differ = 0;
    for (std::size_t t = 0; t < to.size(); ++t)
        differ +=
            plain[to[t]].cost != first_costs[t] || (plain[to[t]].reached() && plain[to[t]].other != first_others[t]);
    fmt::print("{:<44} {:>12}   of 1,000 of its cells disagree with the search\n", "", differ);
}

namespace {

/// A county as the demo's generator grows it, with about so many links: old towns, estates and villages, the country
/// between them, main roads, dead ends, one-way streets, rivers with bridges.
Graph county(std::size_t links) {
    demo::Dice dice(11);
    const demo::StreetPlan plan = demo::grow_streets(demo::county(links), dice);
    // Numbered field by field, as a network read from a file would be.
    constexpr double kField = 600;
    std::vector<std::uint32_t> corners, number(plan.corners.size(), routing::kFar);
    for (const auto& s : plan.streets)
        for (const std::uint32_t c : {s.a, s.b})
            if (number[c] == routing::kFar) {
                number[c] = 0;
                corners.push_back(c);
            }
    const auto field = [&](std::uint32_t c) {
        return std::tuple(std::floor(plan.corners[c].y / kField), std::floor(plan.corners[c].x / kField), c);
    };
    std::sort(corners.begin(), corners.end(), [&](std::uint32_t a, std::uint32_t b) { return field(a) < field(b); });
    for (std::uint32_t i = 0; i < corners.size(); ++i) number[corners[i]] = i;

    std::vector<std::pair<std::uint32_t, routing::Arc>> all;
    for (std::uint32_t i = 0; i < plan.streets.size(); ++i) {
        const demo::Street& s = plan.streets[i];
        if (s.road_class == "footway") continue;
        constexpr double kWithoutSpeed = 30;
        const double metres = std::max(1.0, length(plan.corners[s.b] - plan.corners[s.a])),
                     kmh = s.speed > 0 ? s.speed : kWithoutSpeed;
        const auto mm = static_cast<std::uint32_t>(metres * 1000),
                   millis = static_cast<std::uint32_t>(metres * 3600 / kmh);
        all.push_back({number[s.a], {number[s.b], millis, mm, routing::LinkWay::along(LinkId(i))}});
        if (s.one_way == 0)
            all.push_back({number[s.b], {number[s.a], millis, mm, routing::LinkWay::against(LinkId(i))}});
    }
    return routing::make_graph_of_arcs(static_cast<std::uint32_t>(corners.size()), routing::Measure::time,
                                       routing::SearchDirection::outward, [&](auto&& use) {
                                           for (const auto& [tail, arc] : all) use(tail, arc);
                                       });
}

/// All streets alike, all there.
Graph plain_grid(std::uint32_t side) {
    std::mt19937 dice(18);
    return routing::make_graph_of_arcs(
        side * side, routing::Measure::time, routing::SearchDirection::outward, [&](auto&& use) {
            dice.seed(18);
            const auto both = [&](std::uint32_t a, std::uint32_t b) {
                const std::uint32_t ms = 8'000 + static_cast<std::uint32_t>(dice() % 8'000);
                use(a, routing::Arc{b, ms, ms * 8, routing::LinkWay::none()});
                use(b, routing::Arc{a, ms, ms * 8, routing::LinkWay::none()});
            };
            for (std::uint32_t y = 0; y < side; ++y)
                for (std::uint32_t x = 0; x < side; ++x) {
                    if (x + 1 < side) both(y * side + x, y * side + x + 1);
                    if (y + 1 < side) both(y * side + x, (y + 1) * side + x);
                }
        });
}

struct Measured {
    double nodes, tree, trees;
};
Measured measure(const char* what, const Graph& g) {
    std::shared_ptr<const Hierarchy> order;
    const double ordering = seconds([&] { order = Hierarchy::of(g, Task()); });
    std::unique_ptr<Customised> fast;
    const double customising = best_of(3, [&] { fast = std::make_unique<Customised>(order, g, Task()); });
    const auto sources = spread(g.node_count(), 16, 5);
    routing::Amounts costs;
    const double alone = best_of(9, [&] {
        tree(*fast, sources[3], Run::with, costs);
        kept = costs.back();
    });
    const double many =
        best_of(5,
                [&] {
                    trees(
                        *fast, sources, Run::with,
                        [&](std::size_t, std::span<const std::uint32_t> r) { kept = kept + r.back(); }, Task());
                }) /
        16;
    const double plain = best_of(3, [&] {
        kept =
            nearest_of_many(g, std::array{routing::Seed{sources[3], 0, 0, 0, {}}}, routing::kFar - 1, Task())[0].cost;
    });
    fmt::print("{:<16} {:>9} {:>6.2f} {:>7} {:>11} {:>13} {:>10} {:>10} {:>10}\n", what, g.node_count(),
               static_cast<double>(order->arc_count()) / g.node_count(), order->height(), ms(ordering), ms(customising),
               ms(plain), fmt::format("{:.2f} ms", alone * 1000), fmt::format("{:.3f} ms", many * 1000));
    return {static_cast<double>(g.node_count()), alone, many};
}

}  // namespace

void run_growth() {
    fmt::print("\n{:<16} {:>9} {:>6} {:>7} {:>11} {:>13} {:>10} {:>10} {:>10}\n", "network", "nodes", "arcs", "height",
               "ordering", "customising", "searching", "one tree", "of sixteen");
    std::vector<Measured> all;
    for (const std::size_t links : {24'000U, 166'000U, 1'730'000U, 6'780'000U})
        all.push_back(measure("county", county(links)));  // 10 thousand to 4 million nodes
    measure("plain grid", plain_grid(1000));
    // Slopes of log time over log nodes by least squares.
    const auto exponent = [&](auto&& time) {
        double sx = 0, sy = 0, sxx = 0, sxy = 0;
        for (const auto& m : all) {
            const double x = std::log(m.nodes), y = std::log(time(m));
            sx += x;
            sy += y;
            sxx += x * x;
            sxy += x * y;
        }
        const auto n = static_cast<double>(all.size());
        return (n * sxy - sx * sy) / (n * sxx - sx * sx);
    };
    const double alone = exponent([](const Measured&m) { return m.tree; }),
                 many = exponent([](const Measured&m) { return m.trees; });
    row("growth of one tree with nodes, exponent", fmt::format("{:.3f}", alone), "in proportion: 1", alone, 1.0);
    row("growth of a tree of sixteen, exponent", fmt::format("{:.3f}", many), "in proportion: 1", many, 1.0);
}

}  // namespace otoro::bench
