#pragma once
/// \file
/// Areas and lines with their columns, written to any format that holds them.
///
/// GeoPackage, GeoJSON (RFC 7946), FlatGeobuf and shapefile, by the ending of the path. Longitudes are between -180 and
/// 180; what crosses the 180th meridian is cut there. A shapefile has names of ten letters, texts of 254 bytes and no
/// empty numbers: columns have a short name for it, longer texts are cut, and what is empty is written as -1 (no number
/// here is less than 0); the remark that `write_shapes` returns says so.
#include <functional>
#include <string>
#include <vector>

#include "files/answer_table.h"
#include "reach/rings.h"

namespace otoro::files {

enum class ShapeKind : std::uint8_t { areas, lines, points };

struct ShapeColumn {
    std::string name;        ///< says the unit
    std::string short_name;  ///< at most ten letters
    AnswerColumn::Kind kind = AnswerColumn::Kind::text;
};

struct ShapeRow {
    std::vector<Cell> cells;                      ///< one a column
    std::vector<reach::Polygon> polygons;         ///< of areas
    std::vector<std::vector<geo::LonLat>> lines;  ///< of lines; of points the first vertex of the first
};

struct ShapeTable {
    std::string name;         ///< of the layer
    std::string description;  ///< the question's sentence
    ShapeKind kind = ShapeKind::areas;
    std::vector<ShapeColumn> columns;
    /// Calls what it is given with every row.
    std::function<void(const std::function<void(const ShapeRow&)>&)> each_row;
};

/// The endings of the formats that it can write.
const std::vector<std::string>& shape_endings();

/// Atomic; of a shapefile each of its files is. \returns what the format could not hold, in a sentence; empty if it
/// held everything \throws InputError for another ending, or if the file cannot be written; Stopped
std::string write_shapes(const ShapeTable& table, const std::string& path, const Task& task);

}  // namespace otoro::files
