#include "service/road_reading.h"

#include <fmt/format.h>

#include <algorithm>

#include "geo/amounts.h"
#include "geo/local_frame.h"
#include "geo/wording.h"
#include "service/split_link.h"

namespace otoro::service {
namespace {

constexpr double kNearly = 20;  // metres

std::string called(const roads::Network& network, LinkId link) {
    const auto& n = network.name(link);
    return n.empty() ? fmt::format("a {} without a name", name(network.attributes(link).road_class)) : n;
}

/// Names of roads, each once.
std::string names(const roads::Network& network, const std::vector<LinkId>& links) {
    std::vector<std::string> out;
    for (const LinkId l : links)
        if (auto n = called(network, l); std::find(out.begin(), out.end(), n) == out.end()) out.push_back(std::move(n));
    if (out.empty()) return "nothing: a dead end";
    std::string s;
    for (std::size_t i = 0; i < out.size(); ++i) s += (i > 0 ? ", " : "") + out[i];
    return s;
}

double metres_between(const roads::Network& network, LinkId link, geo::LonLat p) {
    return std::sqrt(geo::foot_on_line(network.shape(link), geo::LocalFrame(p)).squared);
}

}  // namespace

std::optional<LinkId> road_at(const roads::Network& network, geo::LonLat spot, Millimetres reach) {
    const auto a = places::attach(network, std::vector<bool>(network.link_count(), true), spot, reach);
    return a ? std::optional(a->link) : std::nullopt;
}

RoadReading read_road(const roads::Network& network, const CostedNetwork& costed, LinkId link) {
    RoadReading r;
    const auto& a = network.attributes(link);
    r.link = link;
    r.name = network.name(link);
    r.road_class = a.road_class;
    r.length = network.length(link);
    if (a.drive_speed.stated()) r.stated = a.drive_speed;
    r.used = travel::speed_on(a, costed.profile);
    r.level = a.level();
    r.added = network.lines().as_read(link.value()) == roads::Lines::kAdded;
    const auto whole = SplitLink(network, costed.traversal_times[link.value()], link,
                                 roads::restrictions_of(costed.restrictions, link))
                           .whole();
    if (whole.along != travel::kNotAllowed) r.along = Millis(static_cast<std::int64_t>(whole.along));
    if (whole.against != travel::kNotAllowed) r.against = Millis(static_cast<std::int64_t>(whole.against));
    const auto pieces = find_pieces(network, costed.usable);
    r.pieces = static_cast<std::uint32_t>(pieces.pieces.size());
    if (costed.usable[link.value()]) r.piece = pieces.of_link[link.value()];

    const auto ends = network.ends(link);
    std::vector<std::uint32_t> near;
    const auto look = [&](NodeId node, std::vector<LinkId>& joined) {
        const geo::LonLat p = network.position(node);
        network.links_touching(geo::LocalFrame(p).box_around(kNearly), near);
        std::sort(near.begin(), near.end());
        for (const std::uint32_t other : near) {
            if (other == link.value()) continue;
            const auto e = network.ends(LinkId(other));
            if (e.from == node || e.to == node)
                joined.push_back(LinkId(other));
            else if (e.from != ends.from && e.to != ends.to && e.from != ends.to && e.to != ends.from)
                if (const double m = metres_between(network, LinkId(other), p); m <= kNearly)
                    r.nearly.emplace_back(LinkId(other), Millimetres::from_metres(m));
        }
    };
    look(ends.from, r.joined_at_start);
    look(ends.to, r.joined_at_end);
    std::sort(r.nearly.begin(), r.nearly.end(),
              [](const auto& x, const auto& y) { return std::tie(x.second, x.first) < std::tie(y.second, y.first); });
    return r;
}

std::string describe(const RoadReading& r, const roads::Network& network) {
    std::string s = fmt::format("{}{}\n", called(network, r.link), r.added ? " (added to close a gap)" : "");
    s += fmt::format("{}, {} m long{}\n", name(r.road_class), said(r.length.metres(), 1),
                     r.level != 0 ? fmt::format(", level {}", r.level) : "");
    s += r.stated ? fmt::format("{} used; the file says {}\n", describe(r.used), describe(*r.stated))
                  : fmt::format("{} used, by its class\n", describe(r.used));
    const auto minutes = [](const std::optional<Millis>& t) {
        return t ? said(t->minutes(), 2) + " min" : std::string("not allowed");
    };
    s += fmt::format("as drawn {}, the other way {}\n", minutes(r.along), minutes(r.against));
    if (!r.piece)
        s += "not for this traveller\n";
    else
        s += *r.piece == 0 ? fmt::format("on the largest of {} {}\n", r.pieces, r.pieces == 1 ? "piece" : "pieces")
                           : fmt::format("on piece {} of {}: cut off from the largest\n", *r.piece + 1, r.pieces);
    s += fmt::format("starts at {}\n", names(network, r.joined_at_start));
    s += fmt::format("ends at {}\n", names(network, r.joined_at_end));
    for (std::size_t i = 0; i < std::min<std::size_t>(r.nearly.size(), 3); ++i)
        s += fmt::format("nearly meets {}, {} m off\n", called(network, r.nearly[i].first),
                         said(r.nearly[i].second.metres(), 1));
    s.pop_back();
    return s;
}

std::string describe_point(const roads::Network& network, const roads::Closure& closure) {
    const auto taken = point_taken(network, closure);
    const auto list = [&](const std::vector<LinkId>& links) {
        std::vector<std::string> all;
        for (const LinkId l : links)
            if (auto n = network.name(l).empty() ? std::string("a road without a name") : network.name(l);
                std::find(all.begin(), all.end(), n) == all.end())
                all.push_back(std::move(n));
        std::string out;
        for (std::size_t i = 0; i < all.size(); ++i)
            out += (i == 0 ? "" : i + 1 == all.size() ? " and " : ", ") + all[i];
        return out;
    };
    if (taken.links.empty() || (taken.links.size() == 1 && taken.others.empty())) return {};
    std::string out = taken.links.size() > 1 ? "The crossing of " + list(taken.links) : list(taken.links);
    if (!taken.others.empty())
        out += fmt::format("; {} {} hardly farther away", list(taken.others), taken.others.size() == 1 ? "is" : "are");
    return out + ".";
}

}  // namespace otoro::service
