#pragma once
/// \file
/// An answer summed up by zone or by group.
#include <optional>
#include <string>
#include <vector>

#include "service/assign.h"

namespace otoro::service {

/// What may stand on a row.
enum class SummedBy : std::uint8_t { zone, group };

/// One zone or group: how many places, how much weight, and what became of it. Every place is in exactly one row, so
/// that rows add up to the whole.
struct BreakdownRow {
    std::string name;
    bool none = false;         ///< places in no zone, or of no group
    std::uint32_t number = 0;  ///< tells rows of one name apart
    Tally all;
    Tally served;
    Tally inside;  ///< served within the limit asked for; all that is served if none was
    std::optional<double> mean_minutes, mean_kilometres;  ///< weighted, of those served; nothing if no weight is
    bool operator==(const BreakdownRow&) const;
};

/// Rows in the zones' file order, or in the order in which groups are first met; those in none last, and only if there
/// are any. Empty if the question has no zones, or its demand no groups. Linear in the places.
std::vector<BreakdownRow> sum_up(const Ready& ready, const Outcome& outcome, SummedBy by,
                                 const std::optional<Amount>& limit);

/// The rows without their sums: their names by number, empty for places in none, and the number of each place's row.
struct BreakdownRows {
    std::vector<std::string> names;
    std::vector<std::uint32_t> of_place;
};
/// Nothing in it if there is nothing to sum up by. Linear in the places.
BreakdownRows breakdown_rows(const Ready& ready, SummedBy by);

/// The numbers of the places that a row is the sum of, ascending. Linear: of many rows `breakdown_rows` tells at once.
std::vector<std::uint32_t> places_of(const Ready& ready, SummedBy by, const BreakdownRow& row);

/// Whether there is anything to sum up by.
bool can_sum_up(const Ready& ready, SummedBy by);

/// The name of the zone that a place is in, or of its group; empty for none.
std::string name_of(const Ready& ready, DemandIndex place, SummedBy by);

}  // namespace otoro::service
