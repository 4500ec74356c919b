#include "files/open_file.h"

#include <cpl_conv.h>
#include <cpl_string.h>
#include <fmt/format.h>
#include <ogrsf_frmts.h>
#include <sqlite3.h>
#include <zip.h>

#include <algorithm>
#include <array>
#include <cctype>
#include <cerrno>
#include <cstdio>
#include <cstring>
#include <filesystem>
#include <mutex>

#include "files/address.h"
#include "files/complaints.h"
#include "files/database_file.h"
#include "geo/error.h"
#include "geo/text.h"

namespace otoro::files {
namespace {

constexpr std::array<const char*, 14> kDrivers{
    "GPKG", "GeoJSON", "GeoJSONSeq", "ESRI Shapefile", "FlatGeobuf", "GML", "LIBKML", "KML", "GPX",
    "DXF",  "CSV",     "ODS",        "XLSX",           nullptr};
constexpr const char* kFormats =
    "GeoPackage, GeoJSON, shapefile, FlatGeobuf, GML, KML, GPX, DXF, CSV, ODS, XLSX, or OpenStreetMap XML or PBF";
constexpr std::uint64_t kLargestUnpacked = 1ULL << 30U;  // of a spreadsheet

using DatasetPtr = std::unique_ptr<GDALDataset, void (*)(GDALDataset*)>;

/// Refuses a spreadsheet that would unpack to more than is safe, without unpacking it.
void check_unpacked_size(const std::string& path) {
    int error = 0;
    zip_t* archive = zip_open(path.c_str(), ZIP_RDONLY, &error);
    if (archive == nullptr)
        refuse(path, "it is not a spreadsheet, or it is damaged", "Save it again, or export it as CSV");
    std::uint64_t left = kLargestUnpacked;
    bool fits = true;
    const zip_int64_t count = zip_get_num_entries(archive, 0);
    for (zip_int64_t i = 0; i < count && fits; ++i) {
        zip_stat_t stat;
        if (zip_stat_index(archive, static_cast<zip_uint64_t>(i), 0, &stat) != 0 || (stat.valid & ZIP_STAT_SIZE) == 0)
            continue;
        // What a file says of itself may be any number: nothing is added that could wrap.
        fits = stat.size <= left;
        left -= fits ? stat.size : 0;
    }
    zip_discard(archive);
    if (!fits)
        refuse(path, fmt::format("it would unpack to more than {} MB", kLargestUnpacked >> 20U),
               "Export what is needed of it as CSV");
}

/// Opens with some drivers, or says why not.
DatasetPtr open_with(const std::string& shown, const std::string& name, const char* const* drivers,
                     const char* const* options) {
    const Complaints complaints;
    auto* dataset = static_cast<GDALDataset*>(
        GDALDataset::Open(name.c_str(), GDAL_OF_VECTOR | GDAL_OF_READONLY, drivers, options, nullptr));
    if (dataset == nullptr) {
        if (!complaints.first().empty())
            refuse(shown, fmt::format("it cannot be read ({})", complaints.first()),
                   "It may be damaged or broken off; ask for it again, or export it again");
        refuse(shown, "it is in no format that is read here", fmt::format("Add {}", kFormats));
    }
    DatasetPtr opened(dataset, [](GDALDataset* d) { GDALClose(d); });
    // A driver may open what it could not read to the end.
    if (dataset->GetLayerCount() == 0 || !complaints.first().empty())
        refuse(shown,
               fmt::format("it cannot be read ({})",
                           complaints.first().empty() ? "there is no layer in it" : complaints.first()),
               "It may be damaged or broken off; ask for it again, or export it again");
    return opened;
}

DatasetPtr open_database(const std::string& location) {
    check_password(location, "/@");
    // GDAL takes the connection address itself; the prefix names the driver.
    const std::array<const char*, 2> drivers{"PostgreSQL", nullptr};
    const std::array<const char*, 2> options{"LIST_ALL_TABLES=NO", nullptr};
    const Complaints complaints;
    auto* dataset = static_cast<GDALDataset*>(GDALDataset::Open(location.c_str(), GDAL_OF_VECTOR | GDAL_OF_READONLY,
                                                                drivers.data(), options.data(), nullptr));
    if (dataset == nullptr)
        refuse(
            without_password(location),
            fmt::format("the database does not answer ({})",
                        complaints.first().empty() ? "no reason given" : without_secrets(complaints.first(), location)),
            "Check the address, the name and the password");
    return {dataset, [](GDALDataset* d) { GDALClose(d); }};
}

DatasetPtr open_service(const std::string& location) {
    check_password(location, "/?#@");
    const std::string l = lower(location);
    const bool wfs = l.find("service=wfs") != std::string::npos;
    const std::array<const char*, 2> drivers{wfs ? "WFS" : "OAPIF", nullptr};
    const Complaints complaints;
    auto* dataset = static_cast<GDALDataset*>(GDALDataset::Open(((wfs ? "WFS:" : "OAPIF:") + location).c_str(),
                                                                GDAL_OF_VECTOR | GDAL_OF_READONLY, drivers.data(),
                                                                nullptr, nullptr));
    if (dataset == nullptr)
        refuse(
            without_password(location),
            fmt::format("the service does not answer as {} ({})", wfs ? "a WFS" : "OGC API Features",
                        complaints.first().empty() ? "no reason given" : without_secrets(complaints.first(), location)),
            "Check the address; for a WFS it must say service=WFS");
    return {dataset, [](GDALDataset* d) { GDALClose(d); }};
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
        // Every row of a spreadsheet is read as a record of texts; which row has the headings is found out here
        // (table_text.h).
        CPLSetConfigOption("OGR_ODS_HEADERS", "DISABLE");
        CPLSetConfigOption("OGR_ODS_FIELD_TYPES", "STRING");
        CPLSetConfigOption("OGR_XLSX_HEADERS", "DISABLE");
        CPLSetConfigOption("OGR_XLSX_FIELD_TYPES", "STRING");
        CPLSetConfigOption("GML_FIELDTYPES", "ALWAYS_STRING");
        CPLSetConfigOption("OGR_SQLITE_LIST_VIRTUAL_OGR", "NO");
        CPLSetConfigOption("PROJ_NETWORK", "OFF");
        CPLSetConfigOption("OGR_GEOJSON_MAX_OBJ_SIZE", "2000");
        CPLSetConfigOption("OGR_ENABLE_PARTIAL_REPROJECTION", "NO");
        GDALAllRegister();
    });
}

