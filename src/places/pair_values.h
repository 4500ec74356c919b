#pragma once
/// \file
/// Values of pairs of a demand place and a site: how often somebody goes there, what is spent there.
#include <cstdint>
#include <string>
#include <vector>

#include "geo/amounts.h"
#include "places/text_column.h"

namespace otoro::places {

/// Ids as they stand in the file: which places and sites they are is for a question to say. About 16 bytes a pair.
struct PairValues {
    std::string name;  ///< what the value is: the field that it was read from
    TextColumn demand, sites;
    std::vector<Weight> values;

    [[nodiscard]] std::uint32_t count() const { return static_cast<std::uint32_t>(values.size()); }
    [[nodiscard]] std::string digest() const;
    bool operator==(const PairValues&) const = default;
};

}  // namespace otoro::places
