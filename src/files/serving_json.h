#pragma once
/// \file
/// Rules of serving as JSON.
#include <nlohmann/json_fwd.hpp>

#include "service/serving.h"

namespace otoro::files {

nlohmann::json to_json(const service::Serving& serving);
/// \throws InputError (without a file name) for a rule that is not known; nlohmann's own errors for what is missing
service::Serving serving_from(const nlohmann::json& json);

/// The measure's word in every file: `time`, `distance`.
const char* word(routing::Measure measure);
routing::Measure measure_from(const std::string& word);

}  // namespace otoro::files
