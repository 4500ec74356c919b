#pragma once
/// \file
/// Part of a link: what it costs to travel between two points on the same road.
#include <optional>

#include "roads/network.h"
#include "routing/graph.h"
#include "travel/profile.h"

namespace otoro::service {

/// Cost of a part of a link in both measures.
struct Part {
    std::uint32_t ms = 0;
    std::uint32_t mm = 0;

    struct Step {
        std::uint32_t cost;
        std::uint32_t other;
    };
    [[nodiscard]] Step in(routing::Measure m) const { return m == routing::Measure::time ? Step{ms, mm} : Step{mm, ms}; }
};

/// A link cut at offsets. Time is in proportion to length: the time from the start to offset x is the whole time times x over the length, to the nearest
/// millisecond, and a part is the difference of two such times, so parts always add up to the whole.
class SplitLink {
public:
    SplitLink(const roads::Network& network, travel::Crossing whole, LinkId link) : whole_(whole), length_(network.length(link).count()) {}

    /// What it costs to go from one offset to another on this road; nothing if the way is shut. Staying where one is costs nothing and is always allowed.
    [[nodiscard]] std::optional<Part> between(Millimetres begin, Millimetres end) const {
        if (begin == end) return Part{};
        const std::uint32_t whole = begin < end ? whole_.along : whole_.against;
        if (whole == travel::kShut) return std::nullopt;
        const std::int64_t a = time_to(begin, whole);
        const std::int64_t b = time_to(end, whole);
        const std::int64_t mm = end.count() - begin.count();
        return Part{static_cast<std::uint32_t>(a < b ? b - a : a - b), static_cast<std::uint32_t>(mm < 0 ? -mm : mm)};
    }

    /// The cost between a site at `offset` and the end by which a route leaves (outward) or comes (inward) when the link is travelled `way`.
    [[nodiscard]] std::optional<std::uint32_t> seed_cost(Millimetres offset, routing::LinkWay way, bool outward, routing::Measure measure) const {
        const Millimetres end = outward != way.is_against() ? Millimetres(length_) : Millimetres(0);
        const auto part = outward ? between(offset, end) : between(end, offset);
        if (!part) return std::nullopt;
        return part->in(measure).cost;
    }

private:
    [[nodiscard]] std::int64_t time_to(Millimetres offset, std::uint32_t whole) const {
        if (length_ == 0) return 0;
        return (std::int64_t{whole} * offset.count() + length_ / 2) / length_;
    }

    travel::Crossing whole_;
    std::int64_t length_;
};

}  // namespace otoro::service
