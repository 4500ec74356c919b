#include "geo/amounts.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cctype>
#include <charconv>
#include <cmath>
#include <optional>
#include <utility>

#include "geo/error.h"
#include "geo/wording.h"

namespace otoro {
namespace {

std::string_view trimmed(std::string_view s) {
    while (!s.empty() && std::isspace(static_cast<unsigned char>(s.front()))) s.remove_prefix(1);
    while (!s.empty() && std::isspace(static_cast<unsigned char>(s.back()))) s.remove_suffix(1);
    return s;
}

struct NumberAndUnit {
    double number;
    std::string_view unit;
};

std::optional<NumberAndUnit> split(std::string_view text) {
    text = trimmed(text);
    const auto end = std::find_if(text.begin(), text.end(), [](char c) {
        return std::isalpha(static_cast<unsigned char>(c)) || c == '%' || std::isspace(static_cast<unsigned char>(c));
    });
    const auto digits = static_cast<std::size_t>(end - text.begin());
    NumberAndUnit out{0, trimmed(text.substr(digits))};
    if (!parse_number(text.substr(0, digits), out.number)) return std::nullopt;
    return out;
}

[[noreturn]] void refuse_text(std::string_view text, const char* wanted) {
    throw InputError({"", std::nullopt, fmt::format("'{}' is not {}", text, wanted), ""});
}

}  // namespace

bool parse_number(std::string_view text, double& number) {
    text = trimmed(text);
    if (!text.empty() && text.front() == '+') text.remove_prefix(1);
    if (text.empty() || text.size() > 64) return false;
    std::array<char, 64> buffer{};
    std::copy(text.begin(), text.end(), buffer.begin());
    char* const end = buffer.data() + text.size();
    if (std::find(buffer.data(), end, '.') == end && std::count(buffer.data(), end, ',') == 1)
        *std::find(buffer.data(), end, ',') = '.';
    const auto [stop, error] = std::from_chars(buffer.data(), end, number);
    return error == std::errc() && stop == end && std::isfinite(number);
}

std::string plain_number(double number) {
    if (!std::isfinite(number)) return {};
    if (number == 0) return "0";
    std::array<char, 400> digits{};  // the smallest has 325 before its last digit
    const auto [end, error] =
        std::to_chars(digits.data(), digits.data() + digits.size(), number, std::chars_format::fixed);
    return {digits.data(), end};
}

Amount parse_amount(std::string_view text) {
    constexpr const char* kWanted = "an amount with its unit, such as 90s, 8min, 1h, 500m, 2km or 1.5mi";
    const auto parts = split(text);
    if (!parts || parts->number < 0) refuse_text(text, kWanted);
    const auto [number, unit] = *parts;
    constexpr std::array<std::pair<std::string_view, double>, 3> times{{{"s", 1e3}, {"min", 6e4}, {"h", 3.6e6}}};
    constexpr std::array<std::pair<std::string_view, double>, 3> lengths{
        {{"m", 1e3}, {"km", 1e6}, {"mi", 1'609'344.0}}};
    for (const auto& [name, ms] : times)
        if (unit == name && number * ms <= 3.6e9) return Millis(std::llround(number * ms));
    for (const auto& [name, mm] : lengths)
        if (unit == name && number * mm <= 4e9) return Millimetres(std::llround(number * mm));
    refuse_text(text, kWanted);
}

Millis parse_time(std::string_view text) {
    const Amount a = parse_amount(text);
    if (const auto* t = std::get_if<Millis>(&a)) return *t;
    refuse_text(text, "a time, such as 90s, 8min or 1h");
}

Millimetres parse_length(std::string_view text) {
    const Amount a = parse_amount(text);
    if (const auto* l = std::get_if<Millimetres>(&a)) return *l;
    refuse_text(text, "a length, such as 500m, 2km or 1.5mi");
}

Speed parse_speed(std::string_view text) {
    constexpr const char* kWanted = "a speed between 0.1 and 300 km/h, such as 40km/h or 25mph";
    const auto parts = split(text);
    if (!parts) refuse_text(text, kWanted);
    double kmh = 0;
    if (parts->unit == "km/h")
        kmh = parts->number;
    else if (parts->unit == "mph")
        kmh = parts->number * 1.609344;
    else
        refuse_text(text, kWanted);
    if (kmh < kSlowestKmh || kmh > kFastestKmh) refuse_text(text, kWanted);
    return Speed::km_per_hour(kmh);
}

Share parse_share(std::string_view text) {
    const auto parts = split(text);
    if (!parts || parts->unit != "%" || parts->number <= 0 || parts->number > 100)
        refuse_text(text, "a share above 0 and at most 100 %, such as 90%");
    return Share::percent(parts->number);
}

std::string describe(Millis t) { return said_shortly(t.minutes()) + " min"; }

std::string describe(Millimetres l) {
    // A tenth of a mile and less in metres too.
    const bool is_short = wording().miles ? l.metres() < 161 : l.count() < 1'000'000;
    return is_short ? said_shortly(l.metres()) + " m" : said_shortly(in_long_units(l)) + " " + long_unit();
}

std::string describe(const Amount& amount) {
    return std::visit([](auto a) { return describe(a); }, amount);
}

std::string describe(Speed s) { return said_shortly(in_speed_units(s)) + " " + speed_unit(); }

std::string describe(Share s) {
    if (s.ppm() % 10'000 == 0) return fmt::format("{} %", s.ppm() / 10'000);
    return said(static_cast<double>(s.ppm() / 1000) / 10.0, 1) + " %";  // cut, not rounded
}

std::string describe_lack(Weight w) {
    constexpr std::int64_t kTenth = 100'000, kOne = 10 * kTenth, kFew = 10 * kOne;
    const std::int64_t step = w.count() < kFew ? kTenth : kOne;
    return describe(Weight((w.count() + step - 1) / step * step));
}

std::string describe(Weight w) {
    const auto tenths = (w.count() + 50'000) / 100'000;
    std::string digits = said_whole(tenths / 10);
    if (tenths % 10 != 0) digits += wording().decimal + std::to_string(tenths % 10);
    return digits;
}

}  // namespace otoro
