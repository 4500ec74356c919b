#pragma once
/// \file
/// Amounts as people write them: `8min`, `1.5 mi`, `40km/h`, `90 %`.
#include <string>
#include <string_view>
#include <variant>

#include "geo/units.h"

namespace otoro {

/// An amount of either measure.
using Amount = std::variant<Millis, Millimetres>;

inline bool is_time(const Amount& amount) { return std::holds_alternative<Millis>(amount); }

/// `90s 8min 1h 500m 2km 1.5mi`, with or without a space before the unit. A bare number is refused.
/// \throws InputError naming the text, if it is no amount, is negative, or is over 1,000 hours or 4,000 km
Amount parse_amount(std::string_view text);
/// \throws InputError as `parse_amount`, also if the text is of the other measure
Millis parse_time(std::string_view text);
Millimetres parse_length(std::string_view text);
/// `40km/h`, `25mph`. \throws InputError if not a speed, or not believable (`kSlowestKmh` to `kFastestKmh`)
Speed parse_speed(std::string_view text);
/// `90%`, `92.5 %`. \throws InputError unless above 0 and at most 100
Share parse_share(std::string_view text);

/// A number in plain decimal form, surrounded by any blanks; nothing else may follow. A decimal comma is accepted
/// where there is no point. Independent of locale. Returns false on anything else, also on `nan` and `inf`.
bool parse_number(std::string_view text, double& number);

/// A number in the fewest digits that give it back, without exponent: `1001`, `0.000001`, `1234567890123456`.
std::string plain_number(double number);

/// `8 min`, `1.5 min`: always minutes.
std::string describe(Millis time);
/// `250 m`, `2 km`, `1.5 km`
std::string describe(Millimetres length);
std::string describe(const Amount& amount);
std::string describe(Speed speed);
/// One decimal, rounded down: `84.1 %`; whole shares without decimals: `90 %`.
std::string describe(Share share);
/// What is lacking, rounded up, so that so much more would do: tenths of few, else whole ones.
std::string describe_lack(Weight lacking);
/// A count or a weight with thin grouping: `12,345` or `12,345.5`
std::string describe(Weight weight);

}  // namespace otoro
