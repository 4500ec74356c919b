#pragma once
/// \file
/// Part of a link: what it costs to travel between two points on the same road.
#include <optional>

#include <span>

#include "roads/closure.h"
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
/// millisecond, plus what closures add up to there; a part is the difference of two such times, so parts always add up to the whole.
class SplitLink {
public:
    /// \param whole what crossing the link costs without closures \param hindrances those of this link
    SplitLink(const roads::Network& network, travel::Crossing whole, LinkId link, std::span<const roads::Hindrance> hindrances = {})
        : whole_(whole), length_(network.length(link).count()), hindrances_(hindrances) {}

    /// What it costs to go from one offset to another on this road; nothing if the way is shut. Staying where one is costs nothing and is always allowed.
    [[nodiscard]] std::optional<Part> between(Millimetres begin, Millimetres end) const {
        if (begin == end) return Part{};
        const std::uint32_t whole = begin < end ? whole_.along : whole_.against;
        const Millimetres low = std::min(begin, end);
        const Millimetres high = std::max(begin, end);
        if (whole == travel::kShut || shut_between(low, high)) return std::nullopt;
        const std::int64_t ms = std::min<std::int64_t>(time_to(high, whole) - time_to(low, whole), travel::kShut - 1);
        return Part{static_cast<std::uint32_t>(ms), static_cast<std::uint32_t>((high - low).count())};
    }

    /// The link from end to end, closures counted.
    [[nodiscard]] travel::Crossing whole() const {
        const Millimetres start{0}, finish{length_};
        const auto one_way = [&](std::uint32_t unhindered, Millimetres from, Millimetres to) {
            if (unhindered == travel::kShut || hindrances_.empty() || length_ == 0) return unhindered;
            const auto part = between(from, to);
            return part ? part->ms : travel::kShut;
        };
        return {one_way(whole_.along, start, finish), one_way(whole_.against, finish, start)};
    }

private:
    /// A point shuts the way past it; a stretch shuts the way into it.
    [[nodiscard]] bool shut_between(Millimetres low, Millimetres high) const {
        for (const auto& h : hindrances_) {
            if (h.effect != roads::ClosureEffect::shut) continue;
            if (h.begin == h.end ? (low < h.begin && h.begin < high) || passes_end(h, low, high) : low < h.end && h.begin < high) return true;
        }
        return false;
    }
    /// A point at the very end of the link shuts the link for those who go through from end to end.
    [[nodiscard]] bool passes_end(const roads::Hindrance& h, Millimetres low, Millimetres high) const {
        return low.count() == 0 && high.count() == length_ && (h.begin == low || h.begin == high);
    }
    [[nodiscard]] std::int64_t time_to(Millimetres offset, std::uint32_t whole) const {
        if (length_ == 0) return 0;
        const auto unhindered = [&](Millimetres x) { return (std::int64_t{whole} * x.count() + length_ / 2) / length_; };
        std::int64_t ms = unhindered(offset);
        for (const auto& h : hindrances_) {
            if (h.effect == roads::ClosureEffect::delay && h.begin + h.end < offset + offset) ms += h.delay.count();  // once past its middle
            if (h.effect == roads::ClosureEffect::slowed && h.begin < offset)
                ms += (unhindered(std::min(h.end, offset)) - unhindered(h.begin)) * (h.factor_per_mille - 1000) / 1000;
        }
        return ms;
    }

    travel::Crossing whole_;
    std::int64_t length_;
    std::span<const roads::Hindrance> hindrances_;
};

}  // namespace otoro::service
