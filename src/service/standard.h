#pragma once
/// \file
/// What a committee asks for: a share of the weight within a limit, and whatever else must hold besides.
///
/// \par Meaning
/// *90 % within 8 min*: at least so much of the whole weight is served within the limit. *... by 2*: is served, and the
/// second site, in the order of the question's measure, is within the limit too. *... for Northside*: of the weight of
/// that zone, or of that group. Where a zone or group has no weight nobody is there, and nothing is met or missed; a
/// step that names none there is, is not met. A standard is met when each of its steps is. Nothing is rounded before
/// that is decided.
#include <cstdint>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "geo/amounts.h"
#include "geo/units.h"

namespace otoro::service {

/// What a step is about besides its share and its limit: it can be judged by a curve of this.
struct StepScope {
    std::uint32_t needed = 1;  ///< so many sites within the limit
    std::string part = {};     ///< name of the zone or group it is for; empty: for all
    bool operator==(const StepScope&) const = default;
    auto operator<=>(const StepScope&) const = default;
    /// Whether the curve of the whole answer tells.
    [[nodiscard]] bool of_all() const { return needed == 1 && part.empty(); }
};

struct Step {
    Share share = Share::percent(90);
    Amount limit = Millis::minutes(8);
    StepScope scope = {};
    bool operator==(const Step&) const = default;
};

/// A limit and the share of weight that must be inside it, and further steps.
struct Standard {
    Share share = Share::percent(90);
    Amount limit = Millis::minutes(8);
    std::vector<Step> further = {};
    bool operator==(const Standard&) const = default;

    [[nodiscard]] Step first() const { return {share, limit, {}}; }
};
/// As many steps as a standard may have beside its first; files with more are refused.
inline constexpr std::size_t kMostFurtherSteps = 20;

/// The scopes of its steps that the curve of the whole answer does not tell, each once, ascending.
std::vector<StepScope> scopes(const std::optional<Standard>& standard);

/// Its limit in the measure's own unit, ms or mm; and such a value as files show it, in minutes or metres.
std::int64_t limit_of(const Step& step);
double shown(const Step& step, std::int64_t value);

/// How much weight of `all` must be inside for a share of it, rounded up to the weight's own unit.
Weight wanted_of(Weight all, Share share);

/// `50% within 5min, 90% within 8min by 2, all within 20min for Northside`. \throws InputError that names what does not
/// parse
std::vector<Step> parse_steps(std::string_view text);
/// The same as one standard: the first step that is for all, by one site, leads. \throws InputError if there is none
Standard parse_standard(std::string_view text);
/// As it is written: `90 % within 8 min by 2 for Northside`.
std::string describe(const Step& step);

}  // namespace otoro::service
