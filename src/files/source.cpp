#include "files/source.h"

#include <cpl_conv.h>
#include <cpl_string.h>
#include <fmt/format.h>
#include <fmt/ranges.h>
#include <gdal_priv.h>
#include <ogr_spatialref.h>
#include <ogrsf_frmts.h>
#include <sqlite3.h>
#include <zip.h>

#include <algorithm>
#include <array>
#include <cctype>
#include <chrono>
#include <cmath>
#include <filesystem>
#include <mutex>

#include "files/complaints.h"
#include "files/content.h"
#include "files/database_file.h"
#include "geo/amounts.h"
#include "geo/error.h"

namespace otoro::files {
namespace {

constexpr std::array<const char*, 13> kDrivers{"GPKG", "GeoJSON", "ESRI Shapefile", "FlatGeobuf", "GML", "LIBKML", "KML", "GPX", "DXF", "CSV", "ODS", "XLSX", nullptr};
constexpr const char* kFormats = "GeoPackage, GeoJSON, shapefile, FlatGeobuf, GML, KML, GPX, DXF, CSV, ODS, XLSX, or OpenStreetMap XML or PBF";
constexpr std::uint64_t kLargestUnpacked = 1ULL << 30U;  // of a spreadsheet
constexpr std::size_t kRawSample = 64;

bool is_table_format(GDALDataset& dataset) {
    const std::string_view driver = dataset.GetDriverName();
    return driver == "CSV" || driver == "ODS" || driver == "XLSX";
}

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

using DatasetPtr = std::unique_ptr<GDALDataset, void (*)(GDALDataset*)>;

/// Refuses a spreadsheet that would unpack to more than is safe, without unpacking it.
void check_unpacked_size(const std::string& path) {
    int error = 0;
    zip_t* archive = zip_open(path.c_str(), ZIP_RDONLY, &error);
    if (archive == nullptr) refuse(path, "it is not a spreadsheet, or it is damaged", "Save it again, or export it as CSV");
    std::uint64_t total = 0;
    const zip_int64_t count = zip_get_num_entries(archive, 0);
    for (zip_int64_t i = 0; i < count; ++i) {
        zip_stat_t stat;
        if (zip_stat_index(archive, static_cast<zip_uint64_t>(i), 0, &stat) == 0 && (stat.valid & ZIP_STAT_SIZE) != 0) total += stat.size;
    }
    zip_discard(archive);
    if (total > kLargestUnpacked) refuse(path, fmt::format("it would unpack to {} MB", total >> 20U), "Export what is needed of it as CSV");
}

/// Opens with some drivers, or says why not.
DatasetPtr open_with(const std::string& shown, const std::string& name, const char* const* drivers, const char* const* options) {
    const Complaints complaints;
    auto* dataset = static_cast<GDALDataset*>(GDALDataset::Open(name.c_str(), GDAL_OF_VECTOR | GDAL_OF_READONLY, drivers, options, nullptr));
    if (dataset == nullptr) {
        if (!complaints.first().empty()) refuse(shown, fmt::format("it cannot be read ({})", complaints.first()), "It may be damaged or broken off; ask for it again, or export it again");
        refuse(shown, "it is in no format that is read here", fmt::format("Bring in {}", kFormats));
    }
    DatasetPtr opened(dataset, [](GDALDataset* d) { GDALClose(d); });
    // A driver may open what it could not read to the end.
    if (dataset->GetLayerCount() == 0 || !complaints.first().empty())
        refuse(shown, fmt::format("it cannot be read ({})", complaints.first().empty() ? "there is no layer in it" : complaints.first()), "It may be damaged or broken off; ask for it again, or export it again");
    return opened;
}

/// Where something secret stands in an address.
struct Secret {
    std::size_t begin, length;
};

/// Whether the name of an option of an address says that its value is secret.
bool is_secret_name(const std::string& name) {
    constexpr std::array<std::string_view, 8> kParts{"pass", "pwd", "token", "secret", "key", "signature", "credential", "auth"};
    return name == "sig" || std::any_of(kParts.begin(), kParts.end(), [&](std::string_view part) { return name.find(part) != std::string::npos; });
}

/// The password before the host. One with a bare slash, which has to be written as %2F, is found too: what stands behind the colon then is no port.
std::optional<Secret> password_in(const std::string& location) {
    const auto scheme = location.find("://");
    if (scheme == std::string::npos) return std::nullopt;
    const auto begin = scheme + 3;
    const auto path = std::min(location.find('/', begin), location.size());
    const auto colon = location.find(':', begin);
    auto at = location.rfind('@', path);
    if (at == std::string::npos || at < begin) {
        at = location.rfind('@');
        if (colon >= path || at == std::string::npos || at < path) return std::nullopt;
        const auto port = location.substr(colon + 1, path - colon - 1);
        if (std::all_of(port.begin(), port.end(), [](unsigned char c) { return std::isdigit(c) != 0; })) return std::nullopt;
    }
    if (colon >= at) return std::nullopt;
    return Secret{colon + 1, at - colon - 1};
}

/// The password of an address, and the values of what else is secret in it; in order, none inside another.
std::vector<Secret> secrets_of(const std::string& location) {
    std::vector<Secret> out;
    std::size_t from = 0;
    if (const auto password = password_in(location)) {
        out.push_back(*password);
        from = password->begin + password->length;
    }
    constexpr const char* kBetween = "?&;# ";
    for (auto at = location.find_first_of(kBetween, from); at != std::string::npos;) {
        const auto end = std::min(location.find_first_of(kBetween, at + 1), location.size());
        const auto equals = location.find('=', at);
        if (equals < end && is_secret_name(lower(location.substr(at + 1, equals - at - 1)))) out.push_back({equals + 1, end - equals - 1});
        at = end < location.size() ? end : std::string::npos;
    }
    std::erase_if(out, [](const Secret& s) { return s.length == 0; });
    return out;
}

constexpr std::string_view kHidden = "***";

/// A text about a location, without what is secret in it, also as written in an address.
std::string without_secrets(std::string text, const std::string& location) {
    for (const auto& s : secrets_of(location)) {
        const std::string secret = location.substr(s.begin, s.length);
        char* plain = CPLUnescapeString(secret.c_str(), nullptr, CPLES_URL);
        for (const std::string& form : {secret, std::string(plain)})
            for (auto at = text.find(form); !form.empty() && at != std::string::npos; at = text.find(form, at + kHidden.size())) text.replace(at, form.size(), kHidden);
        CPLFree(plain);
    }
    return text;
}

/// Stops a database that works too long, or when the task is stopped. SQLite asks it every so many steps.
class Patience {
public:
    Patience(GDALDataset& dataset, const Task& task) : task_(task) {
        database_ = static_cast<sqlite3*>(dataset.GetInternalHandle("SQLITE_HANDLE"));
        if (database_ == nullptr) return;
        sqlite3_limit(database_, SQLITE_LIMIT_LENGTH, kLongestValue);
        sqlite3_progress_handler(database_, kSteps, &Patience::ask, this);
    }
    ~Patience() {
        if (database_ != nullptr) sqlite3_progress_handler(database_, 0, nullptr, nullptr);
    }
    Patience(const Patience&) = delete;
    Patience& operator=(const Patience&) = delete;
    void until(std::optional<std::chrono::steady_clock::duration> time) {
        ran_out_ = false;
        end_ = time ? std::optional(std::chrono::steady_clock::now() + *time) : std::nullopt;
    }
    [[nodiscard]] bool ran_out() const { return ran_out_; }

private:
    static constexpr int kSteps = 50'000;                  // a millisecond or so
    static constexpr int kLongestValue = 256 * 1024 * 1024;
    static int ask(void* self) {
        auto& p = *static_cast<Patience*>(self);
        if (p.end_ && std::chrono::steady_clock::now() > *p.end_) p.ran_out_ = true;
        return p.ran_out_ || p.task_.stop_requested() ? 1 : 0;
    }
    sqlite3* database_ = nullptr;
    Task task_;
    std::optional<std::chrono::steady_clock::time_point> end_;
    bool ran_out_ = false;
};
constexpr std::chrono::seconds kCountingLimit{10};

/// How many records a layer has; nothing if that cannot be found out in reasonable time. \throws Stopped
std::optional<std::int64_t> count_of(OGRLayer& layer, Patience& patience, const Task& task) {
    patience.until(kCountingLimit);
    const std::int64_t n = layer.GetFeatureCount();
    const bool ran_out = patience.ran_out();
    patience.until(std::nullopt);
    task.check();
    return ran_out ? std::nullopt : std::optional(n);
}

/// A password that breaks the address is refused before a library reads, and repeats, parts of it as something else.
void check_password(const std::string& location, const char* ends_it) {
    const auto password = password_in(location);
    if (!password) return;
    const auto bare = location.substr(password->begin, password->length).find_first_of(ends_it);
    if (bare != std::string::npos)
        refuse(without_password(location), fmt::format("its password has a bare '{}', which ends it there", location[password->begin + bare]),
               "In an address write / as %2F, ? as %3F, # as %23 and @ as %40");
}

DatasetPtr open_database(const std::string& location) {
    check_password(location, "/@");
    // GDAL takes the connection address itself; the prefix names the driver.
    const std::array<const char*, 2> drivers{"PostgreSQL", nullptr};
    const std::array<const char*, 2> options{"LIST_ALL_TABLES=NO", nullptr};
    const Complaints complaints;
    auto* dataset = static_cast<GDALDataset*>(GDALDataset::Open(location.c_str(), GDAL_OF_VECTOR | GDAL_OF_READONLY, drivers.data(), options.data(), nullptr));
    if (dataset == nullptr)
        refuse(without_password(location), fmt::format("the database does not answer ({})", complaints.first().empty() ? "no reason given" : without_secrets(complaints.first(), location)), "Check the address, the name and the password");
    return {dataset, [](GDALDataset* d) { GDALClose(d); }};
}

DatasetPtr open_service(const std::string& location) {
    check_password(location, "/?#@");
    const std::string l = lower(location);
    const bool wfs = l.find("service=wfs") != std::string::npos;
    const std::array<const char*, 2> drivers{wfs ? "WFS" : "OAPIF", nullptr};
    const Complaints complaints;
    auto* dataset = static_cast<GDALDataset*>(GDALDataset::Open(((wfs ? "WFS:" : "OAPIF:") + location).c_str(), GDAL_OF_VECTOR | GDAL_OF_READONLY, drivers.data(), nullptr, nullptr));
    if (dataset == nullptr)
        refuse(without_password(location), fmt::format("the service does not answer as {} ({})", wfs ? "a WFS" : "OGC API Features", complaints.first().empty() ? "no reason given" : without_secrets(complaints.first(), location)),
               "Check the address; for a WFS it must say service=WFS");
    return {dataset, [](GDALDataset* d) { GDALClose(d); }};
}

/// An open file, and the name that it was opened by.
struct OpenFile {
    std::optional<ByRightName> name;
    DatasetPtr dataset;
};

OpenFile open(const std::string& path) {
    prepare_gdal();
    if (reach_of(path) == Reach::database) return {std::nullopt, open_database(path)};
    if (reach_of(path) == Reach::service) return {std::nullopt, open_service(path)};
    namespace fs = std::filesystem;
    std::error_code error;
    const auto status = fs::status(path, error);
    if (!fs::exists(status)) refuse(path, "there is no such file", "Check the name and the folder");
    if (!fs::is_regular_file(status)) refuse(path, "it is not an ordinary file", "Name one of the files inside it");
    if (fs::file_size(path, error) == 0) refuse(path, "the file is empty", "Ask for it again, or export it again");
    const Content content = content_of(path);
    const auto extension = lower(fs::path(path).extension().string());
    const bool spreadsheet = content == Content::xlsx || content == Content::ods || extension == ".ods" || extension == ".xlsx";
    if (spreadsheet) check_unpacked_size(path);
    const bool archive = !spreadsheet && (content == Content::archive || content == Content::gzip || content == Content::bzip2 || content == Content::xz);
    if (archive || extension == ".zip" || extension == ".kmz" || extension == ".gz") refuse(path, "it is an archive", "Unpack it and bring in the file inside");
    if (content == Content::tiff) refuse(path, "it is a picture or an elevation model, not a file of roads or places", "An elevation model is added from the menu of the roads");

    if (content == Content::geopackage)
        if (const auto made_up = DatabaseFile(path).made_up_catalogue(); !made_up.empty())
            refuse(path, fmt::format("'{}', which lists what is in it, is a view and no table", made_up.front()), "Export its layers into a new GeoPackage");

    // An absolute path cannot be mistaken for one of GDAL's virtual file systems or for data given in the name itself.
    ByRightName name(path, content);
    constexpr std::array<const char*, 4> kTable{"KEEP_GEOM_COLUMNS=YES", "AUTODETECT_TYPE=NO", "EMPTY_STRING_AS_NULL=NO", nullptr};
    constexpr std::array<const char*, 4> kGml{"WRITE_GFS=NO", "DOWNLOAD_SCHEMA=NO", "SKIP_RESOLVE_ELEMS=ALL", nullptr};
    const bool csv = content == Content::unknown && (extension == ".csv" || extension == ".tsv" || extension == ".txt");
    const bool gml = extension == ".gml" || extension == ".xml";
    // Where the content is certain, only its own driver may open it.
    const char* const certain = content == Content::geopackage ? "GPKG" : content == Content::xlsx ? "XLSX" : content == Content::ods ? "ODS" : content == Content::flatgeobuf ? "FlatGeobuf" : nullptr;
    const std::array<const char*, 2> only{certain, nullptr};
    auto dataset = open_with(path, csv && extension != ".csv" ? "CSV:" + name.path() : name.path(), certain != nullptr ? only.data() : kDrivers.data(), csv ? kTable.data() : gml ? kGml.data() : nullptr);
    return {std::move(name), std::move(dataset)};
}

/// A point that stands for a shape, in the shape's own coordinates: itself, one inside a polygon, of several the one nearest to their middle.
std::optional<geo::LonLat> point_of(const OGRGeometry& g) {
    const auto type = wkbFlatten(g.getGeometryType());
    if (type == wkbPoint) return geo::LonLat{g.toPoint()->getX(), g.toPoint()->getY()};
    if (type == wkbMultiPoint) {
        const auto& points = *g.toMultiPoint();
        OGRPoint middle;
        if (points.getNumGeometries() == 0 || const_cast<OGRMultiPoint&>(points).Centroid(&middle) != OGRERR_NONE) return std::nullopt;
        const OGRPoint* best = points.getGeometryRef(0);
        for (const auto* p : points)
            if (p->Distance(&middle) < best->Distance(&middle)) best = p;
        return geo::LonLat{best->getX(), best->getY()};
    }
    const std::unique_ptr<OGRGeometry> straight(g.hasCurveGeometry() ? g.getLinearGeometry() : g.clone());
    const auto straight_type = wkbFlatten(straight->getGeometryType());
    if (straight_type != wkbPolygon && straight_type != wkbMultiPolygon) return std::nullopt;
    const Complaints quiet;
    OGRPoint inside;
    const OGRErr error = straight_type == wkbPolygon ? straight->toPolygon()->PointOnSurface(&inside) : straight->toMultiPolygon()->PointOnSurface(&inside);
    if (error != OGRERR_NONE || inside.IsEmpty()) {
        if (straight->Centroid(&inside) != OGRERR_NONE || inside.IsEmpty()) return std::nullopt;
    }
    return geo::LonLat{inside.getX(), inside.getY()};
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
        CPLSetConfigOption("LIBKML_RESOLVE_STYLE", "NO");
        CPLSetConfigOption("GDAL_HTTP_TIMEOUT", "30");
        CPLSetConfigOption("GDAL_HTTP_CONNECTTIMEOUT", "10");
        CPLSetConfigOption("GDAL_HTTP_MAX_RETRY", "0");
        CPLSetConfigOption("OGR_ODS_HEADERS", "AUTO");
        CPLSetConfigOption("OGR_SQLITE_LIST_VIRTUAL_OGR", "NO");
        CPLSetConfigOption("PROJ_NETWORK", "OFF");
        CPLSetConfigOption("OGR_GEOJSON_MAX_OBJ_SIZE", "2000");
        CPLSetConfigOption("OGR_ENABLE_PARTIAL_REPROJECTION", "NO");
        GDALAllRegister();
    });
}

