#pragma once
/// \file
/// Handing an answer out.
///
/// One row a demand place, in file order: `demand_id, rank, site_id, status, minutes, metres, off_road_m, straight_m,
/// weight, within_standard, note, site_name`. What there is none of stays empty: a place that is not served has no
/// rank, site, minutes or metres. `minutes` has five decimals and `metres` three, enough for the exact millisecond and
/// millimetre. `note` says in words why a place is not served.
#include <functional>
#include <optional>
#include <string>

#include "files/answer_table.h"
#include "files/shape_table.h"
#include "service/assign.h"
#include "service/reassign.h"

namespace otoro::files {

enum class AnswerShape : std::uint8_t {
    points,    ///< each place where it stands
    lines,     ///< each served place joined to its site by a straight line; the unserved have no shape
    journeys,  ///< the same along the roads
};

/// Columns of the planner's own that go with the places: those of the file they were read from.
struct BesidePlaces {
    std::vector<AnswerColumn> columns;
    /// The cells of a place; asked for in the order of places.
    std::function<std::vector<Cell>(DemandIndex)> of;
};

/// How an answer is written.
struct AnswerWanted {
    AnswerShape shape = AnswerShape::points;
    WhichPlaces which = {};                   ///< if not all
    bool ids_only = false;                    ///< `demand_id, site_id`, and the rank where there are several
    std::optional<BesidePlaces> beside = {};  ///< names that are taken are numbered
    std::vector<std::optional<SiteIndex>> reassigned = {};  ///< of each place; none: no such column
};

/// The answer as rows with shapes. What it is given must outlive it.
ShapeTable answer_shapes(const service::Ready& ready, const service::Outcome& outcome, const AnswerWanted& wanted,
                         const Task& task);

/// By the ending of `path` (`all_endings`). Atomic. GeoPackage and GeoJSON carry the question's sentence as the layer's
/// description. A GeoPackage gets no index by place, which would take two thirds of the time; a program that draws it
/// can add one. \returns what the format could not hold; empty if it held everything \throws InputError for another
/// ending, or if the file cannot be written; Stopped
std::string write_answer(const service::Ready& ready, const service::Outcome& outcome, const std::string& path,
                         const AnswerWanted& wanted, const Task& task);
inline std::string write_answer(const service::Ready& ready, const service::Outcome& outcome, const std::string& path,
                                AnswerShape shape, const Task& task) {
    return write_answer(ready, outcome, path, AnswerWanted{shape}, task);
}

/// One row a site: `site_id, name, state, in_use, places, load, capacity, worst_minutes, least,
/// short_of_least`, as CSV. Atomic.
void write_loads(const service::Outcome& outcome, const std::string& path);

/// One row a flow: `from_site_id, from_name, to_site_id, to_name, places, weight, saved_minutes` or `saved_km`, as CSV.
std::string flows_csv(const service::Outcome& outcome, const service::Reassignment& moved);

/// Weight times cost, in minutes or kilometres for a weight of one: "12.5 min".
std::string travel_words(const service::Outcome& outcome, Wide travel);

/// The answer in plain words: sentence, verdict, counts by status, statistics. `otoro-batch` prints it.
std::string summary(const service::Ready& ready, const service::Outcome& outcome);

}  // namespace otoro::files
