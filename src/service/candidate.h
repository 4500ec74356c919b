#pragma once
/// \file
/// What one more site would change, while the mouse moves.
///
/// \par Problem
/// Given the answer under a plan, which places would a further site serve better, and what would the share be?
///
/// \par Method
/// A search from the new site that goes on only from where it is nearer than what is there already (and within the
/// limit, if there is one): it looks at the new site's own catchment and its rim, and at nothing else. Only places on
/// roads it touched are judged again.
///
/// \par Exact
/// Places and shares are those of asking again with the site added, to the unit; ties go to the site first in file
/// order, as everywhere.
///
/// \par Cost
/// Getting ready: linear in places and links, once an answer. A site: its catchment's nodes times their logarithm, and
/// its places: on a county of half a million places a few milliseconds.
#include <memory>
#include <vector>

#include "service/assign.h"

namespace otoro::service {

/// Tries sites out against one answer. Not for two threads at once.
class Candidates {
public:
    /// \pre `base` is an answer of `ready` and has its traces
    Candidates(std::shared_ptr<const Ready> ready, std::shared_ptr<const Outcome> base);
    ~Candidates();
    Candidates(Candidates&&) noexcept;
    Candidates& operator=(Candidates&&) noexcept;

    struct Changed {
        DemandIndex place;
        PlaceOutcome outcome;  ///< with the site; its `nearest` is the site's number
    };
    struct Effect {
        std::optional<places::Attachment>
            attachment;                ///< of the site; nothing if no road is near, and then nothing changes
        std::vector<Changed> changed;  ///< ascending
    };
    /// A site at a new spot; its number is one more than the last of the answer's. \param limit places farther than
    /// this from the new site need not be known \param part which of the question's site sets it would join
    [[nodiscard]] Effect add(geo::LonLat spot, const std::optional<Amount>& limit = std::nullopt, std::size_t part = 0);
    /// One of the answer's sites that is not in use.
    [[nodiscard]] Effect add(SiteIndex site, const std::optional<Amount>& limit = std::nullopt);

    /// The places that would be served by the site, or reached by it beyond the limit. O(places changed).
    [[nodiscard]] Tally tally(const Effect& effect) const;
    /// The verdict with an effect added. O(places changed); of steps for a zone or group linear once. A step that asks
    /// for a second site cannot be judged so: it is not known then, and not met. \pre the effect was found without a
    /// limit, or with one no less than that of any step
    [[nodiscard]] Verdict judge(const Effect& effect, const Standard& standard) const;

private:
    struct State;
    std::unique_ptr<State> state_;
};

/// The plan of an answer with one of its sites opened, or with a new one at a spot.
Plan plan_with(const Outcome& base, SiteIndex site);
Plan plan_with(const Outcome& base, geo::LonLat spot);

}  // namespace otoro::service
