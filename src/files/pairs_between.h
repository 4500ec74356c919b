#pragma once
/// \file
/// All pairs between two sets of points, or of a set with itself, made ready.
#include <memory>

#include "files/write_pairs.h"

namespace otoro::files {

struct PairsBetween {
    std::shared_ptr<const service::Ready> ready;
    PairNames names;
};

/// \param question how one travels, and the limit; its demand, sites and direction do not count \param begins where
/// journeys begin \param ends where they end; may be the same set \param for_nearest the nearest ends of each beginning
/// are wanted: then the ends are the sites \param earlier what it shares with the new is taken over; may be null
/// \throws Stopped
PairsBetween pairs_between(const std::shared_ptr<const roads::Network>& network, service::Question question,
                           const std::shared_ptr<const places::SiteSet>& begins,
                           const std::shared_ptr<const places::SiteSet>& ends, bool for_nearest,
                           const service::Ready* earlier, const Task& task);

/// How a site is called at the end of a pair.
PairEnd end_of(const places::Site& site);

}  // namespace otoro::files
