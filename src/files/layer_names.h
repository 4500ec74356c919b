#pragma once
/// \file
/// How the fields of a layer are called, which of them give places, and where shapes stand as text. Used by source.cpp
/// alone.
#include <ogr_core.h>

#include <cstdint>
#include <memory>
#include <string>
#include <string_view>
#include <vector>

#include "files/source.h"

class GDALDataset;
class OGRFeature;
class OGRGeometry;
class OGRLayer;

namespace otoro::files {

/// The next record as GDAL gives it; null at the end.
std::unique_ptr<OGRFeature, void (*)(OGRFeature*)> next_of(OGRLayer& layer);

Shape shape_of(OGRwkbGeometryType type);

/// How a layer's fields are called, and what stands before its records.
struct Names {
    std::vector<std::string> all;
    int key = -1;               ///< which of them is the layer's key
    std::int64_t headings = 0;  ///< rows up to the headings, those included
    std::vector<int> shapes;    ///< columns in which shapes stand as well-known text
};

Names names_of(OGRLayer& layer, GDALDataset& dataset);

/// Whether a layer's records are rows of cells.
bool is_table(OGRLayer& layer, GDALDataset& dataset);
/// The first rows of a table, cell by cell.
std::vector<std::vector<std::string>> first_rows(OGRLayer& layer);
/// Well-known text, `SRID=4326;` before it or not, as a shape; null if it is none.
std::unique_ptr<OGRGeometry> shape_from(std::string_view text);

/// Two columns that give a place, by their names.
struct Pair {
    std::string x, y;
    bool degrees = false;  ///< certainly
    bool metres = false;   ///< certainly
    [[nodiscard]] bool whole() const { return !x.empty() && !y.empty(); }
};
/// All of a table, those in degrees first.
std::vector<Pair> pairs_of(const std::vector<std::string>& names);
/// The pair that fits the coordinate system best: of two, metres go with one in metres. \pre there is one
const Pair& best_of(const std::vector<Pair>& pairs, bool in_metres);

}  // namespace otoro::files
