#include "roads/lines.h"

#include <algorithm>
#include <limits>

#include "geo/ellipsoid.h"

namespace otoro::roads {

std::uint32_t Names::add(std::string_view name) {
    if (name.empty()) return 0;
    if (const auto at = known_.find(name); at != known_.end()) return at->second;
    const auto number = count();
    known_.emplace(name, number);
    all_.emplace_back(name);
    return number;
}

void Lines::add(std::span<const geo::LonLat> shape, const Attributes& a) {
    vertices.insert(vertices.end(), shape.begin(), shape.end());
    first.push_back(static_cast<std::uint32_t>(vertices.size()));
    attributes.push_back(a);
    if (!heights.empty()) heights.resize(vertices.size(), std::numeric_limits<float>::quiet_NaN());
}

void Lines::add(std::span<const geo::LonLat> shape, const Attributes& a, std::span<const float> vertex_heights) {
    add(shape, a);
    heights.resize(vertices.size() - shape.size(), std::numeric_limits<float>::quiet_NaN());
    heights.insert(heights.end(), vertex_heights.begin(), vertex_heights.end());
}

void share_times(Lines& lines, std::uint32_t first, std::uint32_t along, std::uint32_t against) {
    if (lines.count() <= first + 1 || (along == 0 && against == 0)) return;
    std::vector<std::int64_t> until{0};
    for (std::uint32_t p = first; p < lines.count(); ++p) until.push_back(until.back() + geo::line_length(lines.shape(p)).count());
    if (until.back() == 0) return;
    const auto share = [&](std::uint32_t ms, std::uint32_t p) {
        if (ms == 0) return 0U;
        const auto at = [&](std::size_t i) { return std::int64_t{ms} * until[i] / until.back(); };
        return std::max(1U, static_cast<std::uint32_t>(at(p - first + 1) - at(p - first)));
    };
    for (std::uint32_t p = first; p < lines.count(); ++p) {
        lines.attributes[p].fixed_ms = share(along, p);
        if (against != 0) lines.against_ms[p] = share(against, p);
    }
}

}  // namespace otoro::roads
