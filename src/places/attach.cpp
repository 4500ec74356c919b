#include "places/attach.h"

#include <algorithm>
#include <cctype>

#include "geo/ellipsoid.h"
#include "geo/local_frame.h"

namespace otoro::places {
namespace {

struct Foot {
    Millimetres distance;
    std::uint32_t link = 0;
    std::size_t segment = 0;
    geo::LonLat at;
};

/// The point of a link nearest to `place`: the nearest segment in the flat frame, then its true distance.
Foot nearest_point(std::span<const geo::LonLat> shape, std::uint32_t link, geo::LonLat place, const geo::LocalFrame& frame) {
    const geo::LineFoot foot = geo::foot_on_line(shape, frame);
    Foot best;
    best.segment = foot.segment;
    best.at = geo::between(shape[foot.segment], shape[foot.segment + 1], foot.along);
    best.link = link;
    best.distance = geo::distance(place, best.at);
    return best;
}

Millimetres offset_of(const roads::Network& network, const Foot& foot) {
    const LinkId link(foot.link);
    const auto shape = network.shape(link);
    double before = 0;
    for (std::size_t i = 0; i < foot.segment; ++i) before += geo::distance_metres(shape[i], shape[i + 1]);
    before += geo::distance_metres(shape[foot.segment], foot.at);
    return std::min(Millimetres::from_metres(before), network.length(link));
}

/// The nearest point of the links for which `may`, within the limit.
template <class May>
std::optional<Attachment> nearest(const roads::Network& network, geo::LonLat place, Millimetres limit, May&& may) {
    thread_local std::vector<std::uint32_t> near;
    const geo::LocalFrame frame(place);
    double radius = std::min(40.0, limit.metres());
    while (true) {
        network.links_touching(frame.box_around(radius), near);
        std::optional<Foot> best;
        for (const std::uint32_t link : near) {
            if (!may(link)) continue;
            const Foot foot = nearest_point(network.shape(LinkId(link)), link, place, frame);
            if (!best || foot.distance < best->distance || (foot.distance == best->distance && foot.link < best->link)) best = foot;
        }
        if (best && best->distance.metres() <= radius)
            return best->distance <= limit ? std::optional(Attachment{LinkId(best->link), offset_of(network, *best), best->distance, best->at}) : std::nullopt;
        if (radius >= limit.metres()) return std::nullopt;
        radius = std::min(radius * 3, limit.metres());
    }
}

bool same_name(const std::string& a, const std::string& b) {
    return std::equal(a.begin(), a.end(), b.begin(), b.end(), [](unsigned char x, unsigned char y) { return std::tolower(x) == std::tolower(y); });
}

}  // namespace

std::optional<Attachment> attach(const roads::Network& network, const std::vector<bool>& usable, geo::LonLat place, Millimetres limit) {
    return nearest(network, place, limit, [&](std::uint32_t link) { return usable[link]; });
}

std::optional<Attachment> attach_to_named(const roads::Network& network, const std::vector<bool>& usable, geo::LonLat place, const std::string& road, Millimetres limit) {
    return nearest(network, place, limit, [&](std::uint32_t link) { return usable[link] && same_name(network.name(LinkId(link)), road); });
}

std::vector<bool> attachable(const roads::Network& network, const std::vector<bool>& usable, const AttachRule& rule) {
    std::vector<bool> out = usable;
    for (std::uint32_t i = 0; i < network.link_count(); ++i)
        if (out[i] && !rule.allows(network.attributes(LinkId(i)).road_class)) out[i] = false;
    if (rule.least_piece.count() == 0) return out;
    const auto found = find_pieces(network, usable);
    for (std::uint32_t i = 0; i < network.link_count(); ++i)
        if (out[i] && found.pieces[found.of_link[i]].length < rule.least_piece) out[i] = false;
    return out;
}

std::vector<Millimetres> vertex_offsets(const roads::Network& network, LinkId link) {
    const auto shape = network.shape(link);
    std::vector<double> metres(shape.size(), 0.0);
    for (std::size_t i = 1; i < shape.size(); ++i) metres[i] = metres[i - 1] + geo::distance_metres(shape[i - 1], shape[i]);
    std::vector<Millimetres> out(shape.size());
    for (std::size_t i = 0; i < shape.size(); ++i) out[i] = std::min(Millimetres::from_metres(metres[i]), network.length(link));
    out.back() = network.length(link);
    return out;
}

std::vector<geo::LonLat> shape_between(const roads::Network& network, LinkId link, Millimetres from, Millimetres to) {
    const auto shape = network.shape(link);
    const auto offsets = vertex_offsets(network, link);
    const auto point_at = [&](Millimetres offset) {
        const auto after = std::upper_bound(offsets.begin() + 1, offsets.end() - 1, offset);
        const auto i = static_cast<std::size_t>(after - offsets.begin());
        const auto span = offsets[i] - offsets[i - 1];
        const double t = span.count() > 0 ? static_cast<double>((offset - offsets[i - 1]).count()) / static_cast<double>(span.count()) : 0.0;
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

}  // namespace otoro::places
