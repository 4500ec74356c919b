#pragma once
/// \file
/// What a rule of serving needs to be told by the data.
#include <optional>
#include <string>

#include "service/study.h"

namespace otoro::service {

/// Why a rule says nothing about some demand and sites, and what to do.
struct Missing {
    std::string wrong, to_do;
};

/// Nothing if the rule can be asked. A question without its demand or its sites is not judged.
std::optional<Missing> what_is_missing(const Serving& serving, const places::Demand& demand, const places::Sites& sites,
                                       const places::ZoneSet* zones, const places::PairValues* pairs);
/// The same of a study's question.
std::optional<Missing> what_is_missing(const Study& study, const Question& question);

}  // namespace otoro::service
