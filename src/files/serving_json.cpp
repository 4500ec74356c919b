#include "files/serving_json.h"

#include <nlohmann/json.hpp>

#include "files/study_json.h"
#include "geo/error.h"

namespace otoro::files {
namespace {
using nlohmann::json;

[[noreturn]] void not_known(const char* what, const std::string& word) {
    throw InputError({"", std::nullopt, std::string("its ") + what + " '" + word.substr(0, 40) + "' is not known",
                      "The study was damaged or made by a later version"});
}

using service::AsCapacityAllows;

json json_of(const service::Nearest& rule) { return {{"rule", "nearest"}, {"measure", word(rule.measure)}}; }
json json_of(const service::SeveralNearest& rule) {
    return {
        {"rule", "several nearest"}, {"measure", word(rule.measure)}, {"count", rule.count}, {"needed", rule.needed}};
}
const char* fill_word(AsCapacityAllows::Fill fill) {
    return fill == AsCapacityAllows::Fill::least_travel ? "least travel" : "nearest first";
}
json json_of(const AsCapacityAllows& rule) {
    return {{"rule", "as capacity allows"},
            {"measure", word(rule.measure)},
            {"fill", fill_word(rule.fill)},
            {"split", rule.split},
            {"by_priority", rule.by_priority}};
}
json json_of(const service::AsRecorded& rule) { return {{"rule", "as recorded"}, {"measure", word(rule.measure)}}; }
json json_of(const service::WholeZones& rule) { return {{"rule", "whole zones"}, {"measure", word(rule.measure)}}; }

json json_of(const service::ByPairs& rule) {
    json j{{"rule", "by pairs"},
           {"measure", word(rule.measure)},
           {"smallest", rule.smallest},
           {"of_value_ppm", rule.of_value.ppm()}};
    if (rule.else_nearest) j["else_nearest"] = true;
    return j;
}

AsCapacityAllows::Fill fill_from(const std::string& text) {
    for (const auto fill : {AsCapacityAllows::Fill::least_travel, AsCapacityAllows::Fill::nearest_first})
        if (text == fill_word(fill)) return fill;
    not_known("way to fill sites", text);
}

service::SeveralNearest several_from(const json& j, routing::Measure measure) {
    const service::SeveralNearest rule{measure, j.at("count").get<std::uint32_t>(),
                                       j.at("needed").get<std::uint32_t>()};
    if (!service::is_sound(rule)) not_known("number of nearest sites", std::to_string(rule.count));
    return rule;
}

}  // namespace

const char* word(routing::Measure measure) { return measure == routing::Measure::time ? "time" : "distance"; }

routing::Measure measure_from(const std::string& text) {
    for (const auto measure : {routing::Measure::time, routing::Measure::distance})
        if (text == word(measure)) return measure;
    not_known("measure", text);
}

json to_json(const service::Serving& serving) {
    return std::visit([](const auto& rule) { return json_of(rule); }, serving);
}

service::Serving serving_from(const json& j) {
    const auto rule = j.at("rule").get<std::string>();
    const auto measure = measure_from(j.at("measure").get<std::string>());
    if (rule == "nearest") return service::Nearest{measure};
    if (rule == "several nearest") return several_from(j, measure);
    if (rule == "as capacity allows")
        return AsCapacityAllows{measure, fill_from(j.at("fill").get<std::string>()), j.at("split").get<bool>(),
                                j.at("by_priority").get<bool>()};
    if (rule == "as recorded") return service::AsRecorded{measure};
    if (rule == "whole zones") return service::WholeZones{measure};
    if (rule == "by pairs")
        return service::ByPairs{measure, j.at("smallest").get<bool>(),
                                Share(static_cast<std::int32_t>(whole_number(j.at("of_value_ppm"), 0, 1'000'000))),
                                j.value("else_nearest", false)};
    not_known("rule of serving", rule);
}

}  // namespace otoro::files
