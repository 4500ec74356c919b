#pragma once
/// \file
/// The settings of a study, each a row of its table. Not for others.
#include <nlohmann/json_fwd.hpp>
#include <string>
#include <vector>

#include "service/study.h"

namespace otoro::files {

/// By key: all that is saved but the layers.
nlohmann::json settings_of(const service::Study& study);

/// Members that settings hold and that this version would not save again: "questions[1].timetable".
/// \param known what it would save of the same study
std::vector<std::string> unknown_in(const nlohmann::json& held, const nlohmann::json& known);

}  // namespace otoro::files
