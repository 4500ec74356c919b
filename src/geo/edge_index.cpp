#include "geo/edge_index.h"

#include <algorithm>

namespace otoro::geo {
namespace {

template <class Edges>
BoxIndex index_of(const Edges& edges) {
    return {static_cast<std::uint32_t>(edges.size()), [&](std::uint32_t i) {
                Box box;
                box.add(edges[i].a);
                box.add(edges[i].b);
                return box;
            }};
}

}  // namespace

AreaIndex::AreaIndex(std::span<const Area> areas)
    : edges_([&] {
          std::vector<Edge> edges;
          for (std::uint32_t n = 0; n < areas.size(); ++n)
              for (const auto& ring : areas[n].rings)
                  for (std::size_t i = 0, j = ring.size() - 1; i < ring.size(); j = i++)
                      edges.push_back({ring[i], ring[j], n});
          return edges;
      }()),
      areas_(areas),
      index_(index_of(edges_)) {
    for (const Area& a : areas) east_ = std::max(east_, a.box.east);
}

bool AreaIndex::any_contains(LonLat p) const {
    if (p.lon > east_) return false;
    thread_local std::vector<std::uint32_t> found, inside;
    index_.touching({p.lon, p.lat, east_, p.lat}, found);
    inside.clear();
    for (const std::uint32_t i : found) {
        const auto& [a, b, area] = edges_[i];
        if ((a.lat > p.lat) != (b.lat > p.lat) && p.lon < (b.lon - a.lon) * (p.lat - a.lat) / (b.lat - a.lat) + a.lon)
            inside.push_back(area);
    }
    std::sort(inside.begin(), inside.end());
    for (std::size_t begin = 0, end = 0; begin < inside.size(); begin = end) {
        while (end < inside.size() && inside[end] == inside[begin]) ++end;
        if ((end - begin) % 2 == 1 && areas_[inside[begin]].box.contains(p)) return true;
    }
    return false;
}

}  // namespace otoro::geo
