#pragma once
/// \file
/// Everything that was assumed about the roads and places, in a page of plain words.
#include <string>

#include "service/findings.h"

namespace otoro::service {

/// Plain text in short lines: where the roads came from, how they join, which gaps were closed, who may use what and
/// how fast, what turning and climbing cost, how places are attached, counts of everything, and the open and accepted
/// findings. The same text for reading, copying, exporting and reports.
std::string network_summary(const Study& study, const Checked& checked);

/// How a traveller moves, in sentences: classes with speeds, one-way, slope, turning.
std::string describe(const travel::Profile& profile);

}  // namespace otoro::service
