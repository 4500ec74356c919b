#include "files/source.h"

#include <cpl_conv.h>
#include <cpl_string.h>
#include <fmt/format.h>
#include <fmt/ranges.h>
#include <gdal_priv.h>
#include <ogr_spatialref.h>
#include <ogrsf_frmts.h>

#include <algorithm>
#include <array>
#include <cctype>
#include <cmath>
#include <filesystem>
#include <mutex>

#include "files/complaints.h"
#include "geo/amounts.h"
#include "geo/error.h"

namespace otoro::files {
namespace {

constexpr std::array<const char*, 7> kDrivers{"GPKG", "GeoJSON", "ESRI Shapefile", "FlatGeobuf", "GML", "CSV", nullptr};
constexpr const char* kFormats = "GeoPackage, GeoJSON, shapefile, FlatGeobuf, GML, CSV, or OpenStreetMap XML or PBF";

std::string lower(std::string s) {
    std::transform(s.begin(), s.end(), s.begin(), [](unsigned char c) { return static_cast<char>(std::tolower(c)); });
    return s;
}

Shape shape_of(OGRwkbGeometryType type) {
    switch (wkbFlatten(type)) {
        case wkbPoint:
        case wkbMultiPoint: return Shape::point;
        case wkbLineString:
        case wkbMultiLineString:
        case wkbCircularString:
        case wkbCompoundCurve:
        case wkbMultiCurve: return Shape::line;
        case wkbPolygon:
        case wkbMultiPolygon:
        case wkbCurvePolygon:
        case wkbMultiSurface: return Shape::polygon;
        case wkbNone: return Shape::none;
        default: return Shape::mixed;
    }
}

const char* noun(Shape s) {
    switch (s) {
        case Shape::point: return "points";
        case Shape::line: return "lines";
        case Shape::polygon: return "polygons";
        case Shape::mixed: return "mixed shapes";
        case Shape::none: return "no shapes";
    }
    return "";
}

[[noreturn]] void refuse(const std::string& path, std::string wrong, std::string remedy) {
    throw InputError({path, std::nullopt, std::move(wrong), std::move(remedy)});
}

std::unique_ptr<GDALDataset, void (*)(GDALDataset*)> open(const std::string& path) {
    prepare_gdal();
    namespace fs = std::filesystem;
    std::error_code error;
    const auto status = fs::status(path, error);
    if (!fs::exists(status)) refuse(path, "there is no such file", "Check the name and the folder");
    if (!fs::is_regular_file(status)) refuse(path, "it is not an ordinary file", "Name one of the files inside it");
    if (fs::file_size(path, error) == 0) refuse(path, "the file is empty", "Ask for it again, or export it again");
    if (const auto extension = lower(fs::path(path).extension().string()); extension == ".zip" || extension == ".kmz" || extension == ".gz")
        refuse(path, "it is an archive", "Unpack it and bring in the file inside");

    // An absolute path cannot be mistaken for one of GDAL's virtual file systems or for data given in the name itself.
    const std::string absolute = fs::absolute(path).string();
    const char* const options[] = {"KEEP_GEOM_COLUMNS=YES", "AUTODETECT_TYPE=NO", "EMPTY_STRING_AS_NULL=NO", nullptr};
    const char* const gml_options[] = {"WRITE_GFS=NO", "DOWNLOAD_SCHEMA=NO", "SKIP_RESOLVE_ELEMS=ALL", nullptr};
    const auto extension = lower(fs::path(path).extension().string());
    const bool csv = extension == ".csv" || extension == ".tsv" || extension == ".txt";
    const bool gml = extension == ".gml" || extension == ".xml";
    std::string opened_as = absolute;
    if (csv && extension != ".csv") opened_as = "CSV:" + absolute;
    Complaints complaints;
    auto* dataset = static_cast<GDALDataset*>(GDALDataset::Open(opened_as.c_str(), GDAL_OF_VECTOR | GDAL_OF_READONLY, kDrivers.data(),
                                                                csv ? options : gml ? gml_options : nullptr, nullptr));
    if (dataset == nullptr) {
        if (!complaints.first().empty()) refuse(path, fmt::format("it cannot be read ({})", complaints.first()), "It may be damaged or broken off; ask for it again, or export it again");
        refuse(path, "it is in no format that is read here", fmt::format("Bring in {}", kFormats));
    }
    return {dataset, [](GDALDataset* d) { GDALClose(d); }};
}

std::vector<std::string> field_names(OGRLayer& layer) {
    std::vector<std::string> out;
    auto* def = layer.GetLayerDefn();
    for (int i = 0; i < def->GetFieldCount(); ++i) out.emplace_back(def->GetFieldDefn(i)->GetNameRef());
    return out;
}

}  // namespace

void prepare_gdal() {
    static std::once_flag once;
    std::call_once(once, [] {
        CPLSetConfigOption("GDAL_PAM_ENABLED", "NO");
        CPLSetConfigOption("GDAL_DISABLE_READDIR_ON_OPEN", "NO");
        CPLSetConfigOption("GML_DOWNLOAD_SCHEMA", "NO");
        CPLSetConfigOption("GML_SKIP_RESOLVE_ELEMS", "ALL");
        CPLSetConfigOption("GML_GFS_TEMPLATE", "");
        CPLSetConfigOption("OGR_SQLITE_LIST_VIRTUAL_OGR", "NO");
        CPLSetConfigOption("PROJ_NETWORK", "OFF");
        CPLSetConfigOption("OGR_GEOJSON_MAX_OBJ_SIZE", "2000");
        CPLSetConfigOption("OGR_ENABLE_PARTIAL_REPROJECTION", "NO");
        GDALAllRegister();
    });
}

bool is_osm(const std::string& path) {
    const std::string p = lower(path);
    return p.ends_with(".osm") || p.ends_with(".pbf") || p.ends_with(".osm.gz") || p.ends_with(".osm.bz2");
}

std::string guess_field(const std::vector<std::string>& fields, std::initializer_list<const char*> names) {
    for (const char* wanted : names)
        for (const auto& f : fields)
            if (lower(f) == wanted) return f;
    return {};
}

FileInfo describe_file(const std::string& path) {
    if (is_osm(path)) {
        if (!std::filesystem::exists(path)) refuse(path, "there is no such file", "Check the name and the folder");
        return {"OpenStreetMap", {{"roads", Shape::line, -1, "WGS 84", {"highway", "name", "maxspeed", "oneway"}}}};
    }
    auto dataset = open(path);
    FileInfo info;
    info.format = dataset->GetDriver()->GetMetadataItem(GDAL_DMD_LONGNAME);
    for (auto* layer : dataset->GetLayers()) {
        LayerInfo l;
        l.name = layer->GetName();
        l.shape = shape_of(layer->GetGeomType());
        l.records = layer->GetFeatureCount();
        if (const auto* srs = layer->GetSpatialRef()) l.crs = srs->GetName() ? srs->GetName() : "";
        l.fields = field_names(*layer);
        info.layers.push_back(std::move(l));
    }
    if (info.layers.empty()) refuse(path, "there is no layer in it", "Export it again with its data");
    return info;
}

Source::Source(const LayerChoice& choice, Shape wanted)
    : choice_(choice), dataset_(open(choice.path)), transform_(nullptr, [](OGRCoordinateTransformation* t) { OGRCoordinateTransformation::DestroyCT(t); }) {
    std::vector<std::string> seen;
    for (auto* layer : dataset_->GetLayers()) {
        const Shape shape = shape_of(layer->GetGeomType());
        const bool table = std::string_view(dataset_->GetDriverName()) == "CSV";
        const bool fits = shape == wanted || shape == Shape::mixed || (table && wanted == Shape::point);
        seen.push_back(fmt::format("'{}' ({})", layer->GetName(), table ? "a table" : noun(shape)));
        if (layer_ != nullptr) continue;
        if (choice.layer.empty() ? fits : choice.layer == layer->GetName()) {
            layer_ = layer;
            if (!fits)
                fail(std::nullopt, fmt::format("layer '{}' has {} where {} are needed", layer->GetName(), table ? "a table" : noun(shape), noun(wanted)),
                     fmt::format("Choose a layer of {}", noun(wanted)));
        }
    }
    if (layer_ == nullptr && !choice.layer.empty())
        fail(std::nullopt, fmt::format("there is no layer '{}'", choice.layer), fmt::format("It has {}", fmt::join(seen, ", ")));
    if (layer_ == nullptr)
        fail(std::nullopt, fmt::format("it has no {}; it has {}", noun(wanted), seen.empty() ? "no layers" : fmt::format("{}", fmt::join(seen, ", "))),
             fmt::format("Bring in a file of {}", noun(wanted)));
    if (std::string_view(dataset_->GetDriverName()) == "CSV") {
        find_table_columns();
    } else {
        Complaints quiet;
        expected_ = layer_->GetFeatureCount();
        if (!quiet.first().empty()) fail(std::nullopt, fmt::format("it cannot be read ({})", quiet.first()), "It may be damaged; ask for it again, or export it again");
        if (expected_ == 0) fail(std::nullopt, fmt::format("layer '{}' is empty", layer_->GetName()), "Export it again with its records");
    }
    find_crs();
}

Source::~Source() = default;
Source::Source(Source&&) noexcept = default;

void Source::fail(std::optional<std::int64_t> record, std::string wrong, std::string remedy) const {
    throw InputError({choice_.path, record, std::move(wrong), std::move(remedy)});
}

std::vector<std::string> Source::fields() const { return field_names(*layer_); }

int Source::field(const std::string& name) const {
    const auto names = fields();
    for (std::size_t i = 0; i < names.size(); ++i)
        if (names[i] == name) return static_cast<int>(i);
    for (std::size_t i = 0; i < names.size(); ++i)
        if (lower(names[i]) == lower(name)) return static_cast<int>(i);
    return -1;
}

int Source::required_field(const std::string& name, const char* option) const {
    const int at = field(name);
    if (at < 0) fail(std::nullopt, fmt::format("there is no field '{}' for {}", name, option), fmt::format("It has {}", fmt::join(fields(), ", ")));
    return at;
}

void Source::find_table_columns() {
    const auto names = fields();
    std::string x = choice_.x_field;
    std::string y = choice_.y_field;
    if (x.empty()) x = guess_field(names, {"lon", "lng", "long", "longitude", "x", "easting", "east", "x_coord", "coord_x"});
    if (y.empty()) y = guess_field(names, {"lat", "latitude", "y", "northing", "north", "y_coord", "coord_y"});
    if (x.empty() || y.empty())
        fail(std::nullopt, "no columns for longitude and latitude, or x and y, were found by name", fmt::format("Name them; it has {}", fmt::join(names, ", ")));
    x_index_ = required_field(x, "x");
    y_index_ = required_field(y, "y");
}

void Source::find_crs() {
    OGRSpatialReference from;
    from.SetAxisMappingStrategy(OAMS_TRADITIONAL_GIS_ORDER);
    const OGRSpatialReference* own = layer_->GetSpatialRef();
    if (!choice_.crs.empty()) {
        Complaints quiet;
        const std::string code = choice_.crs;
        const bool plain_digits = !code.empty() && std::all_of(code.begin(), code.end(), [](unsigned char c) { return std::isdigit(c); });
        const bool epsg = plain_digits || lower(code).starts_with("epsg:");
        const auto digits = plain_digits ? code : epsg ? code.substr(5) : std::string();
        if (digits.empty() || digits.size() > 6 || !std::all_of(digits.begin(), digits.end(), [](unsigned char c) { return std::isdigit(c); }) ||
            from.importFromEPSG(std::stoi(digits)) != OGRERR_NONE)
            throw InputError({"", std::nullopt, fmt::format("'{}' is not a known coordinate system", code), "Give its EPSG code, such as EPSG:4326"});
    } else if (own != nullptr) {
        from = *own;
        from.SetAxisMappingStrategy(OAMS_TRADITIONAL_GIS_ORDER);
    } else {
        assumed_degrees_ = true;
        return;
    }
    OGRSpatialReference wgs84;
    wgs84.SetWellKnownGeogCS("WGS84");
    wgs84.SetAxisMappingStrategy(OAMS_TRADITIONAL_GIS_ORDER);
    if (from.IsSame(&wgs84)) return;
    Complaints complaints;
    transform_.reset(OGRCreateCoordinateTransformation(&from, &wgs84));
    if (!transform_)
        fail(std::nullopt, fmt::format("its coordinate system cannot be turned into longitude and latitude ({})", complaints.first()), "Give its EPSG code");
}

std::unique_ptr<OGRFeature, void (*)(OGRFeature*)> Source::next() {
    Complaints complaints;
    std::unique_ptr<OGRFeature, void (*)(OGRFeature*)> record(layer_->GetNextFeature(), [](OGRFeature* f) { OGRFeature::DestroyFeature(f); });
    constexpr const char* kBroken = "It may be damaged or broken off; ask for it again, or export it again";
    if (!record) {
        if (!complaints.first().empty()) fail(read_, fmt::format("it cannot be read further ({})", complaints.first()), kBroken);
        if (expected_ >= 0 && read_ < expected_) fail(read_, fmt::format("it says it has {} records but ends here", expected_), kBroken);
        return record;
    }
    if (!complaints.first().empty() && record->GetGeometryRef() == nullptr && !is_table())
        fail(read_, fmt::format("it cannot be read ({})", complaints.first()), kBroken);
    ++read_;
    return record;
}

bool Source::to_lon_lat(std::size_t count, double* x, double* y) {
    for (std::size_t i = 0; i < count; ++i)
        if (!std::isfinite(x[i]) || !std::isfinite(y[i])) return false;
    if (transform_) {
        Complaints quiet;
        if (!transform_->Transform(static_cast<int>(count), x, y)) return false;
    }
    for (std::size_t i = 0; i < count; ++i) {
        if (geo::on_the_globe({x[i], y[i]})) continue;
        if (off_globe_++ == 0) first_off_globe_ = {x[i], y[i]};
        return false;
    }
    ++on_globe_;
    return true;
}

void Source::check_units() const {
    if (!assumed_degrees_ || off_globe_ <= on_globe_) return;
    fail(std::nullopt, fmt::format("its coordinates, such as {:.1f}, {:.1f}, are not degrees and it names no coordinate system", first_off_globe_.lon, first_off_globe_.lat),
         "Give its EPSG code, such as EPSG:27700");
}

std::optional<geo::LonLat> Source::point(OGRFeature& record, std::string& wrong) {
    double x = 0;
    double y = 0;
    if (is_table()) {
        const std::string tx = text(record, x_index_);
        const std::string ty = text(record, y_index_);
        if (tx.empty() || ty.empty()) {
            wrong = "its coordinates are empty";
            return std::nullopt;
        }
        if (!parse_number(tx, x) || !parse_number(ty, y)) {
            wrong = fmt::format("its coordinates '{}', '{}' are not numbers", tx.substr(0, 40), ty.substr(0, 40));
            return std::nullopt;
        }
    } else {
        const OGRGeometry* g = record.GetGeometryRef();
        if (g == nullptr || g->IsEmpty()) {
            wrong = "it has no point";
            return std::nullopt;
        }
        const auto type = wkbFlatten(g->getGeometryType());
        if (type == wkbMultiPoint && g->toMultiPoint()->getNumGeometries() == 1) g = g->toMultiPoint()->getGeometryRef(0);
        if (wkbFlatten(g->getGeometryType()) != wkbPoint) {
            wrong = fmt::format("its shape is a {}, not a point", g->getGeometryName());
            return std::nullopt;
        }
        x = g->toPoint()->getX();
        y = g->toPoint()->getY();
    }
    const double given_x = x;
    const double given_y = y;
    if (!to_lon_lat(1, &x, &y)) {
        wrong = fmt::format("its coordinates ({}, {}) are not on the globe", given_x, given_y);
        return std::nullopt;
    }
    return geo::LonLat{x, y};
}

std::string as_utf8(std::string_view text) {
    std::string out(text);
    if (CPLIsUTF8(out.c_str(), static_cast<int>(out.size()))) return out;
    char* recoded = CPLRecode(out.c_str(), "CP1252", CPL_ENC_UTF8);
    out = recoded;
    CPLFree(recoded);
    return out;
}

std::string Source::text(OGRFeature& record, int field) {
    if (field < 0 || !record.IsFieldSetAndNotNull(field)) return {};
    return as_utf8(record.GetFieldAsString(field));
}

}  // namespace otoro::files
