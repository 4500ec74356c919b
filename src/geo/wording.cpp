#include "geo/wording.h"

#include <fmt/format.h>

#include <algorithm>
#include <atomic>

namespace otoro {
namespace {

std::atomic<Wording> chosen{Wording{}};
constexpr double kMetresPerMile = 1609.344;

std::string with_mark(std::string digits) {
    std::replace(digits.begin(), digits.end(), '.', wording().decimal);
    return digits;
}

}  // namespace

void set_wording(const Wording& wording) { chosen.store(wording); }
Wording wording() { return chosen.load(); }

std::string said(double number, int decimals) { return with_mark(fmt::format("{:.{}f}", number, decimals)); }

std::string said_shortly(double number, int most_decimals) {
    std::string s = fmt::format("{:.{}f}", number, most_decimals);
    if (s.find('.') != std::string::npos) {
        while (s.back() == '0') s.pop_back();
        if (s.back() == '.') s.pop_back();
    }
    return with_mark(std::move(s));
}

std::string said_whole_number(std::int64_t number) {
    std::string digits = std::to_string(number);
    const auto group = wording().group;
    const std::string between(group.data(),
                              static_cast<std::size_t>(std::find(group.begin(), group.end(), '\0') - group.begin()));
    const std::ptrdiff_t first = digits[0] == '-' ? 1 : 0;
    for (std::ptrdiff_t at = static_cast<std::ptrdiff_t>(digits.size()) - 3; at > first; at -= 3)
        digits.insert(static_cast<std::size_t>(at), between);
    return digits;
}

std::string long_unit() { return wording().miles ? "mi" : "km"; }

double in_long_units(Millimetres length) {
    return wording().miles ? length.metres() / kMetresPerMile : length.kilometres();
}

Millimetres from_long_units(double length) {
    return Millimetres::from_metres(length * (wording().miles ? kMetresPerMile : 1000));
}

std::string speed_unit() { return wording().miles ? "mph" : "km/h"; }

double in_speed_units(Speed speed) {
    return wording().miles ? speed.km_per_hour() * 1000 / kMetresPerMile : speed.km_per_hour();
}

Speed from_speed_units(double speed) {
    return wording().miles ? Speed::miles_per_hour(speed) : Speed::km_per_hour(speed);
}

std::string said_long(Millimetres length, int decimals) {
    return said(in_long_units(length), decimals) + " " + long_unit();
}

}  // namespace otoro