Reach reach_of(const std::string& location) {
    const std::string l = lower(location.substr(0, 16));
    if (l.starts_with("postgresql://") || l.starts_with("postgres://")) return Reach::database;
    if (l.starts_with("http://") || l.starts_with("https://")) return Reach::service;
    return Reach::file;
}

std::string without_password(const std::string& location) {
    if (reach_of(location) == Reach::file) return location;
    std::string out = location;
    const auto secrets = secrets_of(location);
    for (auto s = secrets.rbegin(); s != secrets.rend(); ++s) out.replace(s->begin, s->length, kHidden);
    return out;
}

bool is_osm(const std::string& path) {
    if (reach_of(path) != Reach::file) return false;
    const Content content = content_of(path);
    if (content == Content::osm_xml || content == Content::osm_pbf || content == Content::osm_gzip || content == Content::osm_bzip2) return true;
    if (content != Content::unknown && content != Content::gzip && content != Content::bzip2) return false;
    const std::string p = lower(path);
    return p.ends_with(".osm") || p.ends_with(".pbf") || p.ends_with(".osm.gz") || p.ends_with(".osm.bz2");
}

std::string guess_field(const std::vector<std::string>& fields, std::initializer_list<const char*> names) {
    for (const char* wanted : names)
        for (const auto& f : fields)
            if (lower(f) == wanted) return f;
    return {};
}

