#pragma once
/// \file
/// Part of a link: what it costs to travel between two points on the same road.
#include <algorithm>
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
    [[nodiscard]] Step in(routing::Measure m) const {
        return m == routing::Measure::time ? Step{ms, mm} : Step{mm, ms};
    }
};

/// A link cut at offsets. Time is in proportion to length: the time from the start to offset x is the whole time times
/// x over the length, to the nearest millisecond, plus what slowed stretches add up to there; a part is the difference
/// of two such times, so that parts add up to the whole.
///
/// Where a closure is a point, those who go past it meet it; those who only come up to it do not. At an end of the
/// road, going past is to come onto the road there, or to leave it: whichever way the road was drawn. A delay is paid
/// once, however often its drawing touches the road.
class SplitLink {
public:
    /// \param whole what crossing the link costs without closures \param restrictions those of this link
    SplitLink(const roads::Network& network, travel::TraversalTime whole, LinkId link,
              std::span<const roads::LinkRestriction> restrictions = {})
        : whole_(whole), length_(network.length(link).count()), restrictions_(restrictions) {}

    /// What it costs to go from one offset to another on this road; nothing if the way is shut, or takes longer than
    /// any route may. Staying where one is costs nothing and is always allowed.
    [[nodiscard]] std::optional<Part> between(Millimetres begin, Millimetres end) const {
        if (begin == end) return Part{};
        return part(std::min(begin, end), std::max(begin, end), begin < end ? whole_.along : whole_.against,
                    Past::neither, Past::neither);
    }
    /// From where one comes onto the road, along it as drawn or against that, to an offset.
    [[nodiscard]] std::optional<Part> onto(bool against, Millimetres offset) const {
        return from_end(against ? finish() : start(), offset, against ? whole_.against : whole_.along, true);
    }
    /// From an offset to where one leaves the road, along it as drawn or against that.
    [[nodiscard]] std::optional<Part> off(Millimetres offset, bool against) const {
        return from_end(against ? start() : finish(), offset, against ? whole_.against : whole_.along, false);
    }

    /// The link from end to end, closures counted.
    [[nodiscard]] travel::TraversalTime whole() const {
        const auto one_way = [&](std::uint64_t unhindered, Past entered) {
            if (unhindered == travel::kNotAllowed || restrictions_.empty()) return unhindered;
            auto ms = milliseconds(start(), finish(), unhindered, Past::both, entered);
            if (ms && length_ == 0) *ms += unhindered;
            return ms ? static_cast<std::uint64_t>(*ms) : travel::kNotAllowed;
        };
        return {one_way(whole_.along, Past::start), one_way(whole_.against, Past::finish)};
    }

private:
    /// Which ends of the road one goes past.
    enum class Past : std::uint8_t { neither, start, finish, both };

    [[nodiscard]] static Millimetres start() { return Millimetres(0); }
    [[nodiscard]] Millimetres finish() const { return Millimetres(length_); }

    [[nodiscard]] std::optional<Part> from_end(Millimetres end, Millimetres offset, std::uint64_t whole,
                                               bool onto) const {
        if (end == offset) return Part{};
        const Past past = end == start() ? Past::start : Past::finish;
        return part(std::min(end, offset), std::max(end, offset), whole, past, onto ? past : Past::neither);
    }
    [[nodiscard]] std::optional<Part> part(Millimetres low, Millimetres high, std::uint64_t whole, Past past,
                                           Past entered) const {
        const auto ms = whole == travel::kNotAllowed ? std::nullopt : milliseconds(low, high, whole, past, entered);
        if (!ms || *ms >= routing::kFar) return std::nullopt;
        return Part{static_cast<std::uint32_t>(*ms), static_cast<std::uint32_t>((high - low).count())};
    }

    /// Nothing if the way is shut. \param entered the end by which one comes onto the road, if one does
    [[nodiscard]] std::optional<Wide> milliseconds(Millimetres low, Millimetres high, std::uint64_t whole, Past past,
                                                   Past entered) const {
        Wide ms = time_to(high, whole) - time_to(low, whole);
        for (std::size_t i = 0; i < restrictions_.size(); ++i) {
            const auto& h = restrictions_[i];
            if (h.effect == roads::ClosureEffect::slowed || !meets(h, low, high, past, entered)) continue;
            if (h.effect == roads::ClosureEffect::closed) return std::nullopt;
            // Another touch of the same closure has been paid for.
            const bool paid = std::any_of(
                restrictions_.begin(), restrictions_.begin() + static_cast<std::ptrdiff_t>(i), [&](const auto& o) {
                    return o.closure == h.closure && o.effect == h.effect && meets(o, low, high, past, entered);
                });
            if (!paid) ms += h.delay.count();
        }
        return ms;
    }

    /// A shut stretch is met by who goes into it, a point by who goes past it, a delay by who goes past its middle.
    [[nodiscard]] bool meets(const roads::LinkRestriction& h, Millimetres low, Millimetres high, Past past,
                             Past entered) const {
        if (h.begin == h.end) {
            // Who goes through a crossing comes onto one road there, and is delayed once.
            if (h.of_crossing && h.effect == roads::ClosureEffect::delay)
                return (h.begin == start() && entered == Past::start) ||
                       (h.begin == finish() && entered == Past::finish);
            if (h.begin == start() && (past == Past::start || past == Past::both)) return true;
            if (h.begin == finish() && (past == Past::finish || past == Past::both)) return true;
            return low < h.begin && h.begin < high;
        }
        if (h.effect == roads::ClosureEffect::closed) return low < h.end && h.begin < high;
        const Millimetres twice_middle = h.begin + h.end;
        return low + low < twice_middle && twice_middle < high + high;
    }
    [[nodiscard]] Wide time_to(Millimetres offset, std::uint64_t whole) const {
        // A road of a thousand kilometres and a month fit; dividing what is wider takes ten times as long.
        constexpr std::uint64_t kNarrow = 2'700'000'000;
        return whole < kNarrow && length_ <= roads::kLongestLine.count() ? time_in<std::int64_t>(offset, whole)
                                                                         : time_in<Wide>(offset, whole);
    }
    template <class Number>
    [[nodiscard]] Wide time_in(Millimetres offset, std::uint64_t whole) const {
        if (length_ == 0) return 0;
        const auto unhindered = [&](Millimetres x) {
            return (static_cast<Number>(whole) * x.count() + length_ / 2) / length_;
        };
        Wide ms = unhindered(offset);
        for (const auto& h : restrictions_)
            if (h.effect == roads::ClosureEffect::slowed && h.begin < offset)
                ms += (unhindered(std::min(h.end, offset)) - unhindered(h.begin)) * (h.factor_per_mille - 1000) / 1000;
        return ms;
    }

    travel::TraversalTime whole_;
    std::int64_t length_;
    std::span<const roads::LinkRestriction> restrictions_;
};

}  // namespace otoro::service
