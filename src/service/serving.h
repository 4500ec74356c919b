#pragma once
/// \file
/// The rule by which a question finds the site of a place.
///
/// Each rule is a type of its own, and one alternative of `Serving`. What belongs to it stands in one place for each
/// concern: its words in `serving.cpp`, how it is answered in a `serve_*.cpp`, how it is kept in
/// `files/serving_json.cpp`, its options in `batch/serving_options.cpp`, its editor in
/// `desktop/blanks/serving_blank.cpp`. The compiler names what is missing: each of them visits all alternatives.
#include <cstdint>
#include <string>
#include <variant>

#include "geo/amounts.h"
#include "routing/graph.h"

namespace otoro::service {

/// Every place goes to the site that is nearest by a measure; ties go to the site first in file order.
struct Nearest {
    routing::Measure measure = routing::Measure::time;
    bool operator==(const Nearest&) const = default;
};

/// Every place has its few nearest sites, ranked, and counts by the farthest of those that it needs: with 2 needed it
/// is within the standard when at least two sites are, as backup cover asks.
struct SeveralNearest {
    routing::Measure measure = routing::Measure::time;
    std::uint32_t count = 2;   ///< how many are listed; 0: all that can be reached, within the limit if there is one
    std::uint32_t needed = 1;  ///< at most `count`, where that is not 0
    bool operator==(const SeveralNearest&) const = default;
};

inline constexpr std::uint32_t kMostNearest = 1000;
/// Whether its numbers make sense.
inline bool is_sound(const SeveralNearest& rule) {
    return rule.count <= kMostNearest && rule.needed >= 1 && rule.needed <= kMostNearest &&
           (rule.count == 0 || rule.needed <= rule.count);
}

/// Sites have room for so much weight, their capacity; those without one have room for all. With the least travel,
/// sites whose record says how much they should serve at least are filled that far, so long as nobody stays without
/// room.
struct AsCapacityAllows {
    enum class Fill : std::uint8_t {
        least_travel,   ///< as little travel in all as there can be
        nearest_first,  ///< by the demand's priority, then by cost: who comes first is first served
    };
    routing::Measure measure = routing::Measure::time;
    Fill fill = Fill::least_travel;
    bool split = false;        ///< whether part of a place may go elsewhere
    bool by_priority = false;  ///< of *nearest first*: the demand's priorities count
    bool operator==(const AsCapacityAllows&) const = default;
};

/// Every place goes to the site that its record names.
struct AsRecorded {
    routing::Measure measure = routing::Measure::time;
    bool operator==(const AsRecorded&) const = default;
};

/// Every zone goes as one, to the site with the least weighted mean of those that reach most of its weight. Places in
/// no zone go to their nearest.
struct WholeZones {
    routing::Measure measure = routing::Measure::time;
    bool operator==(const WholeZones&) const = default;
};

/// A table of pairs decides: every place goes to the site with which it has the largest value, or the smallest, of
/// those that there is a way to. Ties go to the nearer site, then to the first in file order. A pair without a value
/// never comes first: a place that has none with any site in use is `not_recorded`, or goes to its nearest.
struct ByPairs {
    routing::Measure measure = routing::Measure::time;
    bool smallest = false;  ///< whether the smallest value is the best
    /// How much the value counts; the rest is nearness. Of each place the best value counts 1 and others their part of
    /// it (of the smallest, the other way round), and nearness likewise.
    Share of_value = Share::percent(100);
    /// Whether places go to their nearest site that have no value with any that there is a way to.
    bool else_nearest = false;
    bool operator==(const ByPairs&) const = default;
};

using Serving = std::variant<Nearest, SeveralNearest, AsCapacityAllows, AsRecorded, WholeZones, ByPairs>;

/// By which measure sites are near.
inline routing::Measure measure_of(const Serving& serving) {
    return std::visit([](const auto& rule) { return rule.measure; }, serving);
}

/// As the sentence says it: "nearest by time".
std::string describe(const Serving& serving);

}  // namespace otoro::service
