#include "routing/graph.h"

#include <utility>

namespace otoro::routing {

Graph make_graph(const roads::Network& network, std::span<const travel::TraversalTime> crossings, Measure measure,
                 SearchDirection direction) {
    const bool by_time = measure == Measure::time;
    return make_graph_of_arcs(network.node_count(), measure, direction, [&](auto&& use) {
        for (std::uint32_t i = 0; i < network.link_count(); ++i) {
            const LinkId link(i);
            const auto ends = network.ends(link);
            auto from = ends.from.value();
            auto to = ends.to.value();
            if (direction == SearchDirection::inward) std::swap(from, to);
            const auto mm = static_cast<std::uint32_t>(network.length(link).count());
            const auto arc = [&](std::uint32_t head, std::uint64_t whole, LinkWay way) {
                const auto ms = static_cast<std::uint32_t>(std::min<std::uint64_t>(whole, kFar));
                return Arc{head, by_time ? ms : mm, by_time ? mm : ms, way};
            };
            if (crossings[i].along != travel::kNotAllowed) use(from, arc(to, crossings[i].along, LinkWay::along(link)));
            if (crossings[i].against != travel::kNotAllowed)
                use(to, arc(from, crossings[i].against, LinkWay::against(link)));
        }
    });
}

}  // namespace otoro::routing
