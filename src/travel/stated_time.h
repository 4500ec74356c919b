#pragma once
/// \file
/// Whether a time that a file states for a road is believable.
///
/// \par Problem
/// A column of minutes may be in seconds or hours, or hold what a hand mistyped; a wrong time is part of every answer
/// and is nowhere to be seen.
///
/// \par Method
/// The speed that follows from it is held against the speed that would count without it: the stated one, or that of the
/// road's class. A time is doubted when it is a third of what that speed gives or less, or makes more than
/// 200 km/h, and is at least six seconds shorter; and when it is ten times as long or more, and at least a minute
/// longer: so minutes rounded to a tenth, and waiting at crossings, are believed. A road of which neither speed nor
/// class is known may be anything from 1.5 to 200 km/h.
///
/// \par Cost
/// The length of the line.
#include <optional>
#include <string>

#include "roads/lines.h"

namespace otoro::travel {

struct Doubt {
    Millis stated;
    Millimetres length;
    double kmh = 0;            ///< that follows from the time
    std::optional<Speed> own;  ///< that would count without it; nothing where the road's class is not known
    bool back = false;         ///< it is the time against the drawn direction
    bool operator==(const Doubt&) const = default;
};

/// Nothing where the line states no time, where its times are believable, and for ferries.
std::optional<Doubt> doubt_of(const roads::Lines& lines, std::uint32_t line);

/// "12 min for 80 m are 0.4 km/h, against 30 km/h otherwise".
std::string describe(const Doubt& doubt);

/// "0.4 km/h", "4,631 km/h", "less than 0.1 km/h".
std::string describe_speed(double kmh);

}  // namespace otoro::travel
