#pragma once
/// \file
/// What the roads and places are like, before any question is asked.
#include <array>
#include <memory>
#include <optional>
#include <vector>

#include "geo/task.h"
#include "places/attach.h"
#include "places/demand.h"
#include "roads/network.h"
#include "travel/profile.h"

namespace otoro::service {

/// The roads in numbers. With a profile, only the roads it may use are counted.
struct RoadReport {
    std::uint32_t links = 0;
    std::uint32_t nodes = 0;
    Millimetres length;
    std::uint32_t one_way_links = 0;
    Millimetres one_way_length;
    std::uint32_t left_out = 0;        ///< links that the profile may not use
    std::vector<roads::Piece> pieces;  ///< largest first
    std::vector<std::uint32_t> piece_of_link;
    [[nodiscard]] roads::Pieces as_pieces() const { return {pieces, piece_of_link, nodes}; }
};

RoadReport check_roads(const roads::Network& network, const std::optional<travel::Profile>& profile, const Task& task);

/// How a set of places meets the roads.
struct AttachReport {
    std::uint32_t attached = 0;
    std::uint32_t off_main_piece = 0;  ///< attached, but not to the largest piece
    std::uint32_t no_road_near = 0;
    std::uint32_t bad_location = 0;
    Millimetres longest_off_road;
    std::vector<std::uint32_t> not_near;  ///< the places with no road near
    std::vector<std::uint32_t> astray;    ///< the places off the largest piece
};

AttachReport check_places(const roads::Network& network, const RoadReport& roads,
                          const std::vector<std::optional<geo::LonLat>>& places, Millimetres limit, const Task& task);

}  // namespace otoro::service
