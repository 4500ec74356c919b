#pragma once
/// \file
/// Objects that an editor's file of OpenStreetMap data keeps although they are deleted.
#include <cstdint>
#include <string>
#include <unordered_set>

namespace otoro::files {

/// Ids of what an editor has marked with `action='delete'` until it is sent to the server. Such files are OpenStreetMap
/// XML with an attribute of the editors' own, which libosmium does not read.
struct MarkedDeleted {
    std::unordered_set<std::int64_t> nodes, ways, relations;
    [[nodiscard]] bool empty() const { return nodes.empty() && ways.empty() && relations.empty(); }
};

/// Looks through a file of XML, plain or in gzip; nothing is marked in any other. Linear, at the speed of the disk.
MarkedDeleted marked_deleted(const std::string& path);

}  // namespace otoro::files
