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

class RoadValues final : public reach::AlongRoads {
public:
    /// \param sites those that the labels are from, under the plan \param merged all sites are one owner \param shifts
    /// taken off the values of each site; empty: nothing
    RoadValues(std::shared_ptr<const Ready> ready, std::shared_ptr<const CostedNetwork> costed,
               std::vector<SiteOutcome> sites, std::shared_ptr<const Labels> labels, ValueOf value, bool merged,
               std::vector<double> shifts = {});

    void stretches(LinkId link, std::vector<reach::Stretch>& out) const override;
    [[nodiscard]] std::optional<reach::PointValue> at(LinkId link, Millimetres offset) const override;

    [[nodiscard]] const Ready& ready() const { return *ready_; }
    [[nodiscard]] const std::vector<SiteOutcome>& sites() const { return sites_; }
    [[nodiscard]] const Labels& labels() const { return *labels_; }
    [[nodiscard]] const CostedNetwork& costed() const { return *costed_; }

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
    std::vector<double> shifts_;
    bool value_is_cost_;
    bool merged_;
    std::optional<double> limit_;  ///< the question's, beyond which nothing is served
    bool limit_is_cost_ = false;
};

/// Those of an answer. \pre it has its traces
std::shared_ptr<const RoadValues> values_of(const std::shared_ptr<const Ready>& ready, const Outcome& outcome,
                                            ValueOf value);

/// The same from a spot alone, attached as a site of the question's first site set would be. Some milliseconds where
/// searches are prepared. \pre as above
std::shared_ptr<const RoadValues> values_from(const std::shared_ptr<const Ready>& ready, const Outcome& outcome,
                                              geo::LonLat spot, ValueOf value);

/// What a metre between a place and its road adds to a value under a question.
double per_metre_off_road(const Question& question, ValueOf value);

}  // namespace otoro::service
