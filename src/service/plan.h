#pragma once
/// \file
/// A plan: a set of changes to today.
#include <optional>
#include <string>
#include <vector>

#include "places/demand.h"
#include "roads/closure.h"
#include "service/question.h"

namespace otoro::service {

enum class Change : std::uint8_t { open, close, move, add };

/// One change to one site.
struct SiteChange {
    Change change = Change::open;
    std::string site;                     ///< id of the site changed; of the new one for `add`
    std::optional<geo::LonLat> position;  ///< where to, for `move` and `add`
    std::string set =
        {};  ///< name of the site set; empty (plans of earlier versions): whichever the question asks about
    bool operator==(const SiteChange&) const = default;
};

/// Changes in the order they were made; a later one wins. A plan with none is *Today*.
struct Plan {
    std::string name = "Today";
    std::vector<SiteChange> changes;
    std::vector<roads::Closure> closures;
    bool operator==(const Plan&) const = default;
    [[nodiscard]] bool is_today() const { return changes.empty() && closures.empty(); }
    /// The same but for the name.
    [[nodiscard]] bool same_as(const Plan& o) const { return changes == o.changes && closures == o.closures; }
};

/// A site as it stands under a plan.
struct PlannedSite {
    places::Site site;
    bool in_use = false;   ///< may serve
    bool changed = false;  ///< differs from today
};

/// Whether a change changes a site of this set, or adds one to it; else it says nothing under a question about the set.
bool applies(const SiteChange& change, const places::SiteSet& sites);

/// All sites under a plan, in file order, new ones after. The index into this list is the SiteIndex of an outcome.
/// A change of another set, or to an id that is not there, is passed over; where an id is there twice, the first is
/// meant.
std::vector<PlannedSite> sites_under(const places::SiteSet& sites, const Plan& plan, SiteUse use);

}  // namespace otoro::service
