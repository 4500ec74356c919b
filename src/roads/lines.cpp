#include "roads/lines.h"

#include <limits>

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

}  // namespace otoro::roads
