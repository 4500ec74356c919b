#include "files/road_attributes.h"

#include <algorithm>
#include <initializer_list>

#include "geo/text.h"

namespace otoro::files {
namespace {

/// The numbers of the fields that columns are read from; -1 where there is none.
std::vector<int> numbers_of(const Source& source, const std::vector<std::string>& names) {
    std::vector<int> out;
    for (const auto& n : names) out.push_back(n.empty() ? -1 : source.field(n));
    return out;
}

/// Looks at a file's columns of texts before the first of them is understood.
OneWayWords look(Source& source, const std::vector<std::string>& names) {
    auto numbers = numbers_of(source, names);
    for (const std::size_t not_looked_at : {kClass, kName}) numbers[not_looked_at] = -1;
    source.look_at(numbers);
    return OneWayWords(numbers[kOneWay] < 0 ? nullptr : source.column(numbers[kOneWay]));
}

}  // namespace

std::optional<Expression> formula(const std::string& field) {
    const auto at = field.find_first_not_of(' ');
    if (at == std::string::npos || field[at] != '=') return std::nullopt;
    return Expression::parse(std::string_view(field).substr(at + 1));
}

std::vector<std::string> columns(const RoadFields& f) {
    std::vector<std::string> out;
    std::vector<std::string> more;
    for (const auto& c : f.columns()) {
        const auto parsed = formula(c);
        out.push_back(parsed ? std::string() : c);
        if (parsed) more.insert(more.end(), parsed->fields().begin(), parsed->fields().end());
    }
    for (const auto& m : more)
        if (std::find(out.begin(), out.end(), m) == out.end()) out.push_back(m);
    return out;
}

AttributeReader::AttributeReader(Source& source, const RoadFields& fields, RoadsRead& out)
    : source_(source), out_(out), fields_(fields), names_(columns(fields)), one_way_words_(nullptr) {
    constexpr std::array<const char*, kColumns> kWhat{"the class",   "the name",         "the speed",  "one-way",
                                                      "the minutes", "the minutes back", "the length", "the level",
                                                      "bridges",     "tunnels"};
    for (std::size_t i = 0; i < names_.size(); ++i)
        if (!names_[i].empty()) (void)source.required_field(names_[i], i < kColumns ? kWhat[i] : "a formula");
    const auto given = fields.columns();
    for (std::size_t i = 0; i < kColumns; ++i) formulas_.push_back(formula(given[i]));
    for (const std::size_t i : {kClass, kName, kOneWay, kBridge, kTunnel})
        if (formulas_[i])
            throw InputError({"", std::nullopt, fmt::format("{} cannot come from a formula, '{}'", kWhat[i], given[i]),
                              "Name a field"});
    for (const auto& [word, meaning] : fields.words)
        if (!roads::parse_class(meaning) && !roads::parse_one_way(meaning))
            throw InputError(
                {"", std::nullopt,
                 fmt::format("'{}' is no class and no one-way word, so '{}' cannot mean it", meaning, word),
                 "Use a word of docs/semantics.md, such as secondary or reverse"});
    one_way_words_ = look(source, names_);
    for (const int field : numbers_of(source, names_)) {
        formats_.push_back(field < 0 ? NumberFormat{} : source.format(field));
        formats_.back().unit.clear();  // units are read value by value
    }
    kmh_by_heading_ = heading_says_mph(fields.speed) ? *kmh_of("mph") : 1;
    minutes_by_heading_ = minutes_by_heading(fields.minutes);
    class_counts_ = !fields.road_class.empty() || (fields.speed.empty() && fields.minutes.empty());
    out.lines.times_of = times_by_heading(fields.minutes);
}

void AttributeReader::count_unknown(const std::function<double()>& metres) {
    if (!any_unknown()) return;
    const double length = metres();
    const auto count = [&](std::map<std::string, WordMet>& met, const std::string* word) {
        if (word == nullptr) return;
        ++met[*word].records;
        met[*word].metres += length;
    };
    count(out_.unknown_classes, unknown_class_);
    count(out_.unknown_one_ways, unknown_one_way_);
}

std::vector<std::string> AttributeReader::remarks() const {
    std::vector<std::string> out;
    if (!one_way_words_.remark().empty())
        out.push_back(fmt::format("in '{}' {}", fields_.one_way, one_way_words_.remark()));
    for (const std::size_t i : {kSpeed, kMinutes, kMinutesBack, kLength})
        if (!names_[i].empty())
            if (const auto said = source_.remark(source_.field(names_[i]));
                !said.empty() && said.find("left aside") == std::string::npos)
                out.push_back(fmt::format("'{}' {}", names_[i], said));
    if (!no_level_.empty())
        out.push_back(
            fmt::format("'{}', such as '{}', is no level: such roads are on the ground", names_[kLevel], no_level_));
    if (!names_[kSpeed].empty() && kmh_by_heading_ != 1) out.push_back(fmt::format("'{}' in mph", names_[kSpeed]));
    if (!names_[kMinutes].empty() && minutes_by_heading_ != 1)
        out.push_back(fmt::format("'{}' in {}", names_[kMinutes], minutes_by_heading_ > 1 ? "hours" : "seconds"));
    return out;
}

std::optional<WrittenNumber> AttributeReader::written(std::string_view text, std::size_t column) const {
    // Nearly all are plain.
    if (const auto plain = number_in(text, formats_[column])) return WrittenNumber{*plain, {}};
    return written_number(text, formats_[column].decimals);
}

std::uint32_t AttributeReader::minutes_in(std::string_view text, std::size_t column) {
    const std::string said = as_utf8(text.substr(0, 40));
    if (const auto v = written(text, column)) {
        const double each = v->unit.empty() ? minutes_by_heading_ : minutes_of(v->unit).value_or(0);
        if (each > 0) return possible_minutes(v->value * each, said);
    }
    no_times_.push_back(fmt::format("its minutes '{}' are not a number", said));
    return 0;
}

std::uint32_t AttributeReader::possible_minutes(double v, const std::string& text) {
    constexpr double kMostMinutes = 60'000, kMillisecond = 1.0 / 60'000;
    if (v >= kMillisecond / 2 && v <= kMostMinutes) return static_cast<std::uint32_t>(std::llround(v * 60'000));
    no_times_.push_back(fmt::format("its minutes '{}' are {}", text,
                                    v > kMostMinutes ? "more than a month"
                                    : v < 0          ? "below nothing"
                                                     : "no time at all"));
    return 0;
}

int AttributeReader::level_in(std::string_view text) {
    if (const auto v = number_in(text, formats_[kLevel]))
        return static_cast<int>(std::lround(std::clamp(*v, -8.0, 7.0)));
    if (!says_yes(text)) return 0;
    const auto says = [](std::string_view where, std::initializer_list<const char*> words) {
        const auto said = words_of(where);
        return std::any_of(words.begin(), words.end(), [&](const char* word) { return said.count(word) != 0; });
    };
    const auto below = [&](std::string_view where) {
        return says(where, {"tunnel", "tunnels", "under", "underpass", "underbridge", "underground", "subway"});
    };
    if (below(text)) return -1;
    if (says(text,
             {"bridge", "bridges", "footbridge", "viaduct", "over", "overpass", "overbridge", "flyover", "elevated"}))
        return 1;
    // A plain yes is to the heading.
    const std::string word = lower(text);
    if (word == "yes" || word == "y" || word == "true" || word == "t") return below(fields_.level) ? -1 : 1;
    if (no_level_.empty()) no_level_ = as_utf8(text.substr(0, 40));
    return 0;
}

Speed AttributeReader::believable_speed(double v, double kmh_each, const std::string& text, std::int64_t number) {
    if (v == 0) return {};
    const double kmh = v * kmh_each;
    if (kmh >= kSlowestKmh && kmh <= kFastestKmh) return Speed::km_per_hour(kmh);
    flaw(number, fmt::format("its speed {} is not believable; the speed of its class is used", text));
    return {};
}

Speed AttributeReader::speed(std::string_view text, std::int64_t number) {
    // Of several, `50;30`, the lowest.
    std::optional<double> kmh;
    for (std::size_t begin = 0; begin <= text.size();) {
        const std::size_t end = std::min(text.find_first_of(";|", begin), text.size());
        const auto v = written(text.substr(begin, end - begin), kSpeed);
        const auto each = !v ? std::nullopt : v->unit.empty() ? std::optional(kmh_by_heading_) : kmh_of(v->unit);
        if (!each) {
            flaw(number, fmt::format("its speed '{}' is not a number; the speed of its class is used",
                                     as_utf8(text.substr(0, 40))));
            return {};
        }
        const double one = v->value * *each;
        kmh = kmh ? std::min(*kmh, one) : one;
        begin = end + 1;
    }
    return believable_speed(*kmh, 1, as_utf8(text.substr(0, 40)), number);
}

}  // namespace otoro::files
