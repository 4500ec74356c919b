#include "routing/graph.h"

#include <utility>

namespace otoro::routing {

Graph make_graph(const roads::Network& network, std::span<const travel::Crossing> crossings, Measure measure, Sweep sweep) {
    Graph g;
    g.measure_ = measure;
    g.sweep_ = sweep;
    g.first_.assign(std::size_t{network.node_count()} + 1, 0);

    const auto each_arc = [&](auto&& use) {
        for (std::uint32_t i = 0; i < network.link_count(); ++i) {
            const LinkId link(i);
            const auto ends = network.ends(link);
            auto from = ends.from.value();
            auto to = ends.to.value();
            if (sweep == Sweep::inward) std::swap(from, to);
            if (crossings[i].along != travel::kShut) use(from, to, link, crossings[i].along, LinkWay::along(link));
            if (crossings[i].against != travel::kShut) use(to, from, link, crossings[i].against, LinkWay::against(link));
        }
    };

    each_arc([&](std::uint32_t tail, auto&&...) { ++g.first_[tail + 1]; });
    for (std::size_t n = 1; n < g.first_.size(); ++n) g.first_[n] += g.first_[n - 1];
    g.arcs_.resize(g.first_.back());
    std::vector<std::uint32_t> next(g.first_.begin(), g.first_.end() - 1);
    each_arc([&](std::uint32_t tail, std::uint32_t head, LinkId link, std::uint32_t ms, LinkWay way) {
        const auto mm = static_cast<std::uint32_t>(network.length(link).count());
        const bool by_time = measure == Measure::time;
        g.arcs_[next[tail]++] = Arc{head, by_time ? ms : mm, by_time ? mm : ms, way};
    });
    return g;
}

}  // namespace otoro::routing
