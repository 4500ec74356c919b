#pragma once
/// \file
/// Rows with or without a shape, written to any format that holds them, by the ending of the path.
///
/// With shapes: GeoPackage, GeoJSON (RFC 7946), FlatGeobuf and shapefile. Longitudes are between -180 and 180; what
/// crosses the 180th meridian is cut there. As tables alone: CSV (RFC 4180), ODS, XLSX and SQLite; a sheet holds
/// 1,048,575 rows below its headings, more are refused. A shapefile has names of ten letters, texts of 254 bytes and no
/// empty numbers: columns have a short name for it, longer texts are cut, and what is empty is written as -1 (no number
/// here is less than 0); the remark that `write_table` returns says so.
#include <functional>
#include <string>
#include <vector>

#include "files/answer_table.h"
#include "reach/rings.h"

namespace otoro::files {

enum class ShapeKind : std::uint8_t {
    areas,
    lines,  ///< of several parts each
    line,   ///< of one part
    points,
    none,
};

struct ShapeColumn {
    std::string name;        ///< says the unit
    std::string short_name;  ///< at most ten letters
    AnswerColumn::Kind kind = AnswerColumn::Kind::text;
    int decimals = -1;  ///< in CSV; -1: as many as the number needs
};

struct ShapeRow {
    std::vector<Cell> cells;                      ///< one a column
    std::vector<reach::Polygon> polygons;         ///< of areas
    std::vector<std::vector<geo::LonLat>> lines;  ///< of lines; of `line` the first; of points its first vertex
};

struct ShapeTable {
    std::string name;         ///< of the layer
    std::string description;  ///< the question's sentence
    ShapeKind kind = ShapeKind::areas;
    std::vector<ShapeColumn> columns;
    bool indexed = true;  ///< by place, in a GeoPackage; takes two thirds of the time of writing
    /// Calls what it is given with every row.
    std::function<void(const std::function<void(const ShapeRow&)>&)> each_row;
};

/// The endings of the formats that hold shapes; of those that hold a table alone; and of both.
const std::vector<std::string>& shape_endings();
const std::vector<std::string>& table_endings();
const std::vector<std::string>& all_endings();
/// Whether the format of this path holds shapes.
bool holds_shapes(const std::string& path);

/// Columns of an answer with their short names; names that are there already, case aside, are numbered.
std::vector<ShapeColumn> shape_columns(const std::vector<AnswerColumn>& columns);

/// A text as a CSV cell (RFC 4180), quoted where needed, always UTF-8. A text that begins like a formula, with `=`,
/// `+`, `-`, `@`, a tab or a return, and is no number, gets an apostrophe before it, so that a spreadsheet shows it and
/// does not work it out; the apostrophe is taken off again where Otoro reads a table.
std::string csv_cell(const std::string& text);
/// A row with its end; numbers as their columns want them.
std::string csv_row(const std::vector<ShapeColumn>& columns, const std::vector<Cell>& cells);
/// Every row ends so.
inline constexpr const char* kCsvEnd = "\r\n";

/// Atomic; of a shapefile each of its files is. \returns what the format could not hold, in a sentence; empty if it
/// held everything \throws InputError for another ending, or if the file cannot be written; Stopped
std::string write_table(const ShapeTable& table, const std::string& path, const Task& task);

}  // namespace otoro::files
