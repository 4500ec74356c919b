#pragma once
/// \file
/// One search from one site, and the journeys that are read from it.
#include "service/access_legs.h"
#include "service/searching.h"

namespace otoro::service {

class SearchFromSite {
public:
    /// \param limit in the question's measure: what is farther need not be found \pre `outcome` has its traces; all
    /// must outlive this \throws Stopped
    SearchFromSite(const Ready& ready, const Outcome& outcome, const Searching& searching, SiteIndex site,
                   std::uint32_t limit, const Task& task);
    /// The journey of a place, as it was attached.
    [[nodiscard]] SpotReading read(DemandIndex place) const;
    /// Adds the roads over whose middle it goes.
    void middles_passed(DemandIndex place, std::vector<LinkId>& links) const;

private:
    const Ready& ready_;
    const Outcome& outcome_;
    Traces traces_;
    SitesByLink on_link_;
};

}  // namespace otoro::service
