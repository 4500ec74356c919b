/// Everything that a study file keeps as JSON: questions, plans, profiles, preparations, attaching, origins.
#include <nlohmann/json.hpp>

#include "files/study_json.h"
#include "fuzz/fuzz.h"
#include "geo/error.h"

OTORO_FUZZ(text) {
    using namespace otoro;
    const auto j = nlohmann::json::parse(text, nullptr, false);
    if (j.is_discarded()) return;
    for (const auto read :
         {+[](const nlohmann::json& v) { (void)files::to_json(files::question_from(v)); },
          +[](const nlohmann::json& v) { (void)files::to_json(files::plan_from(v)); },
          +[](const nlohmann::json& v) { (void)files::to_json(files::profile_from(v)); },
          +[](const nlohmann::json& v) { (void)files::to_json(files::preparation_from(v, 1'000'000)); },
          +[](const nlohmann::json& v) { (void)files::to_json(files::attaching_from(v)); },
          +[](const nlohmann::json& v) { (void)files::to_json(files::origin_from(v)); }}) {
        try {
            read(j);
        } catch (const InputError&) {
        }
    }
}
