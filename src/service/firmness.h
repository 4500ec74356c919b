#pragma once
/// \file
/// How firm a verdict is: when all speeds fall or rise, how much slower everybody may be, and what can be expected when
/// sites are busy.
#include <optional>
#include <vector>

#include "service/steps.h"

namespace otoro::service {

/// The verdict at another pace.
struct PacedVerdict {
    Share speed;  ///< of what speeds are
    Verdict verdict;
};

struct Firmness {
    std::vector<PacedVerdict> band;  ///< by speed, ascending; as it is among them
    /// How much farther (ms or mm, of the measure of the step's limit) everybody may be before a step breaks, of the
    /// step that breaks first; below 0: how much nearer everybody would have to be for all steps to be met. Nothing
    /// where no limit would do.
    std::optional<std::int64_t> slack;
    std::optional<Step> first_to_break;  ///< that step; of those missed the one that lacks most
    /// Weight that can be expected to find a site that is not busy within the first step's limit (Daskin 1983).
    std::optional<double> expected;
};

/// How much of the time each of some sites is busy, from calls and how long each takes: all their work shared alike.
/// \returns at most 99 %
Share busy_share(double calls_an_hour, Millis on_task, std::size_t sites);

/// An answer for each speed, and the few nearest sites of each place for what is expected. \param speeds shares of what
/// speeds are, ascending \param busy nothing: nothing is expected \pre the answer has its traces \throws Stopped
Firmness firmness(const std::shared_ptr<const Ready>& ready, const Outcome& outcome, const Standard& standard,
                  const std::vector<Share>& speeds, const std::optional<Share>& busy, const Task& task);

}  // namespace otoro::service
