#pragma once
/// \file
/// An answer judged by any steps, for all and by zone and group: who misses most, how far it is from breaking, and what
/// can be expected when sites are busy. What the steps mean: `standard.h`.
#include <string>
#include <vector>

#include "service/breakdown.h"

namespace otoro::service {

/// How one step fares with some places.
struct StepResult : StepVerdict {
    /// The least limit at which it would be met, in the step's measure; nothing if it never would.
    std::optional<std::int64_t> met_at;
    /// Weight that can be expected to find a site within the limit that is not busy.
    double expected = 0;
};

/// All places, or those of a zone or group.
struct PartResult {
    std::optional<SummedBy> by;  ///< nothing: all
    BreakdownRow row;            ///< its name, and what there is in it
    std::vector<StepResult> steps;
};

struct StepsAsked {
    std::vector<Step> steps;
    bool by_zone = false, by_group = false;
    std::optional<Share> busy;  ///< how much of the time each site is busy (Daskin 1983); nothing: nothing is expected
};

struct StepsResult {
    std::vector<Step> steps;
    std::vector<PartResult> parts;    ///< all places first, then zones, then groups
    std::vector<StepResult> of_step;  ///< each step judged by the places that it is for
    bool met = true;
    std::optional<std::size_t> first_missed;  ///< the first step that is not met
    /// Of that step the zone or group that lacks most, by its number in `parts`; nothing if no parts were asked for.
    std::optional<std::size_t> most_missed;
};

/// Judges an answer by steps. Linear in the places; where a second site is asked for, or what can be expected, a search
/// for several nearest besides. \pre the answer has its traces \throws InputError if a step names no zone or group;
/// Stopped
StepsResult judge_steps(const Ready& ready, const Outcome& outcome, const StepsAsked& asked, const Task& task);

/// "Not met: 84.1 % within 8 min, 90 % asked for; 1,203 residents more would have to be. Northside lacks most, 310."
std::string verdict_words(const StepsResult& result, const std::string& counted);

}  // namespace otoro::service
