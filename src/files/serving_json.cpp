#include "files/serving_json.h"

#include <nlohmann/json.hpp>

#include "geo/error.h"

namespace otoro::files {
namespace {
using nlohmann::json;

[[noreturn]] void not_known(const char* what, const std::string& word) {
    throw InputError({"", std::nullopt, std::string("its ") + what + " '" + word.substr(0, 40) + "' is not known",
                      "The study was damaged or made by a later version"});
}

json json_of(const service::Nearest& rule) { return {{"rule", "nearest"}, {"measure", word(rule.measure)}}; }

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
    if (rule == "nearest") return service::Nearest{measure_from(j.at("measure").get<std::string>())};
    not_known("rule of serving", rule);
}

}  // namespace otoro::files
