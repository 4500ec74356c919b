#pragma once
/// \file
/// A standard as a committee words it: several steps at once, for all or for a zone or group each, with the second or
/// third site to arrive.
///
/// \par Meaning
/// *90 % within 8 min*: at least so much of the whole weight has a site within the limit. *... by 2*: has two sites
/// within it. *... for Northside*: of the weight of that zone, or of that group. A step whose part has no weight is
/// met. A standard is met when each of its steps is. Nothing is rounded before that is decided.
#include <string>
#include <string_view>
#include <vector>

#include "service/breakdown.h"

namespace otoro::service {

struct Step {
    Share share = Share::percent(90);
    Amount limit = Millis::minutes(8);
    std::uint32_t needed = 1;  ///< so many sites within the limit
    std::string part = {};     ///< name of the zone or group it is for; empty: for all
    bool operator==(const Step&) const = default;
};

/// `50% within 5min, 90% within 8min by 2, all within 20min for Northside`. \throws InputError that names what does not
/// parse
std::vector<Step> parse_steps(std::string_view text);
/// As it is written: `90 % within 8 min by 2 for Northside`.
std::string describe(const Step& step);

/// How one step fares with some places.
struct StepResult {
    Tally all, inside;
    Share share;  ///< of weight, rounded down
    bool met = true;
    Weight missed;  ///< how much more weight would have to be inside; nothing if it is met
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
    /// Before anybody sets out: taking the call, turning out. Counts against limits in time.
    Millis before;
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
