#pragma once
/// \file
/// Who is served by whom.
///
/// \par Problem
/// Every demand place goes to the site in use that is nearest by the question's measure, along the roads the profile
/// may use, in the direction the question states. Ties go to the site that is first in file order.
///
/// \par Method
/// Places and sites are attached to their nearest roads. One search from all sites in use labels every node with its
/// nearest site; a place in the middle of a road then takes the better of the road's two ends and of the sites on that
/// same road. Partial roads cost in proportion to their length, rounded so that the two parts add up to the whole.
///
/// \par Cost
/// One search over the network, whatever the number of sites; then a constant amount a place. Exact; the same on any
/// number of threads.
///
/// \par Example
/// \code
///   const auto ready = prepare(inputs, question, nullptr, task);
///   const Outcome outcome = answer(*ready, Plan{}, task);
///   judge(outcome, *question.standard).met;
/// \endcode
#include <memory>
#include <optional>
#include <span>
#include <string>
#include <vector>

#include "geo/task.h"
#include "places/joined.h"
#include "places/pair_values.h"
#include "places/zones.h"
#include "reach/ground.h"
#include "roads/network.h"
#include "routing/choice.h"
#include "routing/turn_costs.h"
#include "service/link_access.h"
#include "service/outcome.h"
#include "service/way.h"

namespace otoro::service {

/// What a question is asked of.
struct Inputs {
    std::shared_ptr<const roads::Network> network;
    places::Demand demand;
    places::Sites sites;
    std::shared_ptr<const places::ZoneSet> zones = nullptr;     ///< by which answers are summed up; null: by none
    std::shared_ptr<const places::PairValues> pairs = nullptr;  ///< of \ref ByPairs; null: there are none
    bool operator==(const Inputs&) const = default;
};

/// Everything about a question that does not depend on the plan, worked out once and shared by all plans.
struct Ready {
    Inputs inputs;
    Question question;
    std::shared_ptr<const CostedNetwork> costed;
    std::shared_ptr<const routing::Graph> graph;
    std::shared_ptr<const std::vector<std::optional<places::Attachment>>> attached;  ///< one a demand place
    std::shared_ptr<const LinkAccess> access;
    std::string digest;  ///< of what the question is asked of
    /// Links that places may be attached to, one a set.
    std::vector<std::shared_ptr<const std::vector<bool>>> for_demand, for_sites;
    std::shared_ptr<const std::vector<std::uint32_t>> zone_of;  ///< one a demand place; null where there are no zones
    /// Ground as places of the first demand set would be attached; its strips are found when they are asked for.
    std::shared_ptr<const reach::Ground> ground;
    std::shared_ptr<const Prepared> prepared;  ///< for sweeping; null until `prepare_searches`
};

/// The attach limit of a demand set: its own, or the question's.
inline Millimetres attach_limit_of(const Ready& ready, std::size_t part) {
    return ready.inputs.demand.sets()[part]->attaching.rule.limit.value_or(ready.question.attach_limit);
}

/// Makes a question ready. Parts of `earlier` that still hold are taken over. \throws Stopped
std::shared_ptr<const Ready> prepare(const Inputs& inputs, const Question& question, const Ready* earlier,
                                     const Task& task);

/// Where orders of networks are kept between sittings. Whatever it gives is checked before it is used.
class OrderStore {
public:
    virtual ~OrderStore() = default;
    /// An order kept under this name, or nothing.
    virtual std::optional<std::vector<std::uint32_t>> find(const std::string& name) = 0;
    virtual void keep(const std::string& name, std::span<const std::uint32_t> positions) = 0;
};

/// Prepares searches, so that answers take milliseconds on a county: orders the network (seconds; once a network, kept
/// in `store`) and customises it. Answers are the same with and without. \param earlier parts of it that still hold are
/// taken over \param least_nodes smaller networks do not gain by it \returns null for those \throws Stopped
std::shared_ptr<const Prepared> prepare_searches(const Ready& ready, const Prepared* earlier, OrderStore* store,
                                                 const Task& task,
                                                 std::uint32_t least_nodes = routing::kWorthPreparing);

/// Puts an order that was found without a store into one.
void keep_order(const Ready& ready, const Prepared& prepared, OrderStore& store);

/// Answers it under a plan. \throws Stopped
Outcome answer(const Ready& ready, const Plan& plan, const Task& task);

/// The site that each place's record names, of those in use; nothing where it names none.
std::vector<std::optional<SiteIndex>> recorded_sites(const Ready& ready, const std::vector<SiteOutcome>& sites);

/// What would be true of a place at this spot.
struct SpotReading {
    PlaceOutcome outcome;
    std::optional<places::Attachment> attachment;
    /// The drawn way between spot and site, both off-road legs included, in the direction of travel; empty without a
    /// route.
    std::vector<geo::LonLat> route;
    std::vector<WayStep> steps;  ///< the same turn by turn
    Millimetres straight;        ///< straight line to the site
};

/// Reads any spot as a place of the question's first demand set, from the labels that the outcome already has. \pre
/// `outcome` is an answer of `ready` and has its traces
SpotReading read_spot(const Ready& ready, const Outcome& outcome, geo::LonLat spot);
/// The same for a demand place, as it was attached: its answer, and the way from the site that serves it.
SpotReading read_place(const Ready& ready, const Outcome& outcome, DemandIndex place);
/// The way between a place and any site, and what that takes.
SpotReading read_journey(const Ready& ready, const Outcome& outcome, DemandIndex place, SiteIndex site);

}  // namespace otoro::service