FileInfo describe_file(const std::string& path, const Task& task) {
    if (is_osm(path)) {
        if (!std::filesystem::exists(path)) refuse(path, "there is no such file", "Check the name and the folder");
        return {"OpenStreetMap", {{"roads", Shape::line, -1, "WGS 84", {"highway", "name", "maxspeed", "oneway"}}}};
    }
    task.at("looking at what is in the file", 0.0);
    const OpenFile opened = open(path);
    GDALDataset* dataset = opened.dataset.get();
    Patience patience(*dataset, task);
    FileInfo info;
    info.format = dataset->GetDriver()->GetMetadataItem(GDAL_DMD_LONGNAME);
    for (auto* layer : dataset->GetLayers()) {
        const Complaints quiet;
        task.at("looking at what is in the file", 0.5);
        LayerInfo l;
        l.name = layer->GetName();
        l.shape = is_table_format(*dataset) ? Shape::none : shape_of(layer->GetGeomType());
        l.records = count_of(*layer, patience, task).value_or(-1);
        if (const auto* srs = layer->GetSpatialRef()) l.crs = srs->GetName() ? srs->GetName() : "";
        l.fields = field_names(*layer);
        info.layers.push_back(std::move(l));
    }
    if (info.layers.empty()) refuse(path, "there is no layer in it", "Export it again with its data");
    return info;
}

