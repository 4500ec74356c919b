#pragma once
/// \file
/// What questions of reach share: the search behind them, and roads cut where limits fall.
#include <functional>
#include <span>

#include "reach/rings.h"
#include "service/reach.h"
#include "service/searching.h"

namespace otoro::service {

/// Roads that may be reached, ascending, and where they are.
struct Touched {
    std::vector<LinkId> links;
    std::vector<geo::Box> boxes;  ///< around those that lie together
};

/// Searches from sites of a question under a plan, up to the limits of a request.
class ReachSearch {
public:
    /// \throws InputError for a request that says nothing; Stopped
    ReachSearch(std::shared_ptr<const Ready> ready, const Plan& plan, const ReachRequest& request, const Task& task);

    [[nodiscard]] const Ready& ready() const { return *ready_; }
    [[nodiscard]] const std::vector<SiteOutcome>& sites() const { return sites_; }
    /// Sites that are asked about: in use, attached, picked, and with a limit.
    [[nodiscard]] std::span<const std::uint32_t> picks() const { return picks_; }
    [[nodiscard]] ValueOf measure() const { return measure_; }
    /// Where sites have limits of their own, values are what is beyond them and the only limit is 0.
    [[nodiscard]] reach::Bands bands() const;
    [[nodiscard]] Amount longest_limit() const;
    /// \pre `request` outlives this. \throws Stopped
    [[nodiscard]] std::shared_ptr<const SiteValues> values(std::span<const std::uint32_t> sites, bool merged,
                                                           const Task& task) const;
    [[nodiscard]] Touched touched(const SiteValues& values) const;
    [[nodiscard]] const ReachRequest& request() const { return request_; }

private:
    /// A limit, no farther than the question serves at all.
    [[nodiscard]] double held(double limit) const;
    [[nodiscard]] std::shared_ptr<const SiteValues> own_limit_values(std::vector<SiteOutcome> these, bool merged,
                                                                     const Task& task) const;
    std::shared_ptr<const Ready> ready_;
    const ReachRequest& request_;
    std::shared_ptr<const CostedNetwork> costed_;
    Searching searching_;
    std::vector<SiteOutcome> sites_;
    std::vector<std::uint32_t> picks_;
    ValueOf measure_ = ValueOf::time;
};

/// Calls `use` with the boundaries of all ground, and again with those drawn anew where the first contradict each
/// other. \throws what `use` throws; Stopped
template <class Use>
auto with_boundaries(const reach::Ground& ground, const reach::AlongRoads& along, const reach::Bands& bands,
                     std::span<const geo::Box> boxes, const Task& task, Use&& use) {
    try {
        return use(ground.boundaries(along, bands, boxes, task));
    } catch (const reach::UnsoundBoundaries&) {
        for (int attempt = 0;; ++attempt) try {
                return use(ground.boundaries_anew(along, bands, boxes, attempt, task));
            } catch (const reach::UnsoundBoundaries&) {
                if (attempt + 1 == reach::Ground::kAttempts) throw;
            }
    }
}

/// Boxes of some kilometres around all of these roads.
std::vector<geo::Box> boxes_around(const roads::Network& network, std::span<const LinkId> links);

/// A part of a road within one band.
struct RoadPart {
    LinkId link;
    double from = 0, to = 0;  ///< millimetres along the link
    double value_from = 0, value_to = 0;
    std::uint32_t owner = 0;
    std::uint32_t band = 0;
};
void each_part(const reach::AlongRoads& values, std::span<const LinkId> links, const reach::Bands& bands,
               const std::function<void(const RoadPart&)>& use);

/// Ground by how many sites reach it where every spot has a leg of its own off the road, which takes each site's value
/// over the limit at another distance: the areas of single sites laid over one another. Entry `k` is what exactly
/// `k + 1` sites reach. \param one a request with one limit, or with limits of their own \throws Stopped
std::vector<reach::Polygons> ground_counted(const std::shared_ptr<const Ready>& ready, const Plan& plan,
                                            const ReachRequest& one, std::span<const std::uint32_t> picks,
                                            const Task& task);

/// How many sites reach each point of every road within the only limit of a request: the owner of a stretch is their
/// number.
class SitesCounted final : public reach::AlongRoads {
public:
    /// One search a site. \throws Stopped
    SitesCounted(const ReachSearch& search, const Task& task);
    void stretches(LinkId link, std::vector<reach::Stretch>& out) const override;
    [[nodiscard]] std::optional<reach::PointValue> at(LinkId link, Millimetres offset) const override;
    [[nodiscard]] const Touched& touched() const { return touched_; }
    /// How many sites reach each demand place.
    [[nodiscard]] std::span<const std::uint32_t> at_places() const { return at_place_; }

private:
    /// Parts of all sites together, as where one begins (+1) or ends (-1).
    struct Change {
        LinkId link;
        double at;
        int by;
    };
    [[nodiscard]] std::span<const Change> of(LinkId link) const;
    const roads::Network& network_;
    Touched touched_;
    std::vector<Change> changes_;         ///< by link, then by place; ends before beginnings
    std::vector<std::uint32_t> at_node_;  ///< how many sites reach each node
    std::vector<std::uint32_t> at_place_;
};

}  // namespace otoro::service
