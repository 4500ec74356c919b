#include "roads/lines.h"

#include <algorithm>
#include <cmath>
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

void count_on_longitudes(Lines& lines) {
    // Which degrees of longitude have a vertex; the widest stretch without one is where counting begins.
    std::vector<bool> used(360, false);
    const auto degree = [](double lon) {
        return static_cast<std::size_t>(std::clamp(std::floor(lon + 180), 0.0, 359.0));
    };
    double west = 1e9, east = -1e9;
    for (const auto& p : lines.vertices) {
        west = std::min(west, p.lon);
        east = std::max(east, p.lon);
    }
    if (lines.vertices.empty() || east - west <= 180 || west < -180 || east > 180) return;
    for (const auto& p : lines.vertices) used[degree(p.lon)] = true;
    std::size_t widest = 0, begin = 0, run = 0;
    for (std::size_t i = 0; i < used.size(); ++i) {
        run = used[i] ? 0 : run + 1;
        if (run > widest) {
            widest = run;
            begin = i + 1 - run;
        }
    }
    constexpr std::size_t kEmpty =
        180;  // of the globe, at least: roads on both sides of the meridian, and nowhere else
    if (widest < kEmpty) return;
    const double seam = static_cast<double>(begin) - 180 + static_cast<double>(widest) / 2;
    const auto count_on = [seam](geo::LonLat& p) {
        if (p.lon < seam) p.lon += 360;
    };
    for (auto& p : lines.vertices) count_on(p);
    for (auto& p : lines.traffic_signals) count_on(p);
}

void share_times(Lines& lines, std::uint32_t first, std::uint32_t along, std::uint32_t against) {
    if (lines.count() <= first + 1 || (along == 0 && against == 0)) return;
    std::vector<std::int64_t> until{0};
    for (std::uint32_t p = first; p < lines.count(); ++p)
        until.push_back(until.back() + geo::line_length(lines.shape(p)).count());
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
