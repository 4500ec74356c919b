#pragma once
/// \file
/// What the commands of reach have in common: from where, how far.
#include "batch/options.h"
#include "service/reach.h"

namespace otoro::batch {

/// As any asking, but that spots may stand for the sites, and demand may be left out.
struct ReachAsking : Asking {
    std::vector<std::string> spots;

    /// \param uses of `QuestionOptions`
    void add_to(Options& app, unsigned uses = QuestionOptions::kOwnLimits);
    /// Reads everything and makes it ready; without demand there are no places. \throws Misuse if neither
    /// sites nor spots are named
    [[nodiscard]] Ready ready_to_ask(Console& console, const Task& task) const;
};

/// The limits of a request.
struct LimitOptions {
    std::vector<std::string> limits;
    std::string every, up_to, field;

    void add_to(Options& app);
    /// \throws Misuse, InputError
    void fill(service::ReachRequest& request, const service::Ready& ready, const service::Plan& plan) const;
};

/// From one step to the last. \throws Misuse for steps without end, or more than can be told apart
std::vector<Amount> steps(const std::string& option, const Amount& by, const Amount& last);

/// "-9.51,46.2". \throws InputError
geo::LonLat parse_position(const std::string& text);

}  // namespace otoro::batch
