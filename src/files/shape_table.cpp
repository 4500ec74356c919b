#include "files/shape_table.h"

#include <cpl_vsi.h>
#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <atomic>
#include <cctype>
#include <cstdlib>
#include <filesystem>
#include <map>
#include <memory>
#include <nlohmann/json.hpp>
#include <set>
#include <span>
#include <string_view>

#include "files/all_fields.h"
#include "files/atomic_file.h"
#include "files/gdal_writer.h"
#include "files/geojson.h"
#include "files/source.h"
#include "geo/amounts.h"
#include "reach/overlay.h"

namespace otoro::files {
namespace {

std::string ending_of(const std::string& path) {
    std::string ending = std::filesystem::path(path).extension().string();
    std::transform(ending.begin(), ending.end(), ending.begin(),
                   [](unsigned char c) { return static_cast<char>(std::tolower(c)); });
    return ending;
}

std::string quoted(const std::string& text) {
    return nlohmann::json(text).dump(-1, ' ', false, nlohmann::json::error_handler_t::replace);
}

OGRFieldType field_type(AnswerColumn::Kind kind) {
    if (kind == AnswerColumn::Kind::whole) return OFTInteger64;
    return kind == AnswerColumn::Kind::number ? OFTReal : OFTString;
}

std::string json_shape(const ShapeTable& table, const ShapeRow& row) {
    if (table.kind == ShapeKind::areas) return geojson_areas(row.polygons);
    if (table.kind == ShapeKind::lines) return geojson_lines(row.lines);
    if (row.lines.empty() || table.kind == ShapeKind::none) return "null";
    return geojson_shape(table.kind == ShapeKind::line ? std::span(row.lines[0]) : std::span(row.lines[0]).first(1));
}

/// A number in a text format.
std::string digits(double v, int decimals) {
    return decimals < 0 ? plain_number(v) : fmt::format("{:.{}f}", v, decimals);
}

void write_csv(const ShapeTable& table, const std::string& path, const Task& task) {
    write_atomically(path, [&](const std::string& temporary) {
        CheckedFile out(temporary, path);
        std::string head;
        for (const auto& c : table.columns) head += (head.empty() ? "" : ",") + csv_cell(c.name);
        out.write(head + kCsvEnd);
        table.each_row([&](const ShapeRow& row) {
            task.check();
            out.write(csv_row(table.columns, row.cells));
        });
        out.close();
    });
}

void write_geojson(const ShapeTable& table, const std::string& path, const Task& task) {
    write_atomically(path, [&](const std::string& temporary) {
        CheckedFile out(temporary, path);
        out.write(fmt::format("{{\"type\":\"FeatureCollection\",\"name\":{},\"description\":{},\"features\":[\n",
                              quoted(table.name), quoted(table.description)));
        bool first = true;
        table.each_row([&](const ShapeRow& row) {
            task.check();
            std::string properties;
            for (std::size_t k = 0; k < row.cells.size(); ++k) {
                std::string value = "null";
                if (const auto* text = std::get_if<std::string>(&row.cells[k])) value = quoted(*text);
                if (const auto* whole = std::get_if<std::int64_t>(&row.cells[k])) value = std::to_string(*whole);
                if (const auto* number = std::get_if<double>(&row.cells[k])) value = plain_number(*number);
                properties += fmt::format("{}{}:{}", k > 0 ? "," : "", quoted(table.columns[k].name), value);
            }
            out.write(fmt::format("{}{{\"type\":\"Feature\",\"properties\":{{{}}},\"geometry\":{}}}",
                                  first ? "" : ",\n", properties, json_shape(table, row)));
            first = false;
        });
        out.write("\n]}\n");
        out.close();
    });
}

/// Cuts a text to so many bytes, between two characters.
std::string cut(const std::string& text, std::size_t most) {
    if (text.size() <= most) return text;
    std::size_t end = most;
    while (end > 0 && (static_cast<unsigned char>(text[end]) & 0xC0U) == 0x80U) --end;
    return text.substr(0, end);
}

constexpr std::size_t kMostRowsOfASheet = 1'048'575;
bool is_spreadsheet(std::string_view driver) { return driver == "ODS" || driver == "XLSX"; }
bool driver_holds_shapes(std::string_view driver) { return !is_spreadsheet(driver) && driver != "SQLite"; }

/// GDAL's writer takes a text that begins so for a formula in its ODS; an apostrophe keeps it a text.
std::string as_cell(const std::string& text, std::string_view driver) {
    return driver == "ODS" && text.starts_with("of:=") ? "'" + text : text;
}

/// \returns whether something did not fit
bool write_by_gdal(const ShapeTable& table, const std::string& temporary, const std::string& path, const char* driver,
                   bool short_names, const Task& task) {
    constexpr std::size_t kShortText = 254;
    bool lost = false;
    GdalWriter out(temporary, path, driver);
    std::vector<GdalWriter::Field> fields;
    for (const auto& c : table.columns) fields.push_back({short_names ? c.short_name : c.name, field_type(c.kind)});
    const ShapeKind kind = driver_holds_shapes(driver) ? table.kind : ShapeKind::none;
    const auto type = kind == ShapeKind::areas    ? wkbMultiPolygon
                      : kind == ShapeKind::lines  ? wkbMultiLineString
                      : kind == ShapeKind::line   ? wkbLineString
                      : kind == ShapeKind::points ? wkbPoint
                                                  : wkbNone;
    auto layer = out.layer(table.name, type, fields, table.description,
                           table.indexed ? GdalWriter::SpatialIndex::whole : GdalWriter::SpatialIndex::none);
    std::size_t rows = 0;
    table.each_row([&](const ShapeRow& r) {
        task.check();
        if (++rows > kMostRowsOfASheet && is_spreadsheet(driver))
            throw InputError({path, std::nullopt,
                              fmt::format("a sheet holds no more than {} rows below its headings", kMostRowsOfASheet),
                              "Write .csv, .gpkg or .sqlite instead"});
        auto row = layer.row();
        for (std::size_t k = 0; k < r.cells.size(); ++k) {
            const int field = static_cast<int>(k);
            if (const auto* text = std::get_if<std::string>(&r.cells[k])) {
                const bool fits = !short_names || text->size() <= kShortText;
                lost = lost || !fits;
                row.set(field, fits ? as_cell(*text, driver) : cut(*text, kShortText - 3) + "...");
            } else if (const auto* whole = std::get_if<std::int64_t>(&r.cells[k])) {
                row.set(field, *whole);
            } else if (const auto* number = std::get_if<double>(&r.cells[k])) {
                row.set(field, *number);
            } else if (short_names && table.columns[k].kind != AnswerColumn::Kind::text) {
                lost = true;
                row.set(field, std::int64_t{-1});
            }
        }
        if (kind == ShapeKind::areas) row.areas(reach::normalised(r.polygons));
        if (kind == ShapeKind::lines) row.lines(parts_by_meridian(r.lines));
        if (kind == ShapeKind::line && !r.lines.empty()) {
            // A line of one part; of two where it crosses the meridian.
            const auto parts = parts_by_meridian(r.lines);
            if (parts.size() == 1)
                row.line(parts[0]);
            else
                row.lines(parts);
        }
        if (kind == ShapeKind::points && !r.lines.empty()) row.point(geo::normalised(r.lines[0][0]));
        row.write();
    });
    out.close();
    return lost;
}

/// A spreadsheet is made in memory: GDAL's writers of them do not say when the disk refuses.
void write_spreadsheet(const ShapeTable& table, const std::string& path, const char* driver, const Task& task) {
    static std::atomic<int> count{0};
    const std::string made = fmt::format("/vsimem/otoro-{}.{}", count++, driver);
    const auto forget = [&](const void*) { VSIUnlink(made.c_str()); };
    const std::unique_ptr<const void, decltype(forget)> until_the_end(&made, forget);
    write_by_gdal(table, made, path, driver, false, task);
    vsi_l_offset size = 0;
    const auto* const bytes = reinterpret_cast<const char*>(VSIGetMemFileBuffer(made.c_str(), &size, FALSE));
    if (bytes == nullptr || size == 0)
        throw InputError({path, std::nullopt, "the spreadsheet could not be made", "Write .csv instead"});
    task.check();
    write_text(path, {bytes, static_cast<std::size_t>(size)});
}

std::string write_shapefile(const ShapeTable& table, const std::string& path, const Task& task) {
    namespace fs = std::filesystem;
    bool lost = false;
    write_atomically(path, [&](const std::string& temporary) {
        lost = write_by_gdal(table, temporary, path, "ESRI Shapefile", true, task);
        // What goes with it lies beside it, and each part takes the place of the one before.
        for (const char* const part : {".dbf", ".shx", ".prj", ".cpg"}) {
            const fs::path from = fs::path(temporary).replace_extension(part);
            if (!fs::exists(from)) continue;
            write_atomically(fs::path(path).replace_extension(part).string(), [&](const std::string& to) {
                fs::copy_file(from, to, fs::copy_options::overwrite_existing);
            });
            fs::remove(from);
        }
    });
    return lost ? fmt::format(
                      "{}: a shapefile holds no texts of more than 254 bytes, which were cut, and no empty "
                      "numbers, which are written as -1",
                      path)
                : std::string();
}

}  // namespace

const std::vector<std::string>& shape_endings() {
    static const std::vector<std::string> all{".gpkg", ".geojson", ".json", ".fgb", ".shp"};
    return all;
}

const std::vector<std::string>& table_endings() {
    static const std::vector<std::string> all{".csv", ".ods", ".xlsx", ".sqlite"};
    return all;
}

const std::vector<std::string>& all_endings() {
    static const std::vector<std::string> all = [] {
        auto both = table_endings();
        both.insert(both.end(), shape_endings().begin(), shape_endings().end());
        return both;
    }();
    return all;
}

bool holds_shapes(const std::string& path) {
    const auto& endings = shape_endings();
    return std::find(endings.begin(), endings.end(), ending_of(path)) != endings.end();
}

namespace {

/// Names of which each is its own, case aside: those that are taken are numbered.
std::vector<AnswerColumn> own_names(std::vector<AnswerColumn> columns) {
    std::set<std::string> taken;
    const auto lower = [](std::string text) {
        std::transform(text.begin(), text.end(), text.begin(),
                       [](unsigned char c) { return static_cast<char>(std::tolower(c)); });
        return text;
    };
    for (AnswerColumn& c : columns) {
        const std::string name = c.name;
        for (int n = 2; !taken.insert(lower(c.name)).second; ++n) c.name = fmt::format("{}_{}", name, n);
    }
    return columns;
}

}  // namespace

std::vector<ShapeColumn> shape_columns(const std::vector<AnswerColumn>& given) {
    const auto columns = own_names(given);
    const auto names = short_names(columns);
    std::vector<ShapeColumn> out;
    for (std::size_t k = 0; k < columns.size(); ++k)
        out.push_back({columns[k].name, names[k], columns[k].kind, columns[k].decimals});
    return out;
}

std::string csv_cell(const std::string& given) {
    std::string text = as_utf8(given);
    double number = 0;
    if (!text.empty() && std::string_view("=+-@\t\r").find(text[0]) != std::string_view::npos &&
        !parse_number(text, number))
        text.insert(0, 1, '\'');
    if (text.find_first_of(",;\"\t\r\n") == std::string::npos) return text;
    std::string out = "\"";
    for (const char c : text) out += c == '"' ? std::string("\"\"") : std::string(1, c);
    return out + "\"";
}

std::string csv_row(const std::vector<ShapeColumn>& columns, const std::vector<Cell>& cells) {
    std::string line;
    for (std::size_t k = 0; k < cells.size(); ++k) {
        if (k > 0) line += ',';
        const Cell& cell = cells[k];
        if (const auto* text = std::get_if<std::string>(&cell)) line += csv_cell(*text);
        if (const auto* whole = std::get_if<std::int64_t>(&cell)) line += std::to_string(*whole);
        if (const auto* number = std::get_if<double>(&cell)) line += digits(*number, columns[k].decimals);
    }
    return line + kCsvEnd;
}

std::string write_table(const ShapeTable& table, const std::string& path, const Task& task) {
    const std::string ending = ending_of(path);
    if (ending == ".geojson" || ending == ".json") {
        write_geojson(table, path, task);
        return {};
    }
    if (ending == ".csv") {
        write_csv(table, path, task);
        return {};
    }
    if (is_device_or_pipe(path)) {
        table.kind == ShapeKind::areas || table.kind == ShapeKind::lines ? write_geojson(table, path, task)
                                                                         : write_csv(table, path, task);
        return {};
    }
    if (ending == ".shp") return write_shapefile(table, path, task);
    static const std::map<std::string, const char*> drivers{
        {".gpkg", "GPKG"}, {".fgb", "FlatGeobuf"}, {".ods", "ODS"}, {".xlsx", "XLSX"}, {".sqlite", "SQLite"}};
    const auto driver = drivers.find(ending);
    if (driver == drivers.end())
        throw InputError({path, std::nullopt, "its ending does not say which format to write",
                          fmt::format("Use {}", fmt::join(all_endings(), ", "))});
    if (is_spreadsheet(driver->second)) {
        write_spreadsheet(table, path, driver->second, task);
        return {};
    }
    write_atomically(path, [&](const std::string& temporary) {
        write_by_gdal(table, temporary, path, driver->second, false, task);
    });
    return {};
}

}  // namespace otoro::files
