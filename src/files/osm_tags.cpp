#include "files/osm_tags.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cctype>
#include <cmath>

#include "files/column.h"
#include "files/road_columns.h"
#include "geo/amounts.h"

namespace otoro::files {
namespace {

using roads::Attributes;
using roads::OneWay;
using roads::RoadClass;

constexpr std::uint32_t kMaxspeedPerMille = 850;

std::string_view tag(const osmium::Way& way, const char* key) {
    const char* v = way.tags().get_value_by_key(key);
    return v == nullptr ? std::string_view() : std::string_view(v);
}

/// The value of the most specific of these keys that the way has.
std::string_view most_specific(const osmium::Way& way, std::initializer_list<const char*> keys) {
    for (const char* key : keys)
        if (const auto v = tag(way, key); !v.empty()) return v;
    return {};
}

/// `0:20` or `1:05:30` in seconds; nothing for anything else.
std::optional<double> clock_seconds(std::string_view text) {
    double seconds = 0;
    int parts = 0;
    for (bool more = true; more; ++parts) {
        const auto colon = text.find(':');
        double v = 0;
        if (parts == 3 || !parse_number(text.substr(0, colon), v) || v < 0) return std::nullopt;
        seconds = seconds * 60 + v;
        more = colon != std::string_view::npos;
        if (more) text.remove_prefix(colon + 1);
    }
    if (parts < 2) return std::nullopt;
    return parts == 2 ? seconds * 60 : seconds;
}

/// ISO 8601: `PT20M`, `PT1H5M`, `P1D`.
std::optional<double> iso_seconds(std::string_view text) {
    if (text.empty() || text.front() != 'P') return std::nullopt;
    double seconds = 0;
    std::size_t begin = 1;
    for (std::size_t i = 1; i < text.size(); ++i) {
        if (text[i] == 'T') begin = i + 1;
        if ((text[i] >= '0' && text[i] <= '9') || text[i] == '.' || text[i] == 'T') continue;
        const double unit = text[i] == 'D'   ? 86'400
                            : text[i] == 'H' ? 3600
                            : text[i] == 'M' ? 60
                            : text[i] == 'S' ? 1
                                             : 0;
        double v = 0;
        if (unit == 0 || !parse_number(text.substr(begin, i - begin), v)) return std::nullopt;
        seconds += v * unit;
        begin = i + 1;
    }
    return begin == text.size() ? std::optional(seconds) : std::nullopt;
}

/// `15 min`, `1h`, `1 h 30 min`: numbers, each with its unit.
std::optional<double> spoken_seconds(std::string_view text) {
    double seconds = 0;
    bool any = false;
    while (true) {
        while (!text.empty() && std::isspace(static_cast<unsigned char>(text.front())) != 0) text.remove_prefix(1);
        if (text.empty()) break;
        std::size_t digits = 0, word = 0;
        while (digits < text.size() && (std::isdigit(static_cast<unsigned char>(text[digits])) != 0 ||
                                        text[digits] == '.' || text[digits] == ','))
            ++digits;
        word = digits;
        while (word < text.size() && text[word] == ' ') ++word;
        const std::size_t begin = word;
        while (word < text.size() && std::isalpha(static_cast<unsigned char>(text[word])) != 0) ++word;
        double v = 0;
        const auto each = minutes_of(text.substr(begin, word - begin));
        if (word == begin || !each || !parse_number(text.substr(0, digits), v)) return std::nullopt;
        seconds += v * *each * 60;
        any = true;
        text.remove_prefix(word);
    }
    return any ? std::optional(seconds) : std::nullopt;
}

OneWay drive_one_way(const osmium::Way& way, std::string_view highway, UnknownTags& unknown) {
    const auto v = tag(way, "oneway");
    if (v == "yes" || v == "1" || v == "true") return OneWay::along;
    if (v == "-1" || v == "reverse") return OneWay::against;
    if (!v.empty() && v != "no" && v != "0" && v != "false") count_unknown(unknown, "oneway", v);
    if (!v.empty()) return OneWay::both;
    return highway == "motorway" || tag(way, "junction") == "roundabout" ? OneWay::along : OneWay::both;
}

OneWay cycle_one_way(const osmium::Way& way, OneWay drive) {
    const auto own = tag(way, "oneway:bicycle");
    if (own == "no") return OneWay::both;
    if (own == "yes") return drive == OneWay::both ? OneWay::along : drive;
    if (own == "-1") return OneWay::against;
    for (const char* key : {"cycleway", "cycleway:left", "cycleway:right", "cycleway:both"})
        if (tag(way, key).starts_with("opposite")) return OneWay::both;
    for (const char* key : {"cycleway:oneway", "cycleway:both:oneway", "cycleway:left:oneway", "cycleway:right:oneway"})
        if (const auto v = tag(way, key); v == "-1" || v == "no") return OneWay::both;
    return drive;
}

/// The layer that is stated; without one, a bridge is over and a tunnel under the ground.
int level_of(const osmium::Way& way, UnknownTags& unknown) {
    double layer = 0;
    if (const auto stated = tag(way, "layer"); !stated.empty()) {
        if (parse_number(stated, layer)) return static_cast<int>(std::lround(std::clamp(layer, -8.0, 7.0)));
        count_unknown(unknown, "layer", stated);
    }
    if (says_yes(tag(way, "bridge"))) return 1;
    const auto tunnel = tag(way, "tunnel");
    return says_yes(tunnel) && tunnel != "building_passage" && tunnel != "culvert" ? -1 : 0;
}

}  // namespace

std::optional<Speed> maxspeed_of(std::string_view text) {
    std::optional<double> lowest;
    for (std::size_t begin = 0; begin <= text.size();) {
        const std::size_t end = std::min(text.find_first_of(";|", begin), text.size());
        const auto v = written_number(text.substr(begin, end - begin), Decimals::point);
        const auto each = !v ? std::nullopt : v->unit.empty() ? std::optional(1.0) : kmh_of(v->unit);
        if (!each) return std::nullopt;
        const double kmh = v->value * *each;
        if (kmh < kSlowestKmh || kmh > kFastestKmh) return std::nullopt;
        lowest = lowest ? std::min(*lowest, kmh) : kmh;
        begin = end + 1;
    }
    return lowest ? std::optional(Speed::km_per_hour(*lowest)) : std::nullopt;
}

std::optional<std::uint32_t> duration_of(std::string_view text) {
    double minutes = 0;
    std::optional<double> seconds = clock_seconds(text);
    if (!seconds) seconds = iso_seconds(text);
    if (!seconds && parse_number(text, minutes)) seconds = minutes * 60;
    if (!seconds) seconds = spoken_seconds(text);
    constexpr double kMost = 1'000'000;
    if (!seconds || *seconds < 0 || *seconds > kMost) return std::nullopt;
    return static_cast<std::uint32_t>(std::llround(*seconds * 1000));
}

void count_unknown(UnknownTags& unknown, std::string_view key, std::string_view value) {
    constexpr std::size_t kMostTags = 200, kLongest = 60;
    const std::string tag = fmt::format("{}={}", key, value.substr(0, kLongest));
    if (const auto at = unknown.find(tag); at != unknown.end())
        ++at->second;
    else if (unknown.size() < kMostTags)
        unknown[tag] = 1;
    else
        ++unknown["other tags"];
}

std::optional<Attributes> attributes_of(const osmium::Way& way, UnknownTags& unknown) {
    const auto highway = tag(way, "highway");
    const bool ferry = tag(way, "route") == "ferry";
    if (tag(way, "area") == "yes") return std::nullopt;
    Attributes a;
    if (!highway.empty()) {
        const auto parsed = roads::parse_class(highway);
        if (parsed && parsed->road_class < RoadClass::ferry) {
            a.road_class = parsed->road_class;
            a.flags = parsed->ramp ? static_cast<std::uint8_t>(roads::kRamp) : std::uint8_t{0};
        } else if (!ferry) {
            count_unknown(unknown, "highway", highway);
            return std::nullopt;
        }
    }
    if (ferry && (highway.empty() || a.road_class == RoadClass::other)) {
        a.road_class = RoadClass::ferry;
        if (const auto stated = tag(way, "duration"); !stated.empty()) {
            const auto duration = duration_of(stated);
            if (!duration) count_unknown(unknown, "duration", stated);
            a.fixed_ms = duration.value_or(0);
        }
    } else if (highway.empty()) {
        return std::nullopt;
    }
    if (most_specific(way, {"motorcar", "motor_vehicle", "vehicle", "access"}) == "no") a.barred |= roads::kBarredDrive;
    if (most_specific(way, {"foot", "access"}) == "no") a.barred |= roads::kBarredWalk;
    const auto bicycle = most_specific(way, {"bicycle", "vehicle", "access"});
    if (bicycle == "no") a.barred |= roads::kBarredCycle;
    if (tag(way, "bicycle") == "yes" || tag(way, "bicycle") == "designated") a.flags |= roads::kCycleAllowed;
    const OneWay drive = drive_one_way(way, highway, unknown);
    a.set_one_way(drive, cycle_one_way(way, drive));
    a.set_level(level_of(way, unknown));
    if (const auto stated = tag(way, "maxspeed"); !stated.empty() && a.road_class != RoadClass::ferry) {
        if (const auto limit = maxspeed_of(stated))
            a.drive_speed = limit->scaled(kMaxspeedPerMille);
        else
            count_unknown(unknown, "maxspeed", stated);
    }
    return a;
}

}  // namespace otoro::files
