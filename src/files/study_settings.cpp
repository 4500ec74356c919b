#include "files/study_settings.h"

#include <fmt/format.h>

#include <algorithm>
#include <nlohmann/json.hpp>

#include "files/source.h"
#include "files/study_json.h"
#include "files/study_layout.h"

namespace otoro::files {
namespace {
using nlohmann::json;

json bans_of(const roads::Lines& lines) {
    json out = json::array();
    for (const auto& b : lines.bans) out.push_back({b.from.bits, b.to.bits});
    return out;
}

json banned_paths_of(const roads::Lines& lines) {
    json out = json::array();
    for (const auto& path : lines.banned_paths) {
        json ways = json::array();
        for (const auto way : path) ways.push_back(way.bits);
        out.push_back(std::move(ways));
    }
    return out;
}

json signals_of(const roads::Lines& lines) {
    json out = json::array();
    for (const auto& p : lines.traffic_signals) out.push_back({p.lon, p.lat});
    return out;
}

void find_unknown(const json& held, const json& known, const std::string& path, std::vector<std::string>& out) {
    if (held.is_object() && known.is_object()) {
        for (const auto& [key, value] : held.items()) {
            const auto inner = fmt::format("{}.{}", path, as_utf8(key).substr(0, 60));
            if (known.contains(key))
                find_unknown(value, known.at(key), inner, out);
            else
                out.push_back(inner);
        }
    } else if (held.is_array() && known.is_array()) {
        for (std::size_t i = 0; i < std::min(held.size(), known.size()); ++i)
            if (held[i].is_structured()) find_unknown(held[i], known[i], fmt::format("{}[{}]", path, i + 1), out);
    }
}

}  // namespace

json settings_of(const service::Study& study) {
    json plans = json::array();
    for (const auto& p : study.plans) plans.push_back(to_json(p));
    json demand = json::array();
    for (const auto& d : study.demand)
        demand.push_back({{"name", d.set->name},
                          {"weight_name", d.set->weight_name},
                          {"group_name", d.set->group.name()},
                          {"recorded_name", d.set->recorded.name()},
                          {"priority_name", d.set->priority.name()},
                          {"attaching", to_json(d.set->attaching)},
                          {"origin", to_json(d.origin)}});
    json sites = json::array();
    for (const auto& s : study.sites)
        sites.push_back(
            {{"name", s.set->name}, {"attaching", to_json(s.set->attaching)}, {"origin", to_json(s.origin)}});
    json zones = json::array();
    for (const auto& z : study.zones) zones.push_back({{"name", z.set->name}, {"origin", to_json(z.origin)}});
    json questions = json::array();
    for (const auto& q : study.questions) questions.push_back(to_json(q));
    json profiles = json::array();
    for (const auto& p : study.profiles) profiles.push_back(to_json(p));
    json roads;
    if (study.roads)
        roads = {{"origin", to_json(study.roads->origin)},
                 {"preparation", to_json(study.roads->preparation)},
                 {"bans", bans_of(*study.roads->lines)},
                 {"signals", signals_of(*study.roads->lines)},
                 {"banned_paths", banned_paths_of(*study.roads->lines)},
                 {"times_of", static_cast<int>(study.roads->lines->times_of)}};
    json pairs;
    if (study.pairs)
        pairs = {{"demand_name", study.pairs->values->demand.name()},
                 {"site_name", study.pairs->values->sites.name()},
                 {"value_name", study.pairs->values->name},
                 {"origin", to_json(study.pairs->origin)}};
    return {// Earlier versions would count times that are left aside.
            {"format", study.roads && !study.roads->preparation.by_speed.empty() ? kStudyFormat : kUsualStudyFormat},
            {"name", study.name},
            {"questions", questions},
            {"in_sight", study.in_sight},
            {"plans", plans},
            {"roads", roads},
            {"water", study.water ? to_json(study.water->origin) : json()},
            {"profiles", profiles},
            {"accepted", study.accepted},
            {"gap_tolerance_mm", study.gap_tolerance.count()},
            {"demand", demand},
            {"sites", sites},
            {"zones", zones},
            {"pairs", pairs},
            {"route", to_json(study.route)}};
}

std::vector<std::string> unknown_in(const json& held, const json& known) {
    std::vector<std::string> out;
    for (const auto& [key, value] : held.items())
        if (known.contains(key)) find_unknown(value, known.at(key), as_utf8(key), out);
    return out;
}

}  // namespace otoro::files