bool is_table_format(GDALDataset& dataset) {
    const std::string_view driver = dataset.GetDriverName();
    return driver == "CSV" || is_spreadsheet(dataset);
}

bool is_spreadsheet(GDALDataset& dataset) {
    const std::string_view driver = dataset.GetDriverName();
    return driver == "ODS" || driver == "XLSX";
}

namespace {

/// A file that is there but must not be read says so; libraries call it broken.
void check_may_be_read(const std::string& path) {
    const std::unique_ptr<std::FILE, int (*)(std::FILE*)> file(std::fopen(path.c_str(), "rb"), &std::fclose);
    if (!file)
        refuse(path, fmt::format("it may not be read ({})", std::strerror(errno)),
               "Ask its owner for the right to read it");
}

/// A table in text: alone in a folder, since a file of column types beside it would change what is read, and from its
/// headings on.
OpenFile open_text(const std::string& path) {
    const TextLayout layout = layout_of_text(path);
    ByRightName name = ByRightName::alone(path, ".csv");
    const std::array<std::string, 5> options{"KEEP_GEOM_COLUMNS=YES", "GEOM_POSSIBLE_NAMES=", "AUTODETECT_TYPE=NO",
                                             "EMPTY_STRING_AS_NULL=NO",
                                             std::string("HEADERS=") + (layout.has_headings ? "YES" : "NO")};
    std::vector<const char*> list;
    for (const auto& o : options) list.push_back(o.c_str());
    list.push_back(nullptr);
    constexpr std::array<const char*, 2> kOnly{"CSV", nullptr};
    auto dataset =
        open_with(path, layout.start > 0 ? fmt::format("/vsisubfile/{},{}", layout.start, name.path()) : name.path(),
                  kOnly.data(), list.data());
    return {std::move(name), layout, std::move(dataset)};
}

}  // namespace

