#pragma once
/// \file
/// What the check and the telling of findings share. Not for others.
#include "service/findings.h"

namespace otoro::service {

/// Findings that do not depend on which pieces are joined: flaws of reading, ids, weights, stacked and misplaced
/// places, unreal and one-way roads.
std::vector<Finding> standing_findings(const Study& study, const Checked& checked, const Task& task);

/// Looks up how the weightiest pieces that are cut off could be joined.
void add_joins(const Study& study, Checked& checked);

/// After piece `gone` went into `stays`: of what is known of both, the narrowest join that leads elsewhere stays.
void keep_joins(Checked& checked, std::uint32_t stays, std::uint32_t gone);

}  // namespace otoro::service
