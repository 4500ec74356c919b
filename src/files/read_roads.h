#pragma once
/// \file
/// A file of lines to roads.
#include <array>
#include <map>
#include <string>
#include <vector>

#include "files/source.h"
#include "roads/lines.h"

namespace otoro::files {

/// Which field says what. An empty name means that there is none. Where a number is meant, a formula may stand instead (expression.h), after an equals sign:
/// `= length_m / 1000 / kmh * 60`.
struct RoadFields {
    std::string road_class = {};
    std::string name = {};
    std::string speed = {};         ///< km/h, or mph if the field's name or its text says so; the speed as travelled
    std::string one_way = {};
    std::string minutes = {};       ///< time from end to end as drawn, and back too if `minutes_back` is not named
    std::string minutes_back = {};  ///< against the drawn direction
    std::string length = {};        ///< metres, or what the field's name says (km, mi, ft); only compared with the drawn line
    std::string level = {};         ///< a whole number; or a field called bridge or tunnel
    std::map<std::string, std::string> words = {};  ///< what class and one-way words of the file mean here: `B Road` is `secondary`
    bool operator==(const RoadFields&) const = default;
    [[nodiscard]] std::array<std::string, 8> columns() const { return {road_class, name, speed, one_way, minutes, minutes_back, length, level}; }
};

RoadFields guess_road_fields(const std::vector<std::string>& fields);

struct RoadChoice {
    LayerChoice layer;
    std::optional<RoadFields> fields;  ///< none: guessed by name
    std::vector<LayerChoice> more = {};  ///< further layers, read after the first with the same fields and merged with it
};

struct RoadsRead {
    roads::Lines lines;
    std::int64_t records = 0;                           ///< records in the file
    FlawList flaws;
    RoadFields fields;                                  ///< as used
    std::int64_t left_out = 0;                          ///< records that the filter did not want
    std::string crs;                                    ///< how coordinates were read
    std::map<std::string, std::int64_t> unknown_words;  ///< class and one-way words that mean nothing here, and how often each was met
};

/// Reads any of the line formats, OpenStreetMap included; several layers are merged (not OpenStreetMap with others). A line of several parts becomes several lines.
/// Bad lines are set aside. \throws InputError if nothing usable is left; Stopped
RoadsRead read_roads(const RoadChoice& choice, const Task& task);

/// OpenStreetMap roads, split where they share nodes, with the defaults of docs/semantics.md. Called by read_roads.
RoadsRead read_osm_roads(const std::string& path, const Task& task);

}  // namespace otoro::files
