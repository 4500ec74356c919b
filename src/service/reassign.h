#pragma once
/// \file
/// From the recorded site to a better one: who should move, what that saves, and how many move from where to where.
///
/// \par Cost
/// Linear in the places.
#include <optional>
#include <vector>

#include "service/assign.h"
#include "service/study.h"

namespace otoro::service {

/// Places that go from one site to another.
struct Flow {
    std::optional<SiteIndex> from;  ///< the recorded one; nothing where the record names none that is in use
    SiteIndex to;
    Tally tally;
    Wide saved = 0;  ///< weight times cost, in millionths times the question's measure (ms or mm)
};

struct Reassignment {
    /// Of each place, after it: the recorded one, or the nearest; nothing without either.
    std::vector<std::optional<SiteIndex>> sites;
    std::vector<Flow> flows;  ///< by site left, then by site come to; those from none last
    Tally moved;
    Wide saved = 0;  ///< of those whose way to the recorded site is known
};

/// Who is moved to the nearest site.
struct WhoMoves {
    /// Who saves more than this; nothing: whoever saves anything, and whoever has no recorded site in use.
    std::optional<Amount> saving_more_than;
    /// Only these places; nothing: all.
    std::optional<std::vector<DemandIndex>> places;
};

/// Moves places to their nearest sites. A place whose recorded site cannot be reached saves more than any amount.
/// \pre the outcome was asked as recorded
Reassignment reassign(const Ready& ready, const Outcome& outcome, const WhoMoves& who);

/// Those of a flow, ascending. Linear in the places.
std::vector<std::uint32_t> places_of(const Ready& ready, const Outcome& outcome, const Reassignment& moved,
                                     const Flow& flow);
/// All who move.
std::vector<std::uint32_t> who_moves(const Ready& ready, const Outcome& outcome, const Reassignment& moved);

/// The study with what would be on record afterwards: the demand that was asked about as further sets, and a question
/// about those, put in sight. Who does not move keeps the record there is. \pre `outcome` is an answer of `ready`, and
/// the study has the sets it was asked of
Study with_reassigned(Study study, const Ready& ready, const Outcome& outcome, const Reassignment& moved);

}  // namespace otoro::service
