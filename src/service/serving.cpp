#include "service/serving.h"

namespace otoro::service {
namespace {

std::string words(const Nearest& rule) {
    return rule.measure == routing::Measure::time ? "nearest by time" : "nearest by distance";
}

}  // namespace

routing::Measure measure_of(const Serving& serving) {
    return std::visit([](const auto& rule) { return rule.measure; }, serving);
}

std::string describe(const Serving& serving) {
    return std::visit([](const auto& rule) { return words(rule); }, serving);
}

}  // namespace otoro::service
