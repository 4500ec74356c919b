#pragma once
/// \file
/// How every demand place is come to, worked out once for all plans.
///
/// \par Problem
/// A place stands somewhere along a road. What it takes to serve it is a search's label where one comes onto that road,
/// at one end or the other, and the stretch from there. The stretches do not depend on the plan, the labels do: half a
/// million places are answered anew by two looks at the labels each.
///
/// \par Not here
/// Sites on a place's own road, roads that a closure or a forbidden path touches, and places exactly on a junction:
/// those are a few, and `Searched` (access_legs.h) sees to them.
///
/// \par Cost
/// Linear in the places; 28 bytes each, and 4 a link.
#include <array>
#include <optional>
#include <span>
#include <vector>

#include "places/attach.h"
#include "service/costed_network.h"
#include "service/question.h"
#include "service/split_link.h"

namespace otoro::service {

class LinkAccess {
public:
    /// \param attached one a demand place
    LinkAccess(const roads::Network& network, const CostedNetwork& costed, const Question& question,
               const std::vector<std::optional<places::Attachment>>& attached);

    /// One way along a place's road.
    struct EndAccess {
        std::uint32_t node =
            routing::kNoIndex;  ///< of the graph, whose label counts; `kNoIndex` where the place is not attached
        std::uint32_t cost =
            routing::kFar;  ///< of the stretch, in the question's measure; `kFar` where one may not go that way
        std::uint32_t other = 0;
        [[nodiscard]] bool attached() const { return node != routing::kNoIndex; }
    };
    /// Along the road as drawn, and against it.
    [[nodiscard]] const std::array<EndAccess, 2>& of(std::uint32_t place) const { return ends_[place]; }
    /// Places exactly on a junction, where turning is not free: they have come along no road, or along any that leads
    /// there.
    [[nodiscard]] const std::vector<std::uint32_t>& on_junctions() const { return on_junctions_; }
    /// Numbers of the places attached to a link, ascending.
    [[nodiscard]] std::span<const std::uint32_t> places_on(LinkId link) const {
        return {places_.data() + first_[link.value()], places_.data() + first_[link.value() + 1]};
    }

private:
    std::vector<std::array<EndAccess, 2>, HugePages<std::array<EndAccess, 2>>> ends_;
    std::vector<std::uint32_t> first_, places_;  // by link
    std::vector<std::uint32_t> on_junctions_;
};

/// The graph's node whose label says what it takes until one may start along a way (outward), or from having travelled
/// it (inward).
inline std::uint32_t node_of(const roads::Network& network, const CostedNetwork& costed, Towards towards,
                             routing::LinkWay way) {
    if (!costed.turns.free()) return way.bits;
    return (towards == Towards::demand ? routing::start_of(network, way) : routing::end_of(network, way)).value();
}

}  // namespace otoro::service
