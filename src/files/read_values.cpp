#include "files/read_values.h"

#include <fmt/format.h>
#include <ogrsf_frmts.h>

#include <algorithm>
#include <array>
#include <string_view>

namespace otoro::files {

std::string resolve(const Source& source, const std::optional<std::string>& chosen, const std::string& guessed,
                    const char* what) {
    if (!chosen) return guessed;
    if (!chosen->empty()) (void)source.required_field(*chosen, what);
    return *chosen;
}

namespace {

/// Why a text is no number in its column.
std::string why_no_number(const Source& source, int field, const std::string& text) {
    const auto& format = source.format(field);
    const auto number = written_number(text, format.decimals);
    const std::string shown = text.substr(0, 40);
    if (!number && format.decimals == Decimals::either && written_number(text, Decimals::point))
        return fmt::format("'{}' could be two numbers, since its column has both decimal points and decimal commas",
                           shown);
    if (!number || number->unit == format.unit) return fmt::format("'{}' is not a number", shown);
    if (number->unit.empty()) return fmt::format("'{}' lacks the '{}' of the others", shown, format.unit);
    return fmt::format("'{}' has something behind the number that others have not", shown);
}

/// What may stand behind a number to make it another: thousands, parts, a sign.
bool changes_the_number(std::string_view unit) {
    constexpr std::array<std::string_view, 15> kDoubtful{"k",    "tsd",          "tsd.",    "m",        "mio",
                                                         "mio.", "mill",         "million", "millions", "thousand",
                                                         "%",    "\xE2\x80\xB0", "-",       "+",        "\xE2\x88\x92"};
    return std::find(kDoubtful.begin(), kDoubtful.end(), unit) != kDoubtful.end();
}

}  // namespace

std::optional<Weight> read_weight(const Source& source, OGRFeature& record, int field, std::string& wrong) {
    const std::string text = source.text(record, field);
    const auto v = source.number(record, field);
    if (text.empty())
        wrong = "is empty";
    else if (const auto& unit = source.format(field).unit; v && changes_the_number(unit))
        wrong = fmt::format("'{}' has '{}' behind the number, which makes it another; write it out", text.substr(0, 40),
                            unit);
    else if (!v)
        wrong = why_no_number(source, field, text);
    else if (*v < 0)
        wrong = fmt::format("{} is negative", text.substr(0, 40));
    else if (*v > Weight::kMost)
        wrong = fmt::format("{} is more than a thousand million", text.substr(0, 40));
    else
        return Weight::of(*v);
    return std::nullopt;
}

}  // namespace otoro::files
