#pragma once
/// \file
/// A file of lines to roads.
#include <map>
#include <string>
#include <vector>

#include "files/source.h"
#include "roads/lines.h"

namespace otoro::files {

/// Which field says what. An empty name means that there is none.
struct RoadFields {
    std::string road_class;
    std::string name;
    std::string speed;       ///< km/h, or mph if the field's name or its text says so; the speed as travelled
    std::string one_way;
    bool operator==(const RoadFields&) const = default;
};

RoadFields guess_road_fields(const std::vector<std::string>& fields);

struct RoadChoice {
    LayerChoice layer;
    std::optional<RoadFields> fields;  ///< none: guessed by name
};

struct RoadsRead {
    roads::Lines lines;
    std::int64_t records = 0;                           ///< records in the file
    std::vector<Flaw> flaws;
    RoadFields fields;                                  ///< as used
    std::map<std::string, std::int64_t> unknown_words;  ///< class and one-way words that mean nothing here, and how often each was met
};

/// Reads any of the line formats, OpenStreetMap included. A line of several parts becomes several lines.
/// Bad lines are set aside. \throws InputError if nothing usable is left; Stopped
RoadsRead read_roads(const RoadChoice& choice, const Task& task);

/// OpenStreetMap roads, split where they share nodes, with the defaults of docs/semantics.md. Called by read_roads.
RoadsRead read_osm_roads(const std::string& path, const Task& task);

}  // namespace otoro::files
