#include "reach/rim.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>

#include "geo/local_frame.h"

namespace otoro::reach {

std::vector<OpenEnd> open_ends(const roads::Network& network, const std::vector<bool>& use) {
    std::vector<std::uint8_t> roads_at(network.node_count(), 0);
    for (std::uint32_t i = 0; i < network.link_count(); ++i) {
        if (!use[i]) continue;
        const auto ends = network.ends(LinkId(i));
        for (const NodeId n : {ends.from, ends.to})
            if (roads_at[n.value()] < 2) ++roads_at[n.value()];
    }
    constexpr std::size_t kDirections = 64;
    const geo::LocalFrame frame(network.extent().centre());
    std::array<geo::Flat, kDirections> direction{};
    std::array<double, kDirections> farthest{};
    for (std::size_t d = 0; d < kDirections; ++d) {
        const double angle = 2 * std::numbers::pi * static_cast<double>(d) / kDirections;
        direction[d] = {std::cos(angle), std::sin(angle)};
        farthest[d] = -1e300;
    }
    const auto along = [&](geo::Flat p, std::size_t d) { return p.x * direction[d].x + p.y * direction[d].y; };
    for (std::uint32_t n = 0; n < network.node_count(); ++n) {
        if (roads_at[n] == 0) continue;
        const geo::Flat p = frame.flat(network.position(NodeId(n)));
        for (std::size_t d = 0; d < kDirections; ++d) farthest[d] = std::max(farthest[d], along(p, d));
    }
    const geo::Flat low = frame.flat({network.extent().west, network.extent().south}),
                    high = frame.flat({network.extent().east, network.extent().north});
    const double rim = std::clamp(std::max(high.x - low.x, high.y - low.y) / 200, 50.0, 500.0);
    std::vector<OpenEnd> out;
    for (std::uint32_t i = 0; i < network.link_count(); ++i) {
        if (!use[i]) continue;
        const LinkId link(i);
        const auto ends = network.ends(link);
        if (ends.from == ends.to) continue;
        for (const NodeId n : {ends.from, ends.to}) {
            if (roads_at[n.value()] != 1) continue;
            const geo::Flat p = frame.flat(network.position(n));
            for (std::size_t d = 0; d < kDirections; ++d) {
                if (farthest[d] - along(p, d) > rim) continue;
                out.push_back({link, n == ends.from ? Millimetres(0) : network.length(link), network.position(n)});
                break;
            }
        }
    }
    return out;
}

}  // namespace otoro::reach
