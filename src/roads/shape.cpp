#include "roads/shape.h"

#include <algorithm>

#include "geo/ellipsoid.h"
#include "geo/local_frame.h"

namespace otoro::roads {

std::vector<Millimetres> vertex_offsets(const Network& network, LinkId link) {
    const auto shape = network.shape(link);
    std::vector<double> metres(shape.size(), 0.0);
    for (std::size_t i = 1; i < shape.size(); ++i)
        metres[i] = metres[i - 1] + geo::distance_metres(shape[i - 1], shape[i]);
    std::vector<Millimetres> out(shape.size());
    for (std::size_t i = 0; i < shape.size(); ++i)
        out[i] = std::min(Millimetres::from_metres(metres[i]), network.length(link));
    out.back() = network.length(link);
    return out;
}

std::vector<geo::LonLat> shape_between(const Network& network, LinkId link, Millimetres from, Millimetres to) {
    const auto shape = network.shape(link);
    const auto offsets = vertex_offsets(network, link);
    const auto point_at = [&](Millimetres offset) {
        const auto after = std::upper_bound(offsets.begin() + 1, offsets.end() - 1, offset);
        const auto i = static_cast<std::size_t>(after - offsets.begin());
        const auto span = offsets[i] - offsets[i - 1];
        const double t = span.count() > 0 ? static_cast<double>((offset - offsets[i - 1]).count()) /
                                                static_cast<double>(span.count())
                                          : 0.0;
        return geo::between(shape[i - 1], shape[i], std::clamp(t, 0.0, 1.0));
    };
    const auto low = std::min(from, to);
    const auto high = std::max(from, to);
    std::vector<geo::LonLat> out{point_at(low)};
    for (std::size_t i = 0; i < shape.size(); ++i)
        if (offsets[i] > low && offsets[i] < high) out.push_back(shape[i]);
    out.push_back(point_at(high));
    if (to < from) std::reverse(out.begin(), out.end());
    return out;
}

}  // namespace otoro::roads
