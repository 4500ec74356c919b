#include "places/attach.h"

#include <algorithm>
#include <cctype>
#include <cmath>
#include <numbers>
#include <tuple>

#include "geo/ellipsoid.h"
#include "geo/local_frame.h"

namespace otoro::places {
namespace {

struct Foot {
    Millimetres distance;
    LinkId link{0U};
    std::size_t segment = 0;
    double squared = 0;
    geo::LonLat at;
};

/// The point of some segments of a link nearest to `place`: the nearest segment in the flat frame.
Foot nearest_point(const roads::Network& network, const roads::Run& run, const geo::LocalFrame& frame) {
    const auto shape = network.shape(run.link);
    const geo::LineFoot foot = geo::foot_on_line(shape.subspan(run.first, run.last - run.first + 1), frame);
    Foot best;
    best.link = run.link;
    best.segment = run.first + foot.segment;
    best.squared = foot.squared;
    best.at = geo::between(shape[best.segment], shape[best.segment + 1], foot.along);
    return best;
}

Millimetres offset_of(const roads::Network& network, const Foot& foot) {
    // On an end exactly it is at that end, whatever rounding adds up to.
    if (foot.at == network.shape(foot.link).back() && foot.segment + 2 == network.shape(foot.link).size())
        return network.length(foot.link);
    const double before = network.metres_to(foot.link, foot.segment) +
                          geo::distance_metres(network.shape(foot.link)[foot.segment], foot.at);
    return std::min(Millimetres::from_metres(before), network.length(foot.link));
}

/// The best of the feet shown to it: of one link the one that is nearest in the flat frame, of several links the one
/// that is truly nearest, of equals the link first in the file.
class BestFoot {
public:
    explicit BestFoot(geo::LonLat place) : place_(place) {}
    void show(const Foot& foot) {
        if (of_link_ && of_link_->link == foot.link) {
            if (std::tie(foot.squared, foot.segment) < std::tie(of_link_->squared, of_link_->segment)) of_link_ = foot;
            return;
        }
        finish_link();
        of_link_ = foot;
    }
    [[nodiscard]] const std::optional<Foot>& best() {
        finish_link();
        return best_;
    }

private:
    void finish_link() {
        if (!of_link_) return;
        of_link_->distance = geo::distance(place_, of_link_->at);
        if (!best_ || std::tie(of_link_->distance, of_link_->link) < std::tie(best_->distance, best_->link))
            best_ = of_link_;
        of_link_.reset();
    }
    geo::LonLat place_;
    std::optional<Foot> of_link_, best_;
};

/// The same far from every road, where a box wide enough would hold half the network: runs by how far their boxes are,
/// until none can be nearer.
template <class May>
std::optional<Foot> nearest_far_away(const roads::Network& network, geo::LonLat place, Millimetres limit, May&& may) {
    // A degree is nowhere shorter than this within reach of the limit, and a flat distance no farther off than by this
    // factor.
    const double reach = limit.metres() / 111'000 * 1.2 + 0.1;
    const double worst = std::min(89.9, std::abs(place.lat) + reach);
    const double doubt = 1.01 + 1.5 * std::tan(worst * std::numbers::pi / 180) * reach * std::numbers::pi / 180;
    const double least_scale =
        0.999 * std::min(geo::MetresPerDegree::at_latitude(worst).east, geo::MetresPerDegree::at_latitude(0).north);
    const geo::LocalFrame frame(place);
    std::vector<std::pair<LinkId, double>> links;  // near ones, and the flat distance of their nearest run
    double least = limit.metres() * doubt + 1;
    network.runs_nearest_first(place, [&](const roads::Run& run, double degrees) {
        if (degrees * least_scale > least * doubt) return false;
        if (!may(static_cast<std::uint32_t>(run.link.value()))) return true;
        const double away = std::sqrt(nearest_point(network, run, frame).squared);
        if (away > least * doubt) return true;
        links.emplace_back(run.link, away);
        least = std::min(least, away);
        return true;
    });
    BestFoot best(place);
    std::sort(links.begin(), links.end());
    std::optional<LinkId> before;
    for (const auto& [link, away] : links) {
        if (link == before || away > least * doubt) continue;
        before = link;
        for (const auto& run : network.runs_of(link)) best.show(nearest_point(network, run, frame));
    }
    return best.best();
}

/// The nearest point of the links for which `may`, within the limit.
template <class May>
std::optional<Attachment> nearest(const roads::Network& network, geo::LonLat where, Millimetres limit, May&& may) {
    const geo::LonLat place = network.near(where);
    thread_local std::vector<roads::Run> near;
    constexpr double kNear = 40, kFar = 500;
    const geo::LocalFrame frame(place);
    double radius = std::min(kNear, limit.metres());
    while (true) {
        std::optional<Foot> found;
        if (radius <= kFar) {
            network.runs_touching(frame.box_around(radius), near);
            BestFoot best(place);
            for (const auto& run : near)
                if (may(static_cast<std::uint32_t>(run.link.value()))) best.show(nearest_point(network, run, frame));
            found = best.best();
        } else {
            found = nearest_far_away(network, place, limit, may);
            radius = limit.metres();
        }
        if (found && found->distance.metres() <= radius)
            return found->distance <= limit
                       ? std::optional(Attachment{found->link, offset_of(network, *found), found->distance, found->at})
                       : std::nullopt;
        if (radius >= limit.metres()) return std::nullopt;
        radius = std::min(radius * 3, limit.metres());
    }
}

bool same_name(const std::string& a, const std::string& b) {
    return std::equal(a.begin(), a.end(), b.begin(), b.end(),
                      [](unsigned char x, unsigned char y) { return std::tolower(x) == std::tolower(y); });
}

}  // namespace

std::optional<Attachment> attach(const roads::Network& network, const std::vector<bool>& usable, geo::LonLat place,
                                 Millimetres limit) {
    return nearest(network, place, limit, [&](std::uint32_t link) { return usable[link]; });
}

std::optional<Attachment> attach_to_named(const roads::Network& network, const std::vector<bool>& usable,
                                          geo::LonLat place, const std::string& road, Millimetres limit) {
    return nearest(network, place, limit,
                   [&](std::uint32_t link) { return usable[link] && same_name(network.name(LinkId(link)), road); });
}

std::vector<bool> attachable(const roads::Network& network, const std::vector<bool>& usable, const AttachRule& rule) {
    std::vector<bool> out = usable;
    for (std::uint32_t i = 0; i < network.link_count(); ++i)
        if (const auto& road = network.attributes(LinkId(i));
            out[i] && !rule.allows(road.road_class, (road.flags & roads::kRamp) != 0))
            out[i] = false;
    if (rule.least_piece.count() == 0) return out;
    const auto found = find_pieces(network, usable);
    for (std::uint32_t i = 0; i < network.link_count(); ++i)
        if (out[i] && found.pieces[found.of_link[i]].length < rule.least_piece) out[i] = false;
    return out;
}

}  // namespace otoro::places
