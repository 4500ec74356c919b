#pragma once
/// \file
/// Opening somebody else's file, warily.
///
/// Only these formats are opened, through GDAL: GeoPackage, GeoJSON (also one record a line), ESRI shapefile,
/// FlatGeobuf, GML, KML, GPX, DXF, CSV, ODS and XLSX; OpenStreetMap XML and PBF are read by libosmium (read_osm.h). A
/// path must be an ordinary file on this machine: nothing is fetched, no archive is unpacked (but for the two
/// spreadsheet formats, whose size is checked first), what a file is is found from its content, no link to another file
/// is followed, and nothing is written beside the source.
///
/// Only where the user names one, layers of a PostGIS database (`postgresql://user@host/database`) and of a web feature
/// service (`https://...`, OGC API Features, or WFS where the address says `service=WFS`) are read too.
#include <cstdint>
#include <map>
#include <memory>
#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

#include "files/address.h"
#include "files/column.h"
#include "files/expression.h"
#include "geo/flaw.h"
#include "geo/position.h"
#include "geo/task.h"

class GDALDataset;
class OGRLayer;
class OGRFeature;
class OGRGeometry;
class OGRCoordinateTransformation;

namespace otoro::files {

enum class Shape : std::uint8_t { none, point, line, polygon, mixed };

/// One layer of a file, as a planner would ask about it.
struct LayerInfo {
    std::string name;
    Shape shape = Shape::none;
    std::int64_t records = 0;
    std::string crs;                  ///< name of the coordinate system, or empty if the file gives none
    std::vector<std::string> fields;  ///< the last may be the key of the layer, `key`
    std::string key =
        {};  ///< the key column of a database's layer, or the `id` of GeoJSON's features; empty if there is none
};

struct FileInfo {
    std::string format;  ///< `GeoPackage`, `CSV`, `OpenStreetMap`, ...
    std::vector<LayerInfo> layers;
};

/// What is in a file. Records that cannot be counted within some seconds, as of a view without end, are -1. \throws
/// InputError if it is not there, not one of the formats, or cannot be read; Stopped
FileInfo describe_file(const std::string& path, const Task& task = Task());

/// Whether libosmium reads it: by its content, or else by its ending `.osm`, `.osm.pbf`, `.pbf`, `.osm.gz`, `.osm.bz2`.
bool is_osm(const std::string& path);

/// A file with those that are read with it: a shapefile's table, index and the like.
std::vector<std::string> files_read_with(const std::string& path);

/// How a layer is to be read.
struct LayerChoice {
    std::string path;
    std::string layer;                       ///< empty: the first that fits
    std::string crs;                         ///< `EPSG:27700`; empty: the file's own
    std::string x_field = {}, y_field = {};  ///< tables only; empty: found by name
    std::string filter = {};                 ///< which records are wanted (expression.h); empty: all
};

/// An open layer, its reprojection to WGS84 longitude and latitude, and GDAL's complaints.
class Source {
public:
    /// \param wanted decides which layer is the first that fits; none: of any, for its fields alone
    /// \throws InputError; Stopped, also while a database view is counted or read
    Source(const LayerChoice& choice, Shape wanted, const Task& task = Task());
    ~Source();
    Source(Source&&) noexcept;
    Source& operator=(Source&&) = delete;

    [[nodiscard]] OGRLayer& layer() { return *layer_; }
    /// As it may be shown.
    [[nodiscard]] const std::string& path() const { return shown_; }
    /// Whether records are rows of cells and their places are read from columns.
    [[nodiscard]] bool is_table() const { return table_; }
    [[nodiscard]] std::int64_t expected_records() const { return expected_; }
    /// Whether the file says exactly how many records it has, and breaks off without saying so. Elsewhere the count may
    /// be out of date, or counts deleted rows.
    [[nodiscard]] bool count_is_exact() const;
    /// Field names in file order; behind them the key, if the layer has one.
    [[nodiscard]] const std::vector<std::string>& fields() const { return names_; }
    /// The name of the layer's key among the fields; empty if it has none.
    [[nodiscard]] std::string key() const { return key_ >= 0 ? names_[static_cast<std::size_t>(key_)] : std::string(); }
    /// Index of a field by name, case aside; -1 if not there.
    [[nodiscard]] int field(const std::string& name) const;
    /// The same, but a field that is named and missing is an error that lists those there are.
    [[nodiscard]] int required_field(const std::string& name, const char* option) const;

    /// Goes through all records to see how columns of texts write what they hold. To be called before the first `next`;
    /// a table's are looked at already.
    void look_at(std::span<const int> fields);
    /// What was seen of a field's texts; nothing for one that holds numbers.
    [[nodiscard]] const ColumnLook* column(int field) const;
    /// How a field writes its numbers.
    [[nodiscard]] const NumberFormat& format(int field) const;
    /// What is to be said of how a field is understood; empty where there is nothing to wonder about.
    [[nodiscard]] std::string remark(int field) const;
    /// What else was taken in one of several ways: the coordinates, the layer; rows that were empty.
    [[nodiscard]] std::vector<std::string> remarks() const;

