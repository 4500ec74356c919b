#pragma once
/// \file
/// What it takes to serve something at any point of any road: a search's labels carried along the roads.
///
/// \par Problem
/// A table says what becomes of places. Areas of reach ask the same of every point of every road: where along it does a
/// limit fall, and where does one site's ground end and another's begin?
///
/// \par Method
/// Along a road without sites and closures there are two ways, one from each end, each rising evenly: the lower of the
/// two is taken. Where sites stand on a road or closures touch it, it is cut there, and between two cuts every way is
/// even again.
///
/// \par Exact
/// The same ways as `Searched` (access_legs.h) goes by, ties included; costs are not rounded to whole milliseconds
/// within a road, so that a limit may fall some centimetres elsewhere.
///
/// \par Cost
/// Some ten nanoseconds a road, a microsecond where there is something on it.
#include <memory>
#include <vector>

#include "reach/along_roads.h"
#include "service/access_legs.h"

namespace otoro::service {

/// Which of the two measures of a journey are the values.
enum class ValueOf : std::uint8_t { time, distance };

/// Values along all roads from sites of a question, and what becomes of its places by them.
class SiteValues : public reach::AlongRoads {
public:
    [[nodiscard]] virtual const Ready& ready() const = 0;
    [[nodiscard]] virtual const std::vector<SiteOutcome>& sites() const = 0;
    /// Roads on which a value may be at most this, ascending. \param graph that was searched
    [[nodiscard]] virtual std::vector<LinkId> touched(const routing::Graph& graph, double most) const = 0;
    [[nodiscard]] virtual PlaceOutcomes at_places() const = 0;
};

/// Nothing is reached.
class NoValues final : public SiteValues {
public:
    explicit NoValues(std::shared_ptr<const Ready> ready) : ready_(std::move(ready)) {}
    void stretches(LinkId, std::vector<reach::Stretch>& out) const override { out.clear(); }
    [[nodiscard]] std::optional<reach::PointValue> at(LinkId, Millimetres) const override { return std::nullopt; }
    [[nodiscard]] const Ready& ready() const override { return *ready_; }
    [[nodiscard]] const std::vector<SiteOutcome>& sites() const override { return sites_; }
    [[nodiscard]] std::vector<LinkId> touched(const routing::Graph&, double) const override { return {}; }
    [[nodiscard]] PlaceOutcomes at_places() const override { return PlaceOutcomes(ready_->inputs.demand.count()); }

private:
    std::shared_ptr<const Ready> ready_;
    std::vector<SiteOutcome> sites_;
};

class RoadValues final : public SiteValues {
public:
    /// \param sites those that the labels are from, under the plan \param merged all sites are one owner
    RoadValues(std::shared_ptr<const Ready> ready, std::shared_ptr<const CostedNetwork> costed,
               std::vector<SiteOutcome> sites, std::shared_ptr<const Labels> labels, ValueOf value, bool merged);

    void stretches(LinkId link, std::vector<reach::Stretch>& out) const override;
    [[nodiscard]] std::optional<reach::PointValue> at(LinkId link, Millimetres offset) const override;

    [[nodiscard]] const Ready& ready() const override { return *ready_; }
    [[nodiscard]] const std::vector<SiteOutcome>& sites() const override { return sites_; }
    [[nodiscard]] std::vector<LinkId> touched(const routing::Graph& graph, double most) const override;
    [[nodiscard]] PlaceOutcomes at_places() const override;

private:
    struct Way;
    void even(LinkId link, double from, double to, const std::vector<Way>& ways,
              std::vector<reach::Stretch>& out) const;
    void with_cuts(LinkId link, std::vector<reach::Stretch>& out) const;

    std::shared_ptr<const Ready> ready_;
    std::shared_ptr<const CostedNetwork> costed_;
    std::vector<SiteOutcome> sites_;
    SitesByLink on_link_;
    std::shared_ptr<const Labels> labels_;
    bool value_is_cost_;
    bool merged_;
    std::optional<double> limit_;  ///< the question's, beyond which nothing is served
    bool limit_is_cost_ = false;
};

/// Those of an answer: where sites have limits of their own, a search each. \pre it has its traces \throws InputError
/// where they cannot be told (own_limit_values.h); Stopped
std::shared_ptr<const SiteValues> values_of(const std::shared_ptr<const Ready>& ready, const Outcome& outcome,
                                            ValueOf value, const Task& task);

/// The same from a spot alone, attached as a site of the question's first site set would be. Some milliseconds where
/// searches are prepared. \pre as above
std::shared_ptr<const RoadValues> values_from(const std::shared_ptr<const Ready>& ready, const Outcome& outcome,
                                              geo::LonLat spot, ValueOf value);

/// What a metre between a place and its road adds to a value under a question.
double per_metre_off_road(const Question& question, ValueOf value);

}  // namespace otoro::service
