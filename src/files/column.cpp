#include "files/column.h"

#include <fmt/format.h>

#include <algorithm>
#include <cctype>
#include <charconv>
#include <cmath>
#include <tuple>
#include <vector>

#include "files/blanks.h"
#include "geo/text.h"

namespace otoro::files {
namespace {

constexpr std::size_t kMostWords = 64;
constexpr std::size_t kLongestWord = 64;

constexpr std::array<std::string_view, 2> kApostrophes{"'", "\xE2\x80\x99"};

std::string_view trimmed(std::string_view s) {
    while (const std::size_t n = length_of_any(s, kBlanks)) s.remove_prefix(n);
    for (bool more = true; more && !s.empty();) {
        more = false;
        for (const auto& blank : kBlanks)
            if (s.ends_with(blank)) {
                s.remove_suffix(blank.size());
                more = true;
            }
    }
    return s;
}

bool is_digit(char c) { return c >= '0' && c <= '9'; }

/// A number taken apart: runs of digits and the marks between them (`.`, `,`, or `_` for a blank or an apostrophe), an
/// exponent, and what follows.
struct Parts {
    bool negative = false;
    std::vector<std::string> digits;  ///< one more than marks
    std::string marks;
    std::string exponent;
    std::string_view rest;
};

/// Nothing if it does not begin like a number.
std::optional<Parts> take_apart(std::string_view text) {
    text = trimmed(text);
    Parts p;
    if (!text.empty() && (text[0] == '+' || text[0] == '-')) {
        p.negative = text[0] == '-';
        text.remove_prefix(1);
    } else if (text.starts_with("\xE2\x88\x92")) {  // the minus sign of typesetters
        p.negative = true;
        text.remove_prefix(3);
    }
    p.digits.emplace_back();
    while (!text.empty()) {
        if (is_digit(text[0])) {
            p.digits.back() += text[0];
            text.remove_prefix(1);
            continue;
        }
        const bool mark = text[0] == '.' || text[0] == ',';
        const std::size_t gap = mark ? 1 : std::max(length_of_any(text, kBlanks), length_of_any(text, kApostrophes));
        // A blank belongs to the number only between digits.
        if (gap == 0 || (!mark && (p.digits.back().empty() || text.size() <= gap || !is_digit(text[gap])))) break;
        p.marks += mark ? text[0] : '_';
        p.digits.emplace_back();
        text.remove_prefix(gap);
    }
    if (std::all_of(p.digits.begin(), p.digits.end(), [](const std::string& d) { return d.empty(); }))
        return std::nullopt;
    if (text.size() > 1 && (text[0] == 'e' || text[0] == 'E')) {
        const std::size_t sign = text[1] == '+' || text[1] == '-' ? 2 : 1;
        if (text.size() > sign && is_digit(text[sign])) {
            p.exponent = "e" + std::string(sign == 2 && text[1] == '-' ? "-" : "");
            text.remove_prefix(sign);
            while (!text.empty() && is_digit(text[0])) {
                p.exponent += text[0];
                text.remove_prefix(1);
            }
        }
    }
    p.rest = trimmed(text);
    return p;
}

/// Whether the first `marks` marks part thousands: runs of three behind a first of one to three.
bool in_thousands(const Parts& p, std::size_t marks) {
    if (p.digits[0].empty() || p.digits[0].size() > 3) return false;
    for (std::size_t i = 1; i <= marks; ++i)
        if (p.digits[i].size() != 3) return false;
    return true;
}

/// The value with decimals behind this mark (or none at all), thousands parted by one other.
std::optional<double> value_of(const Parts& p, char decimal) {
    const std::size_t marks = p.marks.size();
    const bool has_decimals = marks > 0 && p.marks.back() == decimal;
    const std::size_t groups = has_decimals ? marks - 1 : marks;
    for (std::size_t i = 0; i < groups; ++i)
        if (p.marks[i] != p.marks[0] || p.marks[i] == decimal) return std::nullopt;
    if (groups > 0 && !in_thousands(p, groups)) return std::nullopt;
    std::string plain = p.negative ? "-" : "";
    for (std::size_t i = 0; i <= groups; ++i) plain += p.digits[i];
    if (has_decimals) plain += "." + p.digits.back();
    plain += p.exponent;
    double v = 0;
    const auto [stop, error] = std::from_chars(plain.data(), plain.data() + plain.size(), v);
    if (error != std::errc() || stop != plain.data() + plain.size() || !std::isfinite(v)) return std::nullopt;
    return v;
}

/// Whether a number could be read with decimals behind either mark, to different values.
bool is_open(const Parts& p) {
    const auto point = value_of(p, '.'), comma = value_of(p, ',');
    return point && comma && *point != *comma && p.digits[0] != "0";
}

}  // namespace

std::optional<WrittenNumber> written_number(std::string_view text, Decimals decimals) {
    const auto parts = take_apart(text);
    if (!parts || parts->rest.size() > kLongestWord) return std::nullopt;
    const bool open = is_open(*parts);
    if (open && decimals == Decimals::either) return std::nullopt;
    const char first = decimals == Decimals::comma ? ',' : '.';
    // `0,123` cannot be thousands.
    const bool zero_first = parts->digits[0] == "0" && parts->marks.size() == 1 && parts->marks[0] != '_';
    auto value = zero_first ? value_of(*parts, parts->marks[0]) : value_of(*parts, first);
    if (!value) value = value_of(*parts, first == '.' ? ',' : '.');
    if (!value) return std::nullopt;
    return WrittenNumber{*value, lower(parts->rest)};
}

std::optional<double> number_in(std::string_view text, const NumberFormat& format) {
    // Most are plain.
    if (format.decimals == Decimals::point && format.unit.empty()) {
        const auto plain = trimmed(text);
        double v = 0;
        const auto [stop, error] = std::from_chars(plain.data(), plain.data() + plain.size(), v);
        if (error == std::errc() && stop == plain.data() + plain.size() && std::isfinite(v)) return v;
    }
    const auto number = written_number(text, format.decimals);
    if (!number || number->unit != format.unit) return std::nullopt;
    return number->value;
}

bool ColumnLook::add_plain(std::string_view text) {
    if (!text.empty() && text[0] == '-') text.remove_prefix(1);
    const std::size_t point = std::min(text.find('.'), text.size());
    const std::string_view whole = text.substr(0, point), decimals = text.substr(std::min(point + 1, text.size()));
    if (whole.empty() || !std::all_of(whole.begin(), whole.end(), is_digit) ||
        !std::all_of(decimals.begin(), decimals.end(), is_digit))
        return false;
    const bool open = decimals.size() == 3 && whole.size() <= 3 && whole[0] != '0';
    if (open || (point < text.size() && decimals.empty()) || !units_.contains("")) return false;
    const bool first_of_its_kind = point < text.size() && witnesses_[kPointDecimals] == 0;
    if (first_of_its_kind) return false;  // kept as an example
    ++filled_;
    ++numbers_;
    return true;
}

void ColumnLook::add(std::string_view text) {
    constexpr std::size_t kMostSeen = 1024;
    if (many_words_ && add_plain(text)) return;
    if (seen_.contains(text)) return;
    if (seen_.size() < kMostSeen) seen_.emplace(text);
    text = trimmed(text);
    if (text.empty()) return;
    ++filled_;
    if (!many_words_) {
        if (text.size() > kLongestWord)
            many_words_ = true;
        else if (words_.insert(lower(text)).second && words_.size() > kMostWords)
            many_words_ = true;
        if (many_words_) words_.clear();
    }
    const auto parts = take_apart(text);
    if (!parts) return;
    const auto point = value_of(*parts, '.'), comma = value_of(*parts, ',');
    if (!point && !comma) return;
    ++numbers_;
    if (units_.size() < kMostWords) ++units_[lower(parts->rest)];
    if (parts->marks.find_first_of(".,") == std::string::npos) return;
    const bool zero_first = parts->digits[0] == "0" && parts->marks.size() == 1;
    Witness w = kPointDecimals;
    if (zero_first)
        w = parts->marks[0] == '.' ? kPointDecimals : kCommaDecimals;
    else if (point && comma && *point != *comma)
        w = parts->marks.back() == ',' ? kOpenComma : kOpenPoint;
    else if (point && comma)
        return;
    else
        w = point ? kPointDecimals : kCommaDecimals;
    if (witnesses_[w]++ == 0) examples_[w] = std::string(text.substr(0, 40));
}

void ColumnLook::rule_out_thousands(double most) {
    if (witnesses_[kPointDecimals] + witnesses_[kCommaDecimals] > 0) return;
    for (const auto& [open, decimals, as] : {std::tuple(kOpenComma, kCommaDecimals, Decimals::point),
                                             std::tuple(kOpenPoint, kPointDecimals, Decimals::comma)}) {
        if (witnesses_[open] == 0) continue;
        const auto thousands = written_number(examples_[open], as);
        if (!thousands || std::abs(thousands->value) <= most) continue;
        witnesses_[decimals] = witnesses_[open];
        examples_[decimals] = examples_[open];
    }
}

void ColumnLook::add_witnesses_of(const ColumnLook& other) {
    if (other.numbers_ < other.filled_ || other.units_.size() > 1) return;
    for (const auto w : {kPointDecimals, kCommaDecimals}) witnesses_[w] += other.witnesses_[w];
}

/// Looks into a column to decide how it is understood.
class ColumnReader {
public:
    ColumnReader(const ColumnLook& column, const ColumnLook& rest) : column_(column), rest_(rest) {}

