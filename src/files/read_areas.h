#pragma once
/// \file
/// A file of polygons to zones, or to water.
#include <optional>
#include <string>
#include <vector>

#include "files/source.h"
#include "places/zones.h"

namespace otoro::files {

/// Which field says what; an empty name means that there is none.
struct ZoneFields {
    std::string id;
    std::string name;
    bool operator==(const ZoneFields&) const = default;
};
/// \param key the layer's key among the fields, taken as id where there is no other
ZoneFields guess_zone_fields(const std::vector<std::string>& fields, const std::string& key = {});

struct ZoneChoice {
    LayerChoice layer;
    std::optional<std::string> id = {};    ///< none: guessed by name; without one the records' numbers
    std::optional<std::string> name = {};  ///< none: guessed by name
};

struct AreasRead {
    places::ZoneSet zones;  ///< in file order
    ZoneFields fields;      ///< as used
    FlawList flaws;
    std::int64_t left_out = 0;  ///< records that the filter did not want
};

/// Every record with a polygon, or several, becomes a zone; any other is set aside and a flaw. \param what for
/// progress: `zones` \throws InputError if none of the records is a polygon that can be placed; Stopped
AreasRead read_areas(const ZoneChoice& choice, const std::string& what, const Task& task);

}  // namespace otoro::files
