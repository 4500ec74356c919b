#pragma once
/// \file
/// A plan: a set of changes to today.
#include <optional>
#include <string>
#include <vector>

#include "places/joined.h"
#include "roads/closure.h"
#include "service/question.h"

namespace otoro::service {

enum class Change : std::uint8_t { open, close, move, add };

/// One change to one site, which is named by its set, its id, and, where ids repeat, its number among those of that id;
/// or, if the plan adds it, by its id among those added. That stays true when the set's file is read again.
struct SiteChange {
    Change change = Change::open;
    std::string site;                     ///< id of the site changed; of the new one for `add`
    std::optional<geo::LonLat> position;  ///< where to, for `move` and `add`
    /// Name of the site set; empty: whichever set of the question has the site, the first for `add`.
    std::string set = {};
    std::uint32_t nth = 1;  ///< which of the set's sites with this id, from 1
    bool added = false;     ///< the site is one that the plan adds
    bool operator==(const SiteChange&) const = default;

    /// Whether both are about one site.
    [[nodiscard]] bool same_site(const SiteChange& o) const {
        return set == o.set && site == o.site && nth == o.nth && is_added() == o.is_added();
    }
    [[nodiscard]] bool is_added() const { return added || change == Change::add; }
};

/// Changes in the order they were made; a later one wins. A plan with none is *Today*.
struct Plan {
    std::string name = "Today";
    std::vector<SiteChange> changes;
    std::vector<roads::Closure> closures;
    std::string note = {};  ///< what is to be known of it, in the planner's words or ours; changes no answer
    bool operator==(const Plan&) const = default;
    [[nodiscard]] bool is_today() const { return changes.empty() && closures.empty(); }
    /// The same but for the name and the note.
    [[nodiscard]] bool same_as(const Plan& o) const { return changes == o.changes && closures == o.closures; }
};

/// A site as it stands under a plan.
struct PlannedSite {
    places::Site site;
    bool in_use = false;                    ///< may serve
    bool changed = false;                   ///< differs from today
    std::size_t part = 0;                   ///< which of the question's site sets it is of
    std::string set = {};                   ///< name of that set
    std::uint32_t nth = 1;                  ///< which of its set's sites with this id, from 1
    bool added = false;                     ///< by the plan
    std::optional<geo::LonLat> today = {};  ///< where it stands without the plan; nothing for one that is added
};

/// A change of this site, named for good.
SiteChange change_of(const PlannedSite& site, Change change, std::optional<geo::LonLat> position = std::nullopt);

/// Whether a change changes a site of these sets, or adds one to them; else it says nothing under a question about
/// them.
bool applies(const SiteChange& change, const places::Sites& sites);

/// All sites under a plan, set by set in file order, new ones after all of them. The index into this list is the
/// SiteIndex of an outcome. A change of another set, or to a site that is not there, is passed over.
std::vector<PlannedSite> sites_under(const places::Sites& sites, const Plan& plan, SiteUse use);

/// What a plan does to the sites in the end, however often it changed its mind: one change a site at most of `open`,
/// `close`, `move` or `add` each, in the order of the sites; nothing for a site that ends as it is today.
std::vector<SiteChange> net_effect(const places::Sites& sites, const Plan& plan);

}  // namespace otoro::service
