#pragma once
/// Small odd graphs for comparing searches.
#include <array>
#include <random>

#include "routing/graph.h"

namespace otoro::test {

/// Arcs drawn at random: few or many, one-way or not, with zero, equal and huge costs, loops, parallels and islands.
inline routing::Graph random_graph(std::mt19937& dice) {
    const auto below = [&](std::uint32_t n) { return static_cast<std::uint32_t>(dice() % n); };
    const std::uint32_t nodes = 1 + below(40);
    const std::uint32_t arcs = below(4) == 0 ? below(5) : below(3 * nodes + 1);
    const std::uint32_t most = std::array{1U, 3U, 1000U, 2'100'000'000U}[below(4)];
    std::vector<std::pair<std::uint32_t, routing::Arc>> all;
    for (std::uint32_t i = 0; i < arcs; ++i) {
        const std::uint32_t a = below(nodes), b = below(nodes), cost = below(most), other = below(1 + most / 2);
        all.push_back({a, {b, cost, other, routing::LinkWay::along(LinkId(i))}});
        if (below(3) > 0)
            all.push_back({b, {a, below(2) == 0 ? cost : below(most), other, routing::LinkWay::against(LinkId(i))}});
    }
    return routing::make_graph_of_arcs(nodes, routing::Measure::time, routing::SearchDirection::outward,
                                       [&](auto&& use) {
                                           for (const auto& [tail, arc] : all) use(tail, arc);
                                       });
}

/// The same with a few arcs changed or gone; says between which nodes.
struct Changed {
    routing::Graph graph;
    std::vector<std::pair<std::uint32_t, std::uint32_t>> touched;
};
inline Changed change(const routing::Graph& g, std::mt19937& dice) {
    std::vector<std::pair<std::uint32_t, routing::Arc>> all;
    Changed out;
    for (std::uint32_t v = 0; v < g.node_count(); ++v)
        for (routing::Arc a : g.arcs_of(v)) {
            if (dice() % 4 == 0) {
                out.touched.emplace_back(v, a.head);
                if (dice() % 2 == 0) continue;
                a.cost = dice() % 3 == 0 ? a.cost / 2 : routing::sum(a.cost, static_cast<std::uint32_t>(dice() % 1000));
            }
            all.emplace_back(v, a);
        }
    out.graph = routing::make_graph_of_arcs(g.node_count(), g.measure(), g.direction(), [&](auto&& use) {
        for (const auto& [tail, arc] : all) use(tail, arc);
    });
    return out;
}

/// The same with every arc turned round.
inline routing::Graph turned(const routing::Graph& g) {
    return routing::make_graph_of_arcs(g.node_count(), g.measure(), g.direction(), [&](auto&& use) {
        for (std::uint32_t v = 0; v < g.node_count(); ++v)
            for (routing::Arc a : g.arcs_of(v)) {
                const std::uint32_t tail = a.head;
                a.head = v;
                use(tail, a);
            }
    });
}

/// A grid with streets of every kind, some one-way, large enough for cells, levels and groups of eight.
inline routing::Graph grid(std::uint32_t width, std::uint32_t height, std::mt19937& dice) {
    std::vector<std::pair<std::uint32_t, routing::Arc>> all;
    const auto street = [&](std::uint32_t a, std::uint32_t b) {
        if (dice() % 10 == 0) return;
        const std::uint32_t mm = 50'000 + static_cast<std::uint32_t>(dice() % 100'000), ms = mm / (1 + dice() % 12);
        const auto link = LinkId(static_cast<std::uint32_t>(all.size()));
        all.push_back({a, {b, ms, mm, routing::LinkWay::along(link)}});
        if (dice() % 6 != 0) all.push_back({b, {a, ms, mm, routing::LinkWay::against(link)}});
    };
    for (std::uint32_t y = 0; y < height; ++y)
        for (std::uint32_t x = 0; x < width; ++x) {
            if (x + 1 < width) street(y * width + x, y * width + x + 1);
            if (y + 1 < height) street(y * width + x, y * width + x + width);
        }
    return routing::make_graph_of_arcs(width * height, routing::Measure::time, routing::SearchDirection::outward,
                                       [&](auto&& use) {
                                           for (const auto& [tail, arc] : all) use(tail, arc);
                                       });
}

}  // namespace otoro::test
