#pragma once
/// \file
/// What was wrong with one record of a file.
#include <cstdint>
#include <string>

namespace otoro {

/// A record set aside, or kept with something put right. Nothing is dropped without one of these.
struct Flaw {
    std::string file;
    std::int64_t record = 0;  ///< number from 0
    std::string id;           ///< its id, where it has one
    std::string wrong;        ///< "its weight is empty; it counts as 0"
    bool set_aside = false;   ///< true: not part of the study; false: kept, as the text says
    bool operator==(const Flaw&) const = default;
};

}  // namespace otoro
