#include "files/road_columns.h"

#include <algorithm>
#include <cctype>
#include <set>

#include "files/source.h"
#include "geo/text.h"

namespace otoro::files {
namespace {

constexpr double kKmOfMile = 1.609344;

/// In small letters and without blanks.
std::string squeezed(std::string_view text) {
    std::string s;
    for (const char c : text)
        if (std::isspace(static_cast<unsigned char>(c)) == 0)
            s += static_cast<char>(std::tolower(static_cast<unsigned char>(c)));
    return s;
}

bool has_any(const std::set<std::string>& words, std::initializer_list<const char*> wanted) {
    return std::any_of(wanted.begin(), wanted.end(), [&](const char* w) { return words.contains(w); });
}

/// The same, or a word that ends with one: `speedmph`.
bool ends_with_any(const std::set<std::string>& words, std::initializer_list<std::string_view> wanted) {
    return std::any_of(words.begin(), words.end(), [&](const std::string& word) {
        return std::any_of(wanted.begin(), wanted.end(), [&](std::string_view w) { return word.ends_with(w); });
    });
}

}  // namespace

RoadFields guess_road_fields(const std::vector<std::string>& fields) {
    RoadFields f;
    f.road_class = guess_field(fields, {"class", "road_class", "highway", "fclass", "category", "type", "kind"});
    f.name = guess_field(fields, {"name", "road_name", "street", "street_name", "ref"});
    f.speed = guess_field(fields, {"speed", "speed_kmh", "kmh", "speed_kph", "kph", "speed_mph", "mph", "maxspeed",
                                   "speed_limit", "speed_limit_mph"});
    f.one_way = guess_field(fields, {"oneway", "direction"});
    f.minutes = guess_field(fields, {"minutes", "travel_minutes", "time_min", "drive_minutes"});
    f.minutes_back = guess_field(fields, {"minutes_back", "back_minutes"});
    f.length = guess_field(fields, {"length", "length_m", "length_km", "length_ft", "length_mi", "shape_length",
                                    "shape_leng", "shape_len"});
    f.level = guess_field(fields, {"level", "road_level", "layer"});
    f.bridge = guess_field(fields, {"bridge", "is_bridge"});
    f.tunnel = guess_field(fields, {"tunnel", "is_tunnel"});
    return f;
}

OneWayWords::OneWayWords(const ColumnLook* column) {
    if (column == nullptr || !column->few_words()) return;
    const bool f = column->has("f"), t = column->has("t");
    directions_ = column->has("b");
    if (!f && !t) return;
    if (directions_)
        remark_ = std::string("'B' both ways") + (f ? ", 'F' as drawn" : "") + (t ? ", 'T' against" : "");
    else
        remark_ = std::string(t ? "'T' one-way" : "") + (t && f ? ", " : "") + (f ? "'F' not one-way" : "");
}

std::optional<roads::OneWay> OneWayWords::parse(std::string_view word) const {
    const std::string w = squeezed(word);
    if (directions_) {
        if (w == "f") return roads::OneWay::along;
        if (w == "t") return roads::OneWay::against;
        if (w == "b") return roads::OneWay::both;
        if (w == "n") return std::nullopt;  // neither way, or not one-way: nobody can tell
    }
    return roads::parse_one_way(word);
}

std::optional<roads::ParsedClass> parse_class_word(std::string_view word) {
    const std::string w = squeezed(word);
    constexpr std::string_view kTrack = "track_grade";
    if (w.starts_with(kTrack) && w.size() == kTrack.size() + 1 &&
        std::isdigit(static_cast<unsigned char>(w.back())) != 0)
        return roads::parse_class("track");
    return roads::parse_class(word);
}

bool says_yes(std::string_view word) {
    static const std::set<std::string> kNo{"", "no", "n", "false", "f", "0", "-1", "none", "nobridge", "notunnel"};
    return !kNo.contains(squeezed(word));
}

bool heading_says_mph(std::string_view heading) { return ends_with_any(words_of(heading), {"mph"}); }

double metres_by_heading(std::string_view heading) {
    const auto words = words_of(heading);
    if (has_any(words, {"km", "kms", "kilometres", "kilometers", "kilometre", "kilometer"}) ||
        ends_with_any(words, {"km"}))
        return 1000;
    if (has_any(words, {"mi", "mile", "miles"}) || ends_with_any(words, {"miles"})) return 1000 * kKmOfMile;
    if (has_any(words, {"ft", "foot", "feet"}) || ends_with_any(words, {"feet"})) return 0.3048;
    if (has_any(words, {"yd", "yard", "yards"})) return 0.9144;
    return 1;
}

double minutes_by_heading(std::string_view heading) {
    const auto words = words_of(heading);
    if (has_any(words, {"s", "sec", "secs", "second", "seconds"})) return 1.0 / 60;
    if (has_any(words, {"h", "hour", "hours", "hrs"})) return 60;
    return 1;
}

roads::TimesOf times_by_heading(std::string_view heading) {
    const auto words = words_of(heading);
    if (has_any(words, {"walk", "walking", "foot", "pedestrian"})) return roads::TimesOf::walkers;
    if (has_any(words, {"cycle", "cycling", "bike", "bicycle"})) return roads::TimesOf::cyclists;
    return roads::TimesOf::vehicles;
}

std::optional<double> kmh_of(std::string_view unit) {
    const std::string u = squeezed(unit);
    if (u == "km/h" || u == "kmh" || u == "kph" || u == "kmph" || u == "km/hr" || u == "k/h") return 1;
    if (u == "mph" || u == "mi/h" || u == "miles/h" || u == "miles/hour" || u == "mi/hr") return kKmOfMile;
    if (u == "m/s") return 3.6;
    if (u == "knots" || u == "kn" || u == "knot") return 1.852;
    return std::nullopt;
}

std::optional<double> metres_of(std::string_view unit) {
    const std::string u = squeezed(unit);
    if (u == "m" || u == "metres" || u == "meters") return 1;
    if (u == "km") return 1000;
    if (u == "mi" || u == "miles" || u == "mile") return 1000 * kKmOfMile;
    if (u == "ft" || u == "feet" || u == "'") return 0.3048;
    if (u == "yd" || u == "yards") return 0.9144;
    return std::nullopt;
}

std::optional<double> minutes_of(std::string_view unit) {
    const std::string u = squeezed(unit);
    if (u == "min" || u == "mins" || u == "minutes" || u == "minute" || u == "m") return 1;
    if (u == "s" || u == "sec" || u == "seconds") return 1.0 / 60;
    if (u == "h" || u == "hr" || u == "hours" || u == "hour") return 60;
    return std::nullopt;
}

}  // namespace otoro::files
