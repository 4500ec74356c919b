#include "service/serving.h"

namespace otoro::service {
namespace {

std::string by(routing::Measure measure) { return measure == routing::Measure::time ? "by time" : "by distance"; }

std::string words(const Nearest& rule) { return "nearest " + by(rule.measure); }

std::string words(const SeveralNearest& rule) {
    const std::string needed = rule.needed > 1 ? std::to_string(rule.needed) + " needed" : "";
    if (rule.count == 0)
        return "nearest " + by(rule.measure) + " (all ranked" + (needed.empty() ? ")" : ", " + needed + ")");
    return std::to_string(rule.count) + " nearest " + by(rule.measure) + (needed.empty() ? "" : " (" + needed + ")");
}

std::string words(const AsCapacityAllows& rule) {
    std::string s = "nearest " + by(rule.measure) + " as capacity allows (";
    if (rule.fill == AsCapacityAllows::Fill::least_travel)
        s += "least travel";
    else
        s += rule.by_priority ? "priority first" : "nearest first";
    return s + (rule.split ? ", split)" : ")");
}

std::string words(const AsRecorded&) { return "recorded one"; }

std::string words(const WholeZones& rule) { return "nearest " + by(rule.measure) + " for each zone as a whole"; }

std::string words(const ByPairs& rule) {
    const std::string value = rule.smallest ? "smallest value" : "largest value";
    const std::string otherwise = rule.else_nearest ? ", else the nearest " + by(rule.measure) + "," : "";
    if (rule.of_value == Share::percent(100)) return "one with the " + value + otherwise;
    return "best by " + describe(rule.of_value) + " " + value + " and the rest nearness " + by(rule.measure) +
           otherwise;
}

}  // namespace

std::string describe(const Serving& serving) {
    return std::visit([](const auto& rule) { return words(rule); }, serving);
}

}  // namespace otoro::service
