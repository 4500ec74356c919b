#include "files/layer_names.h"

#include <fmt/format.h>
#include <gdal_priv.h>
#include <ogrsf_frmts.h>

#include <algorithm>
#include <array>
#include <cctype>

#include "files/complaints.h"
#include "files/open_file.h"
#include "files/table_text.h"
#include "geo/text.h"

namespace otoro::files {
namespace {

/// A field's name as it is compared: letters and digits alone, in lower case.
std::string bare(const std::string& name) {
    std::string out;
    for (const char c : name)
        if (std::isalnum(static_cast<unsigned char>(c)) != 0 || (static_cast<unsigned char>(c) & 0x80U) != 0)
            out += static_cast<char>(std::tolower(static_cast<unsigned char>(c)));
    return out;
}

/// Whether a text begins like well-known text, `SRID=4326;` before it or not.
bool is_shape_text(std::string_view text) {
    if (text.starts_with("SRID="))
        text.remove_prefix(
            std::min(text.size(), text.find(';') == std::string_view::npos ? text.size() : text.find(';') + 1));
    std::string word;
    for (const char c : text) {
        if (std::isalpha(static_cast<unsigned char>(c)) == 0) break;
        word += static_cast<char>(std::toupper(static_cast<unsigned char>(c)));
    }
    constexpr std::array<std::string_view, 6> kWords{"POINT",      "LINESTRING",      "POLYGON",
                                                     "MULTIPOINT", "MULTILINESTRING", "MULTIPOLYGON"};
    const auto fits = [&](std::string_view w) {
        return word == w || word == std::string(w) + "Z" || word == std::string(w) + "M" ||
               word == std::string(w) + "ZM";
    };
    return std::any_of(kWords.begin(), kWords.end(), fits) && text.find('(') != std::string_view::npos;
}

/// The key that a layer's records have besides their fields: a database's, or the `id` of GeoJSON's features, where
/// they have one of their own.
std::string key_of(OGRLayer& layer, GDALDataset& dataset) {
    if (const std::string column = layer.GetFIDColumn(); !column.empty()) return as_utf8(column);
    const std::string_view driver = dataset.GetDriverName();
    if (driver != "GeoJSON" && driver != "GeoJSONSeq") return {};
    layer.ResetReading();
    bool own = false;
    for (std::int64_t i = 0; i < 2 && !own; ++i)
        if (const auto record = next_of(layer)) own = record->GetFID() != i;
    layer.ResetReading();
    return own ? "id" : "";
}

}  // namespace

std::unique_ptr<OGRFeature, void (*)(OGRFeature*)> next_of(OGRLayer& layer) {
    return {layer.GetNextFeature(), [](OGRFeature* f) { OGRFeature::DestroyFeature(f); }};
}

Shape shape_of(OGRwkbGeometryType type) {
    switch (wkbFlatten(type)) {
        case wkbPoint:
        case wkbMultiPoint:
            return Shape::point;
        case wkbLineString:
        case wkbMultiLineString:
        case wkbCircularString:
        case wkbCompoundCurve:
        case wkbMultiCurve:
            return Shape::line;
        case wkbPolygon:
        case wkbMultiPolygon:
        case wkbCurvePolygon:
        case wkbMultiSurface:
            return Shape::polygon;
        case wkbNone:
            return Shape::none;
        default:
            return Shape::mixed;
    }
}

std::vector<std::vector<std::string>> first_rows(OGRLayer& layer) {
    std::vector<std::vector<std::string>> rows;
    layer.ResetReading();
    while (rows.size() < kRowsThatTell) {
        const auto record = next_of(layer);
        if (!record) break;
        rows.emplace_back();
        for (int i = 0; i < record->GetFieldCount(); ++i)
            rows.back().push_back(record->IsFieldSetAndNotNull(i) ? as_utf8(record->GetFieldAsString(i))
                                                                  : std::string());
    }
    layer.ResetReading();
    return rows;
}

bool is_table(OGRLayer& layer, GDALDataset& dataset) {
    return is_table_format(dataset) || wkbFlatten(layer.GetGeomType()) == wkbNone;
}

Names names_of(OGRLayer& layer, GDALDataset& dataset) {
    Names out;
    auto* def = layer.GetLayerDefn();
    for (int i = 0; i < def->GetFieldCount(); ++i) out.all.push_back(as_utf8(def->GetFieldDefn(i)->GetNameRef()));
    if (is_table(layer, dataset)) {
        const auto rows = first_rows(layer);
        if (is_spreadsheet(dataset)) {
            auto headings = find_headings(rows);
            headings.names.resize(std::min(headings.names.size(), out.all.size()));
            std::copy(headings.names.begin(), headings.names.end(), out.all.begin());
            // A spreadsheet is as wide as its widest row, however far below that is.
            for (std::size_t i = headings.names.size(); i < out.all.size(); ++i)
                out.all[i] = fmt::format("field_{}", i + 1);
            out.headings = headings.row ? static_cast<std::int64_t>(*headings.row) + 1 : 0;
        }
        for (std::size_t i = 0; i < out.all.size(); ++i) {
            const auto said = std::find_if(
                rows.begin() + static_cast<std::ptrdiff_t>(
                                   std::min<std::size_t>(rows.size(), static_cast<std::size_t>(out.headings))),
                rows.end(), [&](const auto& row) { return i < row.size() && !trimmed_text(row[i]).empty(); });
            if (said != rows.end() && is_shape_text((*said)[i])) out.shapes.push_back(static_cast<int>(i));
        }
    }
    for (auto& name : out.all) name = trimmed_text(name);
    if (const auto key = key_of(layer, dataset);
        !key.empty() &&
        std::none_of(out.all.begin(), out.all.end(), [&](const std::string& n) { return lower(n) == lower(key); })) {
        out.key = static_cast<int>(out.all.size());
        out.all.push_back(key);
    }
    return out;
}

std::vector<Pair> pairs_of(const std::vector<std::string>& names) {
    const Pair degrees{guess_field(names, {"lon", "lng", "long", "longitude"}), guess_field(names, {"lat", "latitude"}),
                       true, false};
    const Pair plain{guess_field(names, {"x", "x_coord", "coord_x", "xcoordinate"}),
                     guess_field(names, {"y", "y_coord", "coord_y", "ycoordinate"}), false, false};
    const Pair metres{guess_field(names, {"easting", "east", "eastings"}),
                      guess_field(names, {"northing", "north", "northings"}), false, true};
    std::vector<Pair> out;
    for (const auto& p : {degrees, plain, metres})
        if (p.whole()) out.push_back(p);
    return out;
}

std::unique_ptr<OGRGeometry> shape_from(std::string_view text) {
    if (const auto end = text.find(';'); text.starts_with("SRID=") && end != std::string_view::npos)
        text.remove_prefix(end + 1);
    const Complaints quiet;
    OGRGeometry* made = nullptr;
    if (OGRGeometryFactory::createFromWkt(std::string(text).c_str(), nullptr, &made) != OGRERR_NONE) {
        OGRGeometryFactory::destroyGeometry(made);
        return nullptr;
    }
    return std::unique_ptr<OGRGeometry>(made);
}

const Pair& best_of(const std::vector<Pair>& pairs, bool in_metres) {
    const auto fits = [&](const Pair& p) {
        return in_metres ? (p.metres ? 2 : p.degrees ? 0 : 1) : (p.degrees ? 2 : p.metres ? 0 : 1);
    };
    return *std::max_element(pairs.begin(), pairs.end(),
                             [&](const Pair& a, const Pair& b) { return fits(a) < fits(b); });
}

std::string guess_field(const std::vector<std::string>& fields, std::initializer_list<const char*> names) {
    for (const char* wanted : names)
        for (const auto& f : fields)
            if (bare(f) == bare(wanted)) return f;
    return {};
}

}  // namespace otoro::files
