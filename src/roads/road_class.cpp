#include "roads/road_class.h"

#include <algorithm>
#include <cctype>
#include <string>

namespace otoro::roads {
namespace {

constexpr std::array<std::string_view, kRoadClasses> kNames{
    "motorway",      "trunk",    "primary",   "secondary", "tertiary", "unclassified", "residential",
    "living_street", "service",  "road",      "footway",   "path",     "pedestrian",   "steps",
    "track",         "cycleway", "bridleway", "corridor",  "ferry",    "other"};

std::string plain(std::string_view text) {
    std::string s;
    for (const char c : text) {
        if (c == ' ' || c == '-') {
            if (!s.empty()) s += '_';
        } else {
            s += static_cast<char>(std::tolower(static_cast<unsigned char>(c)));
        }
    }
    while (!s.empty() && s.back() == '_') s.pop_back();
    return s;
}

}  // namespace

std::string_view name(RoadClass c) { return kNames[static_cast<std::size_t>(c)]; }

std::optional<ParsedClass> parse_class(std::string_view text) {
    std::string s = plain(text);
    ParsedClass out;
    constexpr std::string_view kLink = "_link";
    if (s.size() > kLink.size() && s.ends_with(kLink)) {
        s.resize(s.size() - kLink.size());
        out.ramp = true;
    }
    const auto found = std::find(kNames.begin(), kNames.end(), s);
    if (found == kNames.end()) return std::nullopt;
    out.road_class = static_cast<RoadClass>(found - kNames.begin());
    if (out.ramp && out.road_class > RoadClass::tertiary) return std::nullopt;
    return out;
}

std::optional<OneWay> parse_one_way(std::string_view text) {
    std::string s;
    for (const char c : text)
        if (!std::isspace(static_cast<unsigned char>(c)))
            s += static_cast<char>(std::tolower(static_cast<unsigned char>(c)));
    const auto is_one_of = [&](std::initializer_list<std::string_view> words) {
        return std::find(words.begin(), words.end(), s) != words.end();
    };
    if (is_one_of({"", "no", "false", "0", "n", "f", "both", "b", "bothways"})) return OneWay::both;
    if (is_one_of({"yes", "true", "1", "y", "t", "along", "ft", "forward", "forwards", "asdrawn"}))
        return OneWay::along;
    if (is_one_of({"-1", "reverse", "against", "tf", "backward", "backwards", "againstthedrawing"}))
        return OneWay::against;
    return std::nullopt;
}

}  // namespace otoro::roads
