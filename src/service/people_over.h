#pragma once
/// \file
/// How many people come over which roads on their way.
///
/// \par Method
/// Somebody comes over a road whose middle lies on the journey between the place and the site that serves it.
///
/// \par Cost
/// A search a site, and a journey a place. The same on any number of threads.
#include <cstdint>
#include <optional>
#include <vector>

#include "service/assign.h"

namespace otoro::service {

/// Whose journeys are followed: of those that are served.
struct Journeyers {
    std::optional<Amount> limit = std::nullopt;    ///< only who is within it
    std::optional<SiteIndex> only = std::nullopt;  ///< only who is served by this site
};

/// Roads that count together: who comes over several of one group comes over it once.
struct RoadGroups {
    static constexpr std::uint32_t kNone = 0xffffffff;
    std::vector<std::uint32_t> of_link;  ///< one a link: its group, or `kNone`
    std::uint32_t count = 0;
};

struct PeopleOver {
    std::vector<Tally> of_group;
    Tally any;  ///< over any road that is in a group, each once
};

/// \pre the outcome is an answer of `ready` and has its traces \throws Stopped
PeopleOver people_over(const Ready& ready, const Outcome& outcome, const Journeyers& whose, const RoadGroups& groups,
                       const Task& task);

}  // namespace otoro::service