    /// How many records the filter has left out so far.
    [[nodiscard]] std::int64_t left_out() const { return left_out_; }
    /// The number in the file, from 0, of the record that `next` gave last.
    [[nodiscard]] std::int64_t record() const { return read_ - 1; }
    /// The EPSG code the coordinates were read with, or the name of the file's own system; empty if it has none.
    [[nodiscard]] const std::string& crs() const { return crs_name_; }
    /// Up to 64 coordinates as they stand in the file.
    [[nodiscard]] const std::vector<geo::LonLat>& raw_sample() const { return raw_sample_; }

    /// The next record that the filter wants, or null at the end. \throws InputError when the file breaks off before
    /// its end
    std::unique_ptr<OGRFeature, void (*)(OGRFeature*)> next();
    /// Turns file coordinates into longitude and latitude in place. False if any is off the globe or not a number.
    bool to_lon_lat(std::size_t count, double* x, double* y);
    /// After the last record: a file without a coordinate system most of whose coordinates cannot be degrees was read
    /// in the wrong one. \throws InputError
    void check_units() const;
    /// The point of a record (a table's columns, a point, a point inside a polygon, of several points the one nearest
    /// to their middle), in longitude and latitude; or why there is none.
    std::optional<geo::LonLat> point(OGRFeature& record, std::string& wrong);
    /// The shape of a record, in file coordinates; null if it has none. A table's is read from its column of well-known
    /// text. Valid until the next call.
    const OGRGeometry* shape(OGRFeature& record);
    /// A field as text, as it stands, valid UTF-8; text in another encoding is read as Windows-1252. Whole numbers have
    /// no decimals and no exponent, whatever type holds them.
    [[nodiscard]] std::string text(OGRFeature& record, int field) const;
    /// A field as a number, as its column writes them.
    [[nodiscard]] std::optional<double> number(OGRFeature& record, int field) const;
    /// Why a field's value is no text that could be an id: `a list`, `an object`, `a number of more digits than its
    /// file holds exactly`; empty if it is one.
    [[nodiscard]] std::string no_id(OGRFeature& record, int field) const;
    /// \throws Stopped if the user asked to stop
    void check_stop() const;
    /// \throws InputError with this file's name
    [[noreturn]] void fail(std::optional<std::int64_t> record, std::string wrong, std::string remedy) const;

private:
    void choose_layer(Shape wanted);
    [[nodiscard]] bool fits(OGRLayer& layer, Shape wanted) const;
    void count_records_said();
    void find_columns(Shape wanted);
    void find_crs();
    void find_filter();
    void look_at_table();
    [[nodiscard]] bool is_empty_row(OGRFeature& record) const;
    [[nodiscard]] bool wanted(OGRFeature& record) const;
    /// Calls `use` for each record of the layer as GDAL gives it, headings left out, from the first; and goes back to
    /// it.
    template <class Use>
    void each_raw(Use&& use);
    /// The same for some columns alone, quickly; false if the format cannot.
    bool look_in_columns(const std::vector<int>& fields, std::vector<ColumnLook>& looks);
    void understand_numbers(int field, const ColumnLook& rest);

    struct Opened;
    LayerChoice choice_;
    std::string shown_;
    std::unique_ptr<Opened> opened_;
    GDALDataset* dataset_ = nullptr;
    OGRLayer* layer_ = nullptr;
    std::unique_ptr<OGRCoordinateTransformation, void (*)(OGRCoordinateTransformation*)> transform_;
    std::vector<std::string> names_;
    int key_ = -1;
    bool table_ = false;
    std::int64_t headings_ = 0;  ///< rows up to the headings, to be passed over
    int x_index_ = -1;
    int y_index_ = -1;
    std::string directions_;  ///< the first coordinate that says its direction
    int wkt_index_ = -1;
    std::unique_ptr<OGRGeometry> from_text_;
    std::map<int, ColumnLook> looks_;
    std::map<int, Understood> understood_;
    std::vector<std::string> remarks_;
    std::int64_t expected_ = -1;
    std::int64_t rows_ = 0;
    std::int64_t read_ = 0;
    std::int64_t left_out_ = 0;
    std::int64_t empty_rows_ = 0;
    std::optional<Expression> filter_;
    std::vector<int> filter_fields_;
    std::string crs_name_;
    std::vector<geo::LonLat> raw_sample_;
    bool assumed_degrees_ = false;
    bool projected_ = false;
    std::int64_t on_globe_ = 0, off_globe_ = 0;
    geo::LonLat first_off_globe_;
};

/// The columns that a table's places are read from if none are named: by their names, those in degrees first where
/// there are several (or in metres, where the coordinate system is in metres). Empty if there are none.
std::pair<std::string, std::string> guess_coordinates(const std::vector<std::string>& fields, bool in_metres = false);

/// How many records of a layer a filter leaves, and how many there are. \throws InputError; Stopped
struct Counted {
    std::int64_t wanted = 0, all = 0;
};
Counted count_records(const LayerChoice& choice, Shape shape, const Task& task);

/// Text as it is if it is valid UTF-8; else read as Windows-1252.
std::string as_utf8(std::string_view text);

/// The first of `names` that is among `fields`, case aside, spelled as the file spells it; empty if none.
std::string guess_field(const std::vector<std::string>& fields, std::initializer_list<const char*> names);

}  // namespace otoro::files
