#pragma once
/// \file
/// A table of pairs, each with a value.
#include <optional>
#include <string>

#include "files/source.h"
#include "places/pair_values.h"

namespace otoro::files {

/// Which field says what.
struct PairFields {
    std::string demand;  ///< id of the demand place
    std::string site;    ///< id of the site
    std::string value;
    bool operator==(const PairFields&) const = default;
};
/// What is not found by name is empty.
PairFields guess_pair_fields(const std::vector<std::string>& fields);

struct PairChoice {
    LayerChoice layer;
    std::optional<std::string> demand = {}, site = {}, value = {};  ///< none: guessed by name
};

struct PairsRead {
    places::PairValues pairs;  ///< in file order
    PairFields fields;         ///< as used
    FlawList flaws;
    std::int64_t left_out = 0;  ///< records that the filter did not want
    std::vector<std::string> remarks;
};

/// Every record with a usable value becomes a pair. One without, and a pair that stands there already, is set aside and
/// a flaw. \throws InputError if a field is neither named nor found, or no record is usable; Stopped
PairsRead read_pairs(const PairChoice& choice, const Task& task);

}  // namespace otoro::files
