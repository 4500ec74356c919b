#pragma once
/// \file
/// How amounts are said to a person: the decimal mark, what stands between thousands, kilometres or miles.
///
/// One choice for the whole program, made where it starts; files of numbers do not go by it. Safe to change and read on
/// any thread.
#include <array>
#include <string>

#include "geo/units.h"

namespace otoro {

struct alignas(8) Wording {  // read and written in one step
    char decimal = '.';
    std::array<char, 4> group{','};  ///< UTF-8, at most three bytes
    bool miles = false;
    bool operator==(const Wording&) const = default;
};

void set_wording(const Wording& wording);
[[nodiscard]] Wording wording();

/// "12.40": with this many decimals.
std::string said(double number, int decimals);
/// The same without trailing zeros: "12.4".
std::string said_shortly(double number, int most_decimals = 3);
/// A whole number, its thousands apart: "12,345".
std::string said_whole_number(std::int64_t number);
template <class Count>
std::string said_whole(Count count) {
    return said_whole_number(static_cast<std::int64_t>(count));
}

/// "km" or "mi", and a length in it.
std::string long_unit();
double in_long_units(Millimetres length);
Millimetres from_long_units(double length);
/// "km/h" or "mph", and a speed in it.
std::string speed_unit();
double in_speed_units(Speed speed);
Speed from_speed_units(double speed);
/// "12.40 km" or "7.71 mi".
std::string said_long(Millimetres length, int decimals);

}  // namespace otoro
