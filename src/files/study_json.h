#pragma once
/// \file
/// Questions and plans as JSON, for the study file and for `otoro-batch`.
#include <nlohmann/json_fwd.hpp>

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
/// \throws InputError (without a file name) if something is missing, of the wrong kind or out of range
service::Question question_from(const nlohmann::json& json);
service::Plan plan_from(const nlohmann::json& json);
service::Origin origin_from(const nlohmann::json& json);
roads::Preparation preparation_from(const nlohmann::json& json);
places::Attaching attaching_from(const nlohmann::json& json);
travel::Profile profile_from(const nlohmann::json& json);

}  // namespace otoro::files