OpenFile open_file(const std::string& path) {
    prepare_gdal();
    if (reach_of(path) == Reach::database) return {std::nullopt, std::nullopt, open_database(path)};
    if (reach_of(path) == Reach::service) return {std::nullopt, std::nullopt, open_service(path)};
    namespace fs = std::filesystem;
    std::error_code error;
    const auto status = fs::status(path, error);
    if (!fs::exists(status)) refuse(path, "there is no such file", "Check the name and the folder");
    if (!fs::is_regular_file(status)) refuse(path, "it is not an ordinary file", "Name one of the files inside it");
    check_may_be_read(path);
    if (fs::file_size(path, error) == 0) refuse(path, "the file is empty", "Ask for it again, or export it again");
    const Content content = content_of(path);
    const auto extension = lower(fs::path(path).extension().string());
    const bool spreadsheet =
        content == Content::xlsx || content == Content::ods || extension == ".ods" || extension == ".xlsx";
    if (spreadsheet) check_unpacked_size(path);
    const bool archive = !spreadsheet && (content == Content::archive || content == Content::gzip ||
                                          content == Content::bzip2 || content == Content::xz);
    if (archive || extension == ".zip" || extension == ".kmz" || extension == ".gz")
        refuse(path, "it is an archive", "Unpack it and add the file inside");
    if (content == Content::tiff)
        refuse(path, "it is a picture or an elevation model, not a file of roads or places",
               "An elevation model is added from the menu of the roads");

    if (content == Content::geopackage) {
        const DatabaseFile database(path);
        if (const auto made_up = database.made_up_catalogue(); !made_up.empty())
            refuse(path, fmt::format("'{}', which lists what is in it, is a view and no table", made_up.front()),
                   "Export its layers into a new GeoPackage");
        if (const auto made_up = database.made_up_columns(); !made_up.empty())
            refuse(path,
                   fmt::format("its column '{}' stands in no row and is worked out as it is read", made_up.front()),
                   "Export its layers into a new GeoPackage");
    }
    if (content == Content::unknown && (extension == ".csv" || extension == ".tsv" || extension == ".txt"))
        return open_text(path);

    // An absolute path cannot be mistaken for one of GDAL's virtual file systems or for data given in the name itself.
    const bool gml = content == Content::unknown && (extension == ".gml" || extension == ".xml");
    // A schema beside a GML file would turn ids into numbers.
    ByRightName name = gml ? ByRightName::alone(path, ".gml") : ByRightName(path, content);
    constexpr std::array<const char*, 5> kGml{"WRITE_GFS=NO", "DOWNLOAD_SCHEMA=NO", "SKIP_RESOLVE_ELEMS=ALL",
                                              "EMPTY_AS_NULL=NO", nullptr};
    constexpr std::array<const char*, 2> kJson{"DATE_AS_STRING=YES", nullptr};
    const bool json = extension == ".geojson" || extension == ".json";
    // Where the content is certain, only its own driver may open it.
    const char* const certain = content == Content::geopackage   ? "GPKG"
                                : content == Content::xlsx       ? "XLSX"
                                : content == Content::ods        ? "ODS"
                                : content == Content::flatgeobuf ? "FlatGeobuf"
                                                                 : nullptr;
    const std::array<const char*, 2> only{certain, nullptr};
    auto dataset = open_with(path, name.path(), certain != nullptr ? only.data() : kDrivers.data(),
                             json  ? kJson.data()
                             : gml ? kGml.data()
                                   : nullptr);
    return {std::move(name), std::nullopt, std::move(dataset)};
}

Patience::Patience(GDALDataset& dataset, const Task& task) : task_(task) {
    constexpr int kSteps = 50'000;  // a millisecond or so
    constexpr int kLongestValue = 256 * 1024 * 1024;
    database_ = static_cast<sqlite3*>(dataset.GetInternalHandle("SQLITE_HANDLE"));
    if (database_ == nullptr) return;
    sqlite3_limit(database_, SQLITE_LIMIT_LENGTH, kLongestValue);
    sqlite3_progress_handler(database_, kSteps, &Patience::ask, this);
}

Patience::~Patience() {
    if (database_ != nullptr) sqlite3_progress_handler(database_, 0, nullptr, nullptr);
}

void Patience::until(std::optional<std::chrono::steady_clock::duration> time) {
    ran_out_ = false;
    end_ = time ? std::optional(std::chrono::steady_clock::now() + *time) : std::nullopt;
}

int Patience::ask(void* self) {
    auto& p = *static_cast<Patience*>(self);
    if (p.end_ && std::chrono::steady_clock::now() > *p.end_) p.ran_out_ = true;
    return p.ran_out_ || p.task_.stop_requested() ? 1 : 0;
}

std::optional<std::int64_t> count_of(OGRLayer& layer, Patience& patience, const Task& task) {
    patience.until(counting_limit);
    const std::int64_t n = layer.GetFeatureCount();
    const bool ran_out = patience.ran_out();
    patience.until(std::nullopt);
    task.check();
    return ran_out ? std::nullopt : std::optional(n);
}

}  // namespace otoro::files
