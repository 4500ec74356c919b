#pragma once
/// \file
/// Amounts that carry their unit.
///
/// Everything Otoro adds up is a whole number: time in milliseconds, length in millimetres, weight in
/// millionths of a person (or pupil, or property). Whole numbers add up to the same total in any order, so
/// an answer is the same to the last digit on one thread or on many.
///
/// \par Example
/// \code
///   const auto speed = Speed::km_per_hour(40);
///   const Millis t = travel_time(Millimetres::metres(500), speed);   // 45 000 ms
///   assert(t.minutes() == 0.75);
/// \endcode
#include <cmath>
#include <compare>
#include <cstdint>
#include <limits>

namespace otoro {

/// A time, in whole milliseconds.
class Millis {
public:
    constexpr Millis() = default;
    constexpr explicit Millis(std::int64_t ms) : value_(ms) {}
    static constexpr Millis seconds(std::int64_t s) { return Millis(s * 1000); }
    static constexpr Millis minutes(std::int64_t m) { return Millis(m * 60'000); }

    [[nodiscard]] constexpr std::int64_t count() const { return value_; }
    [[nodiscard]] constexpr double minutes() const { return static_cast<double>(value_) / 60'000.0; }

    constexpr auto operator<=>(const Millis&) const = default;
    constexpr Millis operator+(Millis o) const { return Millis(value_ + o.value_); }
    constexpr Millis operator-(Millis o) const { return Millis(value_ - o.value_); }

private:
    std::int64_t value_ = 0;
};

/// A length on the ground, in whole millimetres.
class Millimetres {
public:
    constexpr Millimetres() = default;
    constexpr explicit Millimetres(std::int64_t mm) : value_(mm) {}
    static constexpr Millimetres metres(std::int64_t m) { return Millimetres(m * 1000); }
    /// Nearest whole millimetre; halves go away from zero.
    static Millimetres from_metres(double m) { return Millimetres(std::llround(m * 1000.0)); }

    [[nodiscard]] constexpr std::int64_t count() const { return value_; }
    [[nodiscard]] constexpr double metres() const { return static_cast<double>(value_) / 1000.0; }
    [[nodiscard]] constexpr double kilometres() const { return static_cast<double>(value_) / 1'000'000.0; }

    constexpr auto operator<=>(const Millimetres&) const = default;
    constexpr Millimetres operator+(Millimetres o) const { return Millimetres(value_ + o.value_); }
    constexpr Millimetres operator-(Millimetres o) const { return Millimetres(value_ - o.value_); }

private:
    std::int64_t value_ = 0;
};

/// A speed, in whole millimetres per hour: 40 km/h is exactly 40 000 000, 25 mph exactly 40 233 600.
class Speed {
public:
    constexpr Speed() = default;
    constexpr explicit Speed(std::uint32_t mm_per_hour) : value_(mm_per_hour) {}
    static Speed km_per_hour(double v) { return Speed(static_cast<std::uint32_t>(std::llround(v * 1e6))); }
    static Speed miles_per_hour(double v) { return Speed(static_cast<std::uint32_t>(std::llround(v * 1'609'344.0))); }

    [[nodiscard]] constexpr std::uint32_t mm_per_hour() const { return value_; }
    [[nodiscard]] constexpr double km_per_hour() const { return value_ / 1e6; }
    [[nodiscard]] constexpr bool stated() const { return value_ != 0; }
    /// This speed times `per_mille / 1000`, rounded to the nearest unit.
    [[nodiscard]] constexpr Speed scaled(std::uint32_t per_mille) const {
        return Speed(static_cast<std::uint32_t>((std::uint64_t{value_} * per_mille + 500) / 1000));
    }

    constexpr auto operator<=>(const Speed&) const = default;

private:
    std::uint32_t value_ = 0;
};

/// The fastest and slowest speeds that are believed, in files and on the command line.
inline constexpr double kSlowestKmh = 0.1;
inline constexpr double kFastestKmh = 300.0;

/// Time to cover `length` at `speed`, to the nearest millisecond (halves up).
/// \pre `speed.stated()`, `length` not negative and under 2 000 000 km.
constexpr Millis travel_time(Millimetres length, Speed speed) {
    const auto v = std::int64_t{speed.mm_per_hour()};
    return Millis((length.count() * 3'600'000 + v / 2) / v);
}

/// How much one demand place counts: whole millionths, so that sums are exact in any order.
class Weight {
public:
    constexpr Weight() = default;
    constexpr explicit Weight(std::int64_t millionths) : value_(millionths) {}
    static constexpr Weight one() { return Weight(1'000'000); }
    /// Largest weight that one place may have. Nine thousand such are as much as can be added up;
    /// `places::check_weights` sees to that.
    static constexpr double kMost = 1e9;
    /// \pre `0 <= v <= kMost`
    static Weight of(double v) { return Weight(std::llround(v * 1e6)); }

    [[nodiscard]] constexpr std::int64_t count() const { return value_; }
    [[nodiscard]] constexpr double value() const { return static_cast<double>(value_) / 1e6; }

    constexpr auto operator<=>(const Weight&) const = default;
    constexpr Weight operator+(Weight o) const { return Weight(value_ + o.value_); }
    constexpr Weight operator-(Weight o) const { return Weight(value_ - o.value_); }
    constexpr Weight& operator+=(Weight o) {
        value_ += o.value_;
        return *this;
    }

private:
    std::int64_t value_ = 0;
};

/// A share of a whole, in parts per million. 90 % is 900 000.
class Share {
public:
    constexpr Share() = default;
    constexpr explicit Share(std::int32_t ppm) : value_(ppm) {}
    static Share percent(double p) { return Share(static_cast<std::int32_t>(std::llround(p * 10'000.0))); }

    [[nodiscard]] constexpr std::int32_t ppm() const { return value_; }
    [[nodiscard]] constexpr double percent() const { return value_ / 10'000.0; }
    constexpr auto operator<=>(const Share&) const = default;

private:
    std::int32_t value_ = 0;
};

/// Wide enough for any weight times any value.
__extension__ typedef __int128 Wide;

/// `part / whole` as a share, rounded *down*, so that a share shown never overstates what was reached.
/// A whole of nothing has share 0.
constexpr Share share_of(Weight part, Weight whole) {
    if (whole.count() <= 0) return Share(0);
    const auto scaled = static_cast<Wide>(part.count()) * 1'000'000 / whole.count();
    return Share(static_cast<std::int32_t>(scaled));
}

/// Whether `part` is at least `wanted` of `whole`, decided exactly, without rounding.
constexpr bool reaches(Weight part, Weight whole, Share wanted) {
    return whole.count() > 0 &&
           static_cast<Wide>(part.count()) * 1'000'000 >= static_cast<Wide>(wanted.ppm()) * whole.count();
}

}  // namespace otoro
