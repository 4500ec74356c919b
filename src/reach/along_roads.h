#pragma once
/// \file
/// What it costs to be somewhere on a road: all that this folder knows of searches and sites.
#include <cstdint>
#include <optional>
#include <utility>
#include <vector>

#include "geo/ids.h"
#include "geo/units.h"

namespace otoro::reach {

/// Whose ground it is: a number that only the asker understands.
inline constexpr std::uint32_t kNobody = 0xffffffff;

/// A part of a link along which the value rises or falls evenly.
struct Stretch {
    double from = 0, to = 0;              ///< millimetres along the link, `from < to`
    double value_from = 0, value_to = 0;  ///< milliseconds or millimetres, as the limits are
    std::uint32_t owner = kNobody;
};

struct PointValue {
    double value = 0;
    std::uint32_t owner = kNobody;
};

/// Values along all roads. Safe from many threads.
class AlongRoads {
public:
    virtual ~AlongRoads() = default;
    /// Fills `out` with the stretches of a link that are reached, ascending and apart from one another.
    virtual void stretches(LinkId link, std::vector<Stretch>& out) const = 0;
    /// The value exactly there, which at an end, or at a closure, may be another than beside it; nothing if it cannot
    /// be reached.
    [[nodiscard]] virtual std::optional<PointValue> at(LinkId link, Millimetres offset) const = 0;
};

/// The part of a range in which a value that rises or falls evenly is at most the limit.
template <class Value>
std::pair<double, double> part_within(Value&& value, double limit, double from, double to) {
    const double a = value(from), b = value(to);
    if (a <= limit && b <= limit) return {from, to};
    if (a > limit && b > limit) return {from, from};
    const double x = from + (to - from) * (limit - a) / (b - a);
    return a <= limit ? std::pair(from, x) : std::pair(x, to);
}

/// Limits, ascending, and what is between them.
struct Bands {
    std::vector<double> limits;     ///< a band is above the limit before it, and at or below its own
    double per_metre_off_road = 0;  ///< what a metre between a place and its road adds to the value

    /// The band of a value; `limits.size()` beyond the last.
    [[nodiscard]] std::uint32_t of(double value) const {
        std::uint32_t band = 0;
        while (band < limits.size() && value > limits[band]) ++band;
        return band;
    }
};

/// An owner's ground in one band as one number; `kNobody` is ground that is nobody's.
struct Classes {
    std::uint32_t bands = 1;
    [[nodiscard]] std::uint32_t of(std::uint32_t owner, std::uint32_t band) const {
        return owner == kNobody || band >= bands ? kNobody : owner * bands + band;
    }
    [[nodiscard]] std::uint32_t owner(std::uint32_t c) const { return c / bands; }
    [[nodiscard]] std::uint32_t band(std::uint32_t c) const { return c % bands; }
};

}  // namespace otoro::reach