    Understood understand(bool units) {
        Understood out;
        out.format.decimals = decimals();
        const auto n = [&](ColumnLook::Witness w) { return column_.witnesses_[w]; };
        const auto example = [&](ColumnLook::Witness w) { return column_.examples_[w]; };
        std::vector<std::string> said;
        if (out.format.decimals == Decimals::either) {
            said.push_back(fmt::format("written in two ways, '{}' and '{}'", example(ColumnLook::kPointDecimals),
                                       example(ColumnLook::kCommaDecimals)));
        } else {
            const bool point = out.format.decimals == Decimals::point;
            const auto open = point ? ColumnLook::kOpenComma : ColumnLook::kOpenPoint;
            const auto decimal = point ? ColumnLook::kOpenPoint : ColumnLook::kOpenComma;
            if (n(open) > 0)
                said.push_back(taken(example(open), point ? "commas part thousands" : "points part thousands",
                                     out.format.decimals));
            else if (!point)
                said.push_back("with decimal commas");
            if (n(decimal) > 0 && n(ColumnLook::kPointDecimals) + n(ColumnLook::kCommaDecimals) == 0 &&
                !whole_file_decides_)
                said.push_back(taken(example(decimal),
                                     point ? "a point stands before decimals" : "a comma stands before decimals",
                                     out.format.decimals));
        }
        // A unit counts where every number has it.
        if (units && column_.units_.size() == 1 && !column_.units_.begin()->first.empty()) {
            out.format.unit = column_.units_.begin()->first;
            said.push_back(fmt::format("'{}' behind each left aside", out.format.unit));
        }
        for (const auto& s : said) out.remark += (out.remark.empty() ? "" : ", ") + s;
        return out;
    }

private:
    static std::optional<Decimals> by_witnesses(const ColumnLook& look) {
        const bool point = look.witnesses_[ColumnLook::kPointDecimals] > 0,
                   comma = look.witnesses_[ColumnLook::kCommaDecimals] > 0;
        if (point && comma) return Decimals::either;
        return point ? std::optional(Decimals::point) : comma ? std::optional(Decimals::comma) : std::nullopt;
    }
    Decimals decimals() {
        if (const auto own = by_witnesses(column_)) return *own;
        if (const auto file = by_witnesses(rest_); file && *file != Decimals::either) {
            whole_file_decides_ = true;
            return *file;
        }
        return Decimals::point;
    }
    static std::string taken(const std::string& example, const char* as, Decimals decimals) {
        const auto number = written_number(example, decimals);
        return fmt::format("{}: '{}' is {}", as, example, number ? fmt::format("{}", number->value) : "no number");
    }
    const ColumnLook& column_;
    const ColumnLook& rest_;
    bool whole_file_decides_ = false;
};

Understood understand(const ColumnLook& column, const ColumnLook& rest, bool units) {
    return ColumnReader(column, rest).understand(units);
}

}  // namespace otoro::files
