#pragma once
/// \file
/// What hurts most: each open site's closing, and each road's, ranked by the cover that is lost.
///
/// \par Method
/// Sites: the question is answered without each. Roads: a road can cost no more cover than those within the limit whose
/// journeys go over its middle. In that order each road is closed there, in both directions, and the question answered
/// anew, until no other road can cost more than those found.
///
/// \par Exact
/// Each loss is that of the answer. Ties go to the site first in file order, to the road first in the network. Where
/// places do not choose alone (capacities, whole zones), more can be lost than those whose journeys go over a road:
/// then what is listed are the worst of the roads that are tried.
///
/// \par Cost
/// An answer a site; a search a site and a journey a place, and then an answer for each road that is tried.
#include <optional>
#include <vector>

#include "service/assign.h"

namespace otoro::service {

/// What is lost when one site, or one road, is closed.
struct Loss {
    Tally lost;                  ///< within the limit before, and no more; less those that came to be
    Verdict verdict;             ///< then
    std::optional<double> mean;  ///< of those served then, in the question's measure (ms or mm)
};
struct SiteLoss : Loss {
    SiteIndex site;
};
struct RoadLoss : Loss {
    LinkId link;
    geo::LonLat middle;
    Tally over_it;  ///< within the limit, their journeys going over its middle
};

/// Every site in use, the worst first. \throws Stopped
std::vector<SiteLoss> weakest_sites(const Ready& ready, const Outcome& outcome, const Standard& standard,
                                    const Task& task);

/// The `most` worst roads, the worst first; fewer if no more cost anything. \pre the outcome has its traces \throws
/// Stopped
std::vector<RoadLoss> weakest_roads(const Ready& ready, const Outcome& outcome, const Standard& standard,
                                    std::size_t most, const Task& task);

/// The road that most come over to a site.
struct BusiestRoad {
    SiteIndex site;
    LinkId link;
    geo::LonLat middle;
    Tally over_it;  ///< their journeys go over its middle
};
/// Of each of some sites, in their order; of equals the first road of the network. Sites that nobody comes to over the
/// middle of a road are left out. \param limit only who is within it counts; nothing: all that are served \pre the
/// outcome has its traces \throws Stopped
std::vector<BusiestRoad> busiest_roads(const Ready& ready, const Outcome& outcome, const std::vector<SiteIndex>& sites,
                                       const std::optional<Amount>& limit, const Task& task);

}  // namespace otoro::service
