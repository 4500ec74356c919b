#pragma once
/// \file
/// Turns that OpenStreetMap's relations forbid, as moves between the lines that its ways were cut into.
#include <cstdint>
#include <optional>
#include <string>
#include <vector>

#include "files/read_roads.h"
#include "geo/task.h"

namespace otoro::files {

/// A turn restriction by a relation: on coming from one of some ways, over a node or over ways, one may not (or may
/// only) go onto another.
struct OsmRestriction {
    std::int64_t relation = 0;  ///< its id
    std::int64_t record = 0;    ///< which of the file's relations it is, from 0
    std::vector<std::int64_t> from, to;
    std::optional<std::int64_t> via_node;
    std::vector<std::int64_t> via_ways;
    bool only = false, back = false;
};

/// Turns what relations forbid into forbidden moves between lines, and into forbidden paths over several. A relation
/// whose ways meet one another in so many places that ten million looks do not tell what it forbids is a flaw, and so
/// is every one after a thousand million looks in the file; a file that forbids more than roads can have is refused.
/// \param way_of_line by line of `out`, all of which are there
/// \param nodes the numbers of nodes, ascending; a place in it is what `named_ends` hold
/// \throws InputError; Stopped
void forbid_turns(const std::vector<OsmRestriction>& all, const std::vector<std::int64_t>& way_of_line,
                  const std::vector<std::int64_t>& nodes, const std::string& path, RoadsRead& out, const Task& task);

}  // namespace otoro::files
