#include "roads/lines.h"

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
}

}  // namespace otoro::roads