struct Source::Opened {
    OpenFile file;
    Task task;
    Patience patience;
    Opened(OpenFile f, const Task& t) : file(std::move(f)), task(t), patience(*file.dataset, t) {}
};

Source::Source(const LayerChoice& choice, Shape wanted, const Task& task)
    : choice_(choice), shown_(without_password(choice.path)), transform_(nullptr, [](OGRCoordinateTransformation* t) { OGRCoordinateTransformation::DestroyCT(t); }) {
    opened_ = std::make_unique<Opened>(open(choice.path), task);
    dataset_ = opened_->file.dataset.get();
    std::vector<std::string> seen;
    for (auto* layer : dataset_->GetLayers()) {
        const Shape shape = shape_of(layer->GetGeomType());
        const bool table = is_table_format(*dataset_);
        const bool fits = !table && wanted == Shape::point && shape == Shape::polygon ? true : shape == wanted || shape == Shape::mixed || (table && wanted == Shape::point);
        seen.push_back(fmt::format("'{}' ({})", layer->GetName(), table ? "a table" : noun(shape)));
        if (layer_ != nullptr) continue;
        // Formats with fixed layers, such as GPX, have empty ones too.
        const bool has_records = choice.layer.empty() && dataset_->GetLayerCount() > 1 ? count_of(*layer, opened_->patience, task) != 0 : true;
        if (choice.layer.empty() ? fits && has_records : choice.layer == layer->GetName()) {
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
    if (is_table_format(*dataset_)) {
        find_table_columns();
    } else {
        Complaints quiet;
        const auto counted = count_of(*layer_, opened_->patience, task);
        if (!counted)
            fail(std::nullopt, fmt::format("the records of layer '{}' could not be counted in {} s: it is a view that takes long or never ends", layer_->GetName(), kCountingLimit.count()),
                 "Export what it shows as a table of its own");
        expected_ = *counted;
        // A service may not know how many there are, and GDAL says so as an error.
        if (reach_of(choice.path) == Reach::service && !quiet.first().empty()) expected_ = -1;
        else if (!quiet.first().empty()) fail(std::nullopt, fmt::format("it cannot be read ({})", quiet.first()), "It may be damaged; ask for it again, or export it again");
        if (expected_ == 0) fail(std::nullopt, fmt::format("layer '{}' is empty", layer_->GetName()), "Export it again with its records");
    }
    find_crs();
    find_filter();
}

void Source::find_filter() {
    if (choice_.filter.empty()) return;
    filter_ = Expression::parse(choice_.filter);
    for (const auto& name : filter_->fields()) filter_fields_.push_back(required_field(name, "the filter"));
}

bool Source::wanted(OGRFeature& record) const {
    return !filter_ || filter_->holds([&](std::size_t i) -> std::optional<std::string> {
        if (!record.IsFieldSetAndNotNull(filter_fields_[i])) return std::nullopt;
        std::string text = Source::text(record, filter_fields_[i]);
        // A table cannot tell an empty cell from a missing value.
        return text.empty() && is_table() ? std::nullopt : std::optional(std::move(text));
    });
}

Source::~Source() = default;
Source::Source(Source&&) noexcept = default;

void Source::fail(std::optional<std::int64_t> record, std::string wrong, std::string remedy) const {
    throw InputError({shown_, record, std::move(wrong), std::move(remedy)});
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
        crs_name_ = choice_.crs;
        const Complaints quiet;
        const std::string code = choice_.crs;
        const bool plain_digits = !code.empty() && std::all_of(code.begin(), code.end(), [](unsigned char c) { return std::isdigit(c); });
        const bool epsg = plain_digits || lower(code).starts_with("epsg:");
        const auto digits = plain_digits ? code : epsg ? code.substr(5) : std::string();
        if (digits.empty() || digits.size() > 6 || !std::all_of(digits.begin(), digits.end(), [](unsigned char c) { return std::isdigit(c); }) ||
            from.importFromEPSG(std::stoi(digits)) != OGRERR_NONE)
            throw InputError({"", std::nullopt, fmt::format("'{}' is not a known coordinate system", code), "Give its EPSG code, such as EPSG:4326"});
    } else if (own != nullptr) {
        from = *own;
        crs_name_ = own->GetName() != nullptr ? own->GetName() : "";
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
    constexpr const char* kBroken = "It may be damaged or broken off; ask for it again, or export it again";
    while (true) {
        const Complaints complaints;
        std::unique_ptr<OGRFeature, void (*)(OGRFeature*)> record(layer_->GetNextFeature(), [](OGRFeature* f) { OGRFeature::DestroyFeature(f); });
        opened_->task.check();
        if (!record) {
            if (!complaints.first().empty()) fail(read_, fmt::format("it cannot be read further ({})", complaints.first()), kBroken);
            if (expected_ >= 0 && read_ < expected_) fail(read_, fmt::format("it says it has {} records but ends here", expected_), kBroken);
            if (read_ > 0 && left_out_ == read_) fail(std::nullopt, fmt::format("the filter leaves none of its {} records", read_), "Change the filter");
            return record;
        }
        if (!complaints.first().empty() && record->GetGeometryRef() == nullptr && !is_table()) fail(read_, fmt::format("it cannot be read ({})", complaints.first()), kBroken);
        ++read_;
        if (wanted(*record)) return record;
        ++left_out_;
    }
}

Counted count_records(const LayerChoice& choice, Shape shape, const Task& task) {
    Source source(choice, shape, task);
    Counted out;
    try {
        while (source.next()) {
            if (++out.wanted % 4096 == 0) task.check();
        }
    } catch (const InputError&) {
        if (out.wanted > 0 || source.left_out() == 0) throw;
    }
    out.all = out.wanted + source.left_out();
    return out;
}

bool Source::to_lon_lat(std::size_t count, double* x, double* y) {
    for (std::size_t i = 0; i < count; ++i)
        if (!std::isfinite(x[i]) || !std::isfinite(y[i])) return false;
    if (count > 0 && raw_sample_.size() < kRawSample) raw_sample_.push_back({x[0], y[0]});
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
        const auto p = point_of(*g);
        if (!p) {
            wrong = fmt::format("its shape is a {}, not a point or a polygon", g->getGeometryName());
            return std::nullopt;
        }
        x = p->lon;
        y = p->lat;
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
