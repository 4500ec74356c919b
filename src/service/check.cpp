#include "service/check.h"

#include <algorithm>

namespace otoro::service {

RoadReport check_roads(const roads::Network& network, const std::optional<travel::Profile>& profile, const Task& task) {
    task.at("checking roads", 0.0);
    RoadReport r;
    std::vector<bool> usable(network.link_count(), true);
    for (std::uint32_t i = 0; i < network.link_count(); ++i) {
        const LinkId link(i);
        bool one_way = network.attributes(link).drive_one_way() != roads::OneWay::both;
        if (profile) {
            const auto c = travel::crossing(network, link, *profile);
            usable[i] = c.usable();
            one_way = usable[i] && (c.along == travel::kNotAllowed || c.against == travel::kNotAllowed);
        }
        if (!usable[i]) {
            r.left_out += 1;
            continue;
        }
        r.links += 1;
        r.length = r.length + network.length(link);
        if (one_way) {
            r.one_way_links += 1;
            r.one_way_length = r.one_way_length + network.length(link);
        }
    }
    task.at("finding pieces", 0.5);
    auto found = find_pieces(network, usable);
    r.nodes = found.nodes;
    r.pieces = std::move(found.pieces);
    r.piece_of_link = std::move(found.of_link);
    return r;
}

AttachReport check_places(const roads::Network& network, const RoadReport& roads,
                          const std::vector<std::optional<geo::LonLat>>& places, Millimetres limit, const Task& task) {
    task.at("attaching places", 0.0);
    std::vector<bool> usable(network.link_count());
    for (std::uint32_t i = 0; i < network.link_count(); ++i) usable[i] = roads.piece_of_link[i] != roads::kNoPiece;
    const auto attached = places::attach_set(network, usable, places, {}, limit, task);

    AttachReport r;
    for (std::uint32_t i = 0; i < places.size(); ++i) {
        if (!places[i]) {
            r.bad_location += 1;
        } else if (!attached[i]) {
            r.no_road_near += 1;
            r.not_near.push_back(i);
        } else {
            r.attached += 1;
            r.longest_off_road = std::max(r.longest_off_road, attached[i]->off_road);
            if (roads.piece_of_link[attached[i]->link.value()] != 0) {
                r.off_main_piece += 1;
                r.astray.push_back(i);
            }
        }
    }
    return r;
}

}  // namespace otoro::service
