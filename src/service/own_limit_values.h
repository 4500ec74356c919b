#pragma once
/// \file
/// Values along the roads where no site serves beyond a limit of its own.
///
/// \par Problem
/// Beyond the nearest site's limit the next nearest serves whose own limit holds there. One search from all sites does
/// not tell: what is nearest hides who is farther and reaches on.
///
/// \par Method
/// One search a site, as far as its limit, and one from all that have none; along each road the lowest of what all of
/// them say. Off-road legs that count would take each site's value over its limit at another distance from the road;
/// several sites are refused then.
///
/// \par Cost
/// A search a site with a limit, and one more; 64 bytes a road for each of them that reaches it.
#include <memory>
#include <optional>
#include <span>
#include <vector>

#include "service/road_values.h"
#include "service/searching.h"

namespace otoro::service {

class OwnLimitValues final : public SiteValues {
public:
    struct Asked {
        std::shared_ptr<const Ready> ready;
        std::shared_ptr<const CostedNetwork> costed;
        std::vector<SiteOutcome> sites;
        std::vector<std::optional<Amount>> limits;  ///< one a site; nothing: it has none
        std::vector<double> shifts;                 ///< taken off the values of each site; empty: nothing
        ValueOf value = ValueOf::time;
        bool merged = false;  ///< all sites are one owner
    };
    /// Searches from those of the sites that are in use. \throws InputError where that cannot be told; Stopped
    OwnLimitValues(Asked asked, const Searching& searching, const Task& task);

    void stretches(LinkId link, std::vector<reach::Stretch>& out) const override;
    [[nodiscard]] std::optional<reach::PointValue> at(LinkId link, Millimetres offset) const override;
    [[nodiscard]] const Ready& ready() const override { return *asked_.ready; }
    [[nodiscard]] const std::vector<SiteOutcome>& sites() const override { return asked_.sites; }
    [[nodiscard]] std::vector<LinkId> touched(const routing::Graph& graph, double most) const override;
    [[nodiscard]] PlaceOutcomes at_places() const override { return places_; }

private:
    /// A part of a road that a site serves, and both measures at its ends.
    struct Part {
        LinkId link;
        std::uint32_t site;
        double from, to;
        double time_from, time_to, distance_from, distance_to;
    };
    struct AtNode {
        NodeId node;
        std::uint32_t site;
        double time, distance;
    };
    /// Of several that have no limit one search tells.
    void add_sites(std::span<const std::uint32_t> of, const Searching& searching, const Task& task);
    void add_places(const PlaceOutcomes& found);
    void add_nearest(const Searching& searching, const Task& task);
    [[nodiscard]] std::span<const Part> of(LinkId link) const;
    [[nodiscard]] bool is_by_time() const { return asked_.ready->question.measure() == routing::Measure::time; }
    [[nodiscard]] double value(std::uint32_t site, double time, double distance) const;
    [[nodiscard]] bool within_the_question(double time, double distance) const;

    Asked asked_;
    std::vector<Part> parts_;       ///< by link, then by site
    std::vector<AtNode> at_nodes_;  ///< of each node the nearest, ascending
    PlaceOutcomes places_;
};

/// Whether some site in use serves no farther than a limit of its own.
bool has_own_limits(const Ready& ready, const std::vector<SiteOutcome>& sites);

/// The values of all sites in use, each within the limit that its record gives. \throws as above
std::shared_ptr<const SiteValues> values_within_own_limits(std::shared_ptr<const Ready> ready,
                                                           std::shared_ptr<const CostedNetwork> costed,
                                                           std::vector<SiteOutcome> sites, ValueOf value,
                                                           const Searching& searching, const Task& task);

}  // namespace otoro::service
