#pragma once
/// \file
/// A file of lines to roads.
#include <map>
#include <span>
#include <string>
#include <vector>

#include "files/road_columns.h"
#include "files/source.h"
#include "roads/lines.h"

namespace otoro::files {

struct RoadChoice {
    LayerChoice layer;
    std::optional<RoadFields> fields;  ///< none: guessed by name
    std::vector<LayerChoice> more =
        {};  ///< further layers, read after the first with the same fields and merged with it
};

/// A word that was met in a file.
struct WordMet {
    std::int64_t records = 0;
    double metres = 0;  ///< of their roads
};

struct RoadsRead {
    roads::Lines lines;
    std::int64_t records = 0;  ///< records in the file
    FlawList flaws;
    RoadFields fields;          ///< as used
    std::int64_t left_out = 0;  ///< records that the filter did not want
    std::string crs;            ///< how coordinates were read
    std::map<std::string, WordMet>
        unknown_classes;  ///< words for classes that mean nothing here; the empty one where a record gives none
    std::map<std::string, WordMet> unknown_one_ways;  ///< the same for one-way words
    std::map<std::string, std::int64_t>
        unknown_tags;  ///< OpenStreetMap tags that were not understood, `maxspeed=walk`, and how often each was met
    std::vector<std::string> remarks;  ///< what was taken in one of several ways
};

/// Beyond this latitude a degree of longitude is so short, and changes so quickly, that what is nearest cannot be told
/// in a flat frame: such lines are set aside.
inline constexpr double kFarthestNorth = 89;
inline constexpr const char* kNearPole =
    "it lies within 110 km of a pole, where the distances of this program do not hold";

/// Whether a line is longer than any road may be (`roads::kLongestLine`). Measures only what may be.
[[nodiscard]] bool too_long_for_a_road(std::span<const geo::LonLat> line);

/// Reads any of the line formats, OpenStreetMap included; several layers are merged (not OpenStreetMap with others). A
/// line of several parts becomes several lines. Bad lines are set aside. \throws InputError if nothing usable is left,
/// or if the choice names what this kind of file does not have; Stopped
RoadsRead read_roads(const RoadChoice& choice, const Task& task);

/// OpenStreetMap roads, split where they share nodes, with the defaults of docs/semantics.md. Called by read_roads.
RoadsRead read_osm_roads(const std::string& path, const Task& task);

}  // namespace otoro::files
