#pragma once
/// \file
/// Roads that nearly meet.
///
/// \par Problem
/// Two streets were drawn to end at one corner and miss each other by two metres. On the screen they meet; nobody can
/// travel from one to the other. `find_gaps` lists every such place, so that it can be closed.
///
/// \par What counts as a gap
/// A road end (a node) and another node, or another point of a link, within the tolerance by true distance and not
/// joined there. Every node is compared with every other piece around it, and the nearest point of each piece is one
/// gap. Within its own piece only dead ends are looked at, and a point that is joined by a short way along the roads
/// (at most four times the distance, or 30 m) is joined, and no gap.
///
/// \par Cost
/// A search of the R-tree an end, parallel; then a bounded search along the roads where an end is near its own piece.
#include <optional>
#include <vector>

#include "roads/network.h"
#include "roads/prepare.h"

namespace otoro::roads {

/// Two places that nearly meet.
struct Gap {
    NodeId end;                     ///< the road end
    LinkId link;                    ///< the link it nearly meets
    bool meets_end = false;         ///< it nearly meets an end of that link, not a point between
    geo::LonLat from;               ///< where the end is
    geo::LonLat to;                 ///< the nearest point of the link
    Millimetres distance;           ///< between the two
    std::uint32_t piece = 0;        ///< of the end
    std::uint32_t other_piece = 0;  ///< of the link
    ClosedGap closing;              ///< what closing it adds to the preparation
    [[nodiscard]] bool joins_pieces() const { return piece != other_piece; }
};

/// The largest tolerance that makes sense.
inline constexpr Millimetres kWidestGap = Millimetres::metres(100);

/// All gaps up to `within`, the narrowest first. Only links with a piece count.
/// \pre `pieces` is of this network; `within` is at most `kWidestGap`. \throws Stopped
std::vector<Gap> find_gaps(const Network& network, const Pieces& pieces, Millimetres within, const Task& task);

/// For each of these pieces the narrowest way to join it to another: from a node of it to the nearest point of any
/// other piece, up to half a kilometre off. Nothing where there is none.
std::vector<std::optional<Gap>> nearest_joins(const Network& network, const Pieces& pieces,
                                              const std::vector<std::uint32_t>& wanted);

/// Dead ends: nodes where one usable link ends, and that is all.
std::uint32_t count_dead_ends(const Network& network, const Pieces& pieces);

}  // namespace otoro::roads
