#pragma once
/// \file
/// Questions and plans as JSON, for the study file and for `otoro-batch`.
#include <cstdint>
#include <limits>
#include <nlohmann/json_fwd.hpp>
#include <type_traits>

#include "service/plan.h"
#include "service/question.h"
#include "service/study.h"

namespace otoro::files {

nlohmann::json to_json(const service::Question& question);
nlohmann::json to_json(const service::Plan& plan);
nlohmann::json to_json(const service::Origin& origin);
nlohmann::json to_json(const roads::Preparation& preparation);
nlohmann::json to_json(const places::Attaching& attaching);
nlohmann::json to_json(const travel::Profile& profile);
nlohmann::json to_json(const service::Route& route);
/// \throws InputError (without a file name) if something is missing, of the wrong kind or out of range
service::Question question_from(const nlohmann::json& json);
service::Plan plan_from(const nlohmann::json& json);
service::Origin origin_from(const nlohmann::json& json);
roads::Preparation preparation_from(const nlohmann::json& json, std::uint32_t lines);
places::Attaching attaching_from(const nlohmann::json& json);
travel::Profile profile_from(const nlohmann::json& json);
service::Route route_from(const nlohmann::json& json);

/// A whole number between two others. \throws InputError for anything else: a fraction, a word, a number that no
/// integer holds
std::int64_t whole_number(const nlohmann::json& json, std::int64_t least, std::int64_t most);
template <class T>
T whole_number(const nlohmann::json& json) {
    constexpr bool kWide = sizeof(T) == sizeof(std::int64_t);
    return static_cast<T>(whole_number(
        json, kWide ? INT64_MIN : std::int64_t{std::numeric_limits<std::conditional_t<kWide, int, T>>::min()},
        kWide ? INT64_MAX : std::int64_t{std::numeric_limits<std::conditional_t<kWide, int, T>>::max()}));
}

}  // namespace otoro::files
