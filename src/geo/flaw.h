#pragma once
/// \file
/// What was wrong with one record of a file.
#include <cstdint>
#include <optional>
#include <string>

namespace otoro {

/// What sort of thing is wrong, so that flaws of one sort can be counted, weighed and mended together.
enum class FlawKind : std::uint8_t { other, shape, location, id_missing, id_duplicate, weight, state, capacity, speed, length, word, restriction };

/// A record set aside, or kept with something put right. Nothing is dropped without one of these.
struct Flaw {
    std::string file;
    std::int64_t record = 0;  ///< number from 0
    std::string id;           ///< its id, where it has one
    std::string wrong;        ///< "its weight is empty; it counts as 0"
    bool set_aside = false;   ///< true: not part of the study; false: kept, as the text says
    FlawKind kind = FlawKind::other;
    std::optional<std::uint32_t> place;  ///< which place of the set it became, where it did
    bool operator==(const Flaw&) const = default;
};

}  // namespace otoro
