#include "files/coordinate.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <utility>
#include <vector>

#include "files/blanks.h"
#include "geo/text.h"

namespace otoro::files {
namespace {

enum class Direction : std::uint8_t { east, west, north, south, east_or_west };

/// What is written for it in the languages of whoever uses latitudes, in lower case.
constexpr std::array<std::pair<std::string_view, Direction>, 25> kDirections{{{"n", Direction::north},
                                                                              {"north", Direction::north},
                                                                              {"nord", Direction::north},
                                                                              {"norte", Direction::north},
                                                                              {"noord", Direction::north},
                                                                              {"s", Direction::south},
                                                                              {"south", Direction::south},
                                                                              {"sud", Direction::south},
                                                                              {"s\xC3\x9C"
                                                                               "d",
                                                                               Direction::south},
                                                                              {"s\xC3\xBC"
                                                                               "d",
                                                                               Direction::south},
                                                                              {"sur", Direction::south},
                                                                              {"sul", Direction::south},
                                                                              {"zuid", Direction::south},
                                                                              {"e", Direction::east},
                                                                              {"east", Direction::east},
                                                                              {"est", Direction::east},
                                                                              {"este", Direction::east},
                                                                              {"leste", Direction::east},
                                                                              {"ost", Direction::east},
                                                                              {"oost", Direction::east},
                                                                              {"w", Direction::west},
                                                                              {"west", Direction::west},
                                                                              {"ouest", Direction::west},
                                                                              {"oeste", Direction::west},
                                                                              {"o", Direction::east_or_west}}};

std::optional<Direction> direction_of(std::string_view word) {
    if (!word.empty() && word.back() == '.') word.remove_suffix(1);
    const std::string low = lower(word);
    const auto at = std::find_if(kDirections.begin(), kDirections.end(), [&](const auto& d) { return d.first == low; });
    return at == kDirections.end() ? std::nullopt : std::optional(at->second);
}

/// A text taken apart into numbers, words and signs.
struct Token {
    enum Kind : std::uint8_t { number, word, degree, minute, second, colon, sign } kind;
    std::string_view text;
};

/// The marks that stand for degrees, minutes and seconds. Longer ones first.
constexpr std::array<std::pair<std::string_view, Token::Kind>, 12> kMarks{{{"''", Token::second},
                                                                           {"\xC2\xB0", Token::degree},
                                                                           {"\xC2\xBA", Token::degree},
                                                                           {"\xCB\x9A", Token::degree},
                                                                           {"\xE2\x80\xB2", Token::minute},
                                                                           {"\xE2\x80\x99", Token::minute},
                                                                           {"'", Token::minute},
                                                                           {"\xE2\x80\xB3", Token::second},
                                                                           {"\xE2\x80\x9D", Token::second},
                                                                           {"\"", Token::second},
                                                                           {":", Token::colon},
                                                                           {"\xE2\x88\x92", Token::sign}}};

bool is_digit(char c) { return c >= '0' && c <= '9'; }
bool is_letter(char c) {
    return (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z') || (static_cast<unsigned char>(c) & 0x80U) != 0;
}

std::vector<Token> tokens_of(std::string_view s) {
    std::vector<Token> out;
    const auto take = [&](Token::Kind kind, std::size_t length) {
        out.push_back({kind, s.substr(0, length)});
        s.remove_prefix(length);
    };
    while (!s.empty()) {
        if (const std::size_t blank = length_of_any(s, kBlanks)) {
            s.remove_prefix(blank);
            continue;
        }
        const auto mark =
            std::find_if(kMarks.begin(), kMarks.end(), [&](const auto& m) { return s.starts_with(m.first); });
        if (mark != kMarks.end()) {
            take(mark->second, mark->first.size());
            continue;
        }
        std::size_t n = 1;
        if (is_digit(s[0]) || ((s[0] == '.' || s[0] == ',') && s.size() > 1 && is_digit(s[1]))) {
            while (n < s.size() && (is_digit(s[n]) || s[n] == '.' || s[n] == ',')) ++n;
            take(Token::number, n);
        } else if (s[0] == '+' || s[0] == '-') {
            take(Token::sign, 1);
        } else {
            while (n < s.size() && is_letter(s[0]) && (is_letter(s[n]) || s[n] == '.')) ++n;
            take(Token::word, n);
        }
    }
    return out;
}

/// Degrees, minutes and seconds: each under sixty but the first, decimals behind the last alone. Nothing if they are
/// none.
std::optional<double> degrees_of(const std::vector<Token>& tokens, Decimals decimals) {
    std::vector<double> parts;
    double last_mark = -1;  // which of the three the number before it was
    bool fraction = false;
    for (std::size_t i = 0; i < tokens.size(); ++i) {
        const Token& t = tokens[i];
        if (t.kind == Token::number) {
            if (fraction || parts.size() == 3) return std::nullopt;
            const auto v = number_in(t.text, {decimals, {}});
            if (!v) return std::nullopt;
            fraction = *v != std::floor(*v) || t.text.find_first_of(".,") != std::string_view::npos;
            parts.push_back(*v);
            continue;
        }
        const double mark =
            t.kind == Token::degree || (t.kind == Token::word && (lower(t.text) == "d" || lower(t.text) == "deg")) ? 0
            : t.kind == Token::minute || (t.kind == Token::word && lower(t.text) == "m")                           ? 1
            : t.kind == Token::second                                                                              ? 2
            : t.kind == Token::colon && parts.size() < 3 ? static_cast<double>(parts.size()) - 1
                                                         : -2;
        if (mark < 0 || mark != static_cast<double>(parts.size()) - 1 || mark <= last_mark) return std::nullopt;
        last_mark = mark;
    }
    if (parts.empty()) return std::nullopt;
    double out = 0, unit = 1;
    for (std::size_t i = 0; i < parts.size(); ++i, unit /= 60) {
        if (i > 0 && parts[i] >= 60) return std::nullopt;
        out += parts[i] * unit;
    }
    return out;
}

}  // namespace

Coordinate coordinate_in(std::string_view text, Decimals decimals, Axis axis, bool degrees) {
    const std::string shown(text.substr(0, 40));
    const auto none = [&](const std::string& why) {
        return Coordinate{std::nullopt, fmt::format("'{}' {}", shown, why)};
    };
    // Most are plain.
    if (const auto plain = number_in(text, {decimals, {}});
        plain && (!degrees || text.find_first_of(" '") == std::string_view::npos))
        return {plain, {}};
    auto tokens = tokens_of(text);
    std::optional<Direction> direction;
    const auto take_direction = [&](bool first) {
        if (tokens.size() < 2) return true;
        const Token& t = first ? tokens.front() : tokens.back();
        if (t.kind != Token::word) return true;
        const auto found = direction_of(t.text);
        if (!found) return true;  // refused below
        if (direction) return false;
        direction = found;
        tokens.erase(first ? tokens.begin() : tokens.end() - 1);
        return true;
    };
    if (!take_direction(true) || !take_direction(false)) return none("says its direction twice");
    if (direction == Direction::east_or_west)
        return none("has the letter O, which is east to some and west to others; write E or W");
    const bool along = direction == Direction::east || direction == Direction::west;
    if (direction && along != (axis == Axis::east))
        return none(axis == Axis::east ? "goes north or south, where one to the east or west is looked for"
                                       : "goes east or west, where one to the north or south is looked for");
    bool negative = direction == Direction::west || direction == Direction::south;
    if (!tokens.empty() && tokens.front().kind == Token::sign) {
        if (direction) return none("has both a sign and a direction");
        negative = tokens.front().text != "+";
        tokens.erase(tokens.begin());
    }
    std::optional<double> value;
    if (degrees) {
        value = degrees_of(tokens, decimals);
    } else if (!tokens.empty() && std::all_of(tokens.begin(), tokens.end(), [](const Token& t) {
                   return t.kind == Token::number || t.kind == Token::minute;  // which may part thousands
               })) {
        const char* from = tokens.front().text.data();
        const char* to = tokens.back().text.data() + tokens.back().text.size();
        value = number_in(std::string_view(from, static_cast<std::size_t>(to - from)), {decimals, {}});
    }
    if (!value) {
        const auto odd =
            std::find_if(tokens.begin(), tokens.end(), [](const Token& t) { return t.kind == Token::word; });
        if (odd != tokens.end() && tokens.size() > 1)
            return none(fmt::format("has '{}' beside it, which is no direction{}", odd->text,
                                    degrees ? " and not the degree sign" : ""));
        return none("is not a number");
    }
    return {negative ? -*value : *value, {}};
}

}  // namespace otoro::files
