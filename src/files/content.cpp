#include "files/content.h"

#include <bzlib.h>
#include <zip.h>
#include <zlib.h>

#include <algorithm>
#include <array>
#include <cctype>
#include <cstdio>
#include <filesystem>
#include <string_view>
#include <utility>
#include <vector>

#include "geo/text.h"

namespace otoro::files {
namespace {
namespace fs = std::filesystem;
using namespace std::string_view_literals;

constexpr std::size_t kHead = 4096;

using File = std::unique_ptr<std::FILE, int (*)(std::FILE*)>;

std::string head_of(const std::string& path) {
    std::string head(kHead, '\0');
    const File file(std::fopen(path.c_str(), "rb"), &std::fclose);
    head.resize(file ? std::fread(head.data(), 1, head.size(), file.get()) : 0);
    return head;
}

std::string head_inside_gzip(const std::string& path) {
    std::string head(kHead, '\0');
    gzFile file = gzopen(path.c_str(), "rb");
    const int n = file != nullptr ? gzread(file, head.data(), static_cast<unsigned>(head.size())) : 0;
    if (file != nullptr) gzclose(file);
    head.resize(static_cast<std::size_t>(std::max(0, n)));
    return head;
}

std::string head_inside_bzip2(const std::string& path) {
    std::string head(kHead, '\0');
    const File file(std::fopen(path.c_str(), "rb"), &std::fclose);
    int error = BZ_OK, n = 0;
    if (file) {
        BZFILE* in = BZ2_bzReadOpen(&error, file.get(), 0, 0, nullptr, 0);
        if (error == BZ_OK) n = BZ2_bzRead(&error, in, head.data(), static_cast<int>(head.size()));
        if (error != BZ_OK && error != BZ_STREAM_END) n = 0;
        int ignored = BZ_OK;
        BZ2_bzReadClose(&ignored, in);
    }
    head.resize(static_cast<std::size_t>(std::max(0, n)));
    return head;
}

bool is_osm_xml(std::string_view head) {
    if (head.starts_with("\xEF\xBB\xBF")) head.remove_prefix(3);
    const auto first = head.find_first_not_of(" \t\r\n");
    if (first == std::string_view::npos || head[first] != '<') return false;
    return head.find("<osm ") != std::string_view::npos || head.find("<osm>") != std::string_view::npos ||
           head.find("<osmChange") != std::string_view::npos;
}

Content inside_zip(const std::string& path) {
    int error = 0;
    zip_t* archive = zip_open(path.c_str(), ZIP_RDONLY, &error);
    if (archive == nullptr) return Content::archive;
    Content found = Content::archive;
    if (zip_name_locate(archive, "xl/workbook.xml", 0) >= 0)
        found = Content::xlsx;
    else if (zip_name_locate(archive, "content.xml", 0) >= 0 &&
             zip_name_locate(archive, "META-INF/manifest.xml", 0) >= 0)
        found = Content::ods;
    zip_discard(archive);
    return found;
}

/// The endings that a content goes by; the first is the usual one.
std::vector<std::string_view> endings(Content c) {
    switch (c) {
        case Content::geopackage:
            return {".gpkg", ".sqlite", ".db"};
        case Content::xlsx:
            return {".xlsx", ".xlsm"};
        case Content::ods:
            return {".ods"};
        case Content::osm_xml:
            return {".osm"};
        case Content::osm_pbf:
            return {".osm.pbf", ".pbf"};
        case Content::osm_gzip:
            return {".osm.gz"};
        case Content::osm_bzip2:
            return {".osm.bz2"};
        case Content::flatgeobuf:
            return {".fgb"};
        case Content::tiff:
            return {".tif", ".tiff"};
        default:
            return {};
    }
}

}  // namespace

Content content_of(const std::string& path) {
    std::error_code error;
    if (!fs::is_regular_file(path, error)) return Content::unknown;
    const std::string head = head_of(path);
    const std::string_view h = head;
    if (h.starts_with("SQLite format 3\0"sv)) return Content::geopackage;
    if (h.starts_with("PK\x03\x04"sv) || h.starts_with("PK\x05\x06"sv)) return inside_zip(path);
    if (h.starts_with("\x1f\x8b"sv)) return is_osm_xml(head_inside_gzip(path)) ? Content::osm_gzip : Content::gzip;
    if (h.starts_with("BZh"sv)) return is_osm_xml(head_inside_bzip2(path)) ? Content::osm_bzip2 : Content::bzip2;
    if (h.starts_with("\xFD"
                      "7zXZ"sv))
        return Content::xz;
    if (h.size() > 15 && h.substr(4, 11) == "\x0a\x09OSMHeader"sv) return Content::osm_pbf;
    if (is_osm_xml(h)) return Content::osm_xml;
    if (h.starts_with("\0\0\x27\x0a"sv)) return Content::shapefile;
    if (h.starts_with("fgb\x03"sv)) return Content::flatgeobuf;
    if (h.starts_with("II*\0"sv) || h.starts_with("MM\0*"sv) || h.starts_with("II+\0"sv) || h.starts_with("MM\0+"sv))
        return Content::tiff;
    return Content::unknown;
}

ByRightName::ByRightName(const std::string& path, Content content) : path_(fs::absolute(path).string()) {
    const auto right = endings(content);
    // libosmium goes by the very letters.
    const bool osm = content == Content::osm_xml || content == Content::osm_pbf || content == Content::osm_gzip ||
                     content == Content::osm_bzip2;
    const std::string name = osm ? path_ : lower(path_);
    if (right.empty() || std::any_of(right.begin(), right.end(), [&](std::string_view e) { return name.ends_with(e); }))
        return;
    link_as(std::string(right.front()));
}

ByRightName ByRightName::alone(const std::string& path, const char* ending) {
    ByRightName out(fs::absolute(path).string());
    out.link_as(ending);
    return out;
}

void ByRightName::link_as(const std::string& ending) {
    std::string folder =
        (fs::temp_directory_path() / ("otoro-" + std::string(6, 'X'))).string();  // made unique by mkdtemp
    if (::mkdtemp(folder.data()) == nullptr) return;
    folder_ = folder;
    const fs::path link = fs::path(folder_) / (fs::path(path_).stem().string() + ending);
    std::error_code error;
    fs::create_symlink(path_, link, error);
    if (!error) path_ = link.string();
}

ByRightName::ByRightName(ByRightName&& o) noexcept : path_(std::move(o.path_)), folder_(std::exchange(o.folder_, {})) {}

ByRightName::~ByRightName() {
    std::error_code ignored;
    if (!folder_.empty()) fs::remove_all(folder_, ignored);
}

}  // namespace otoro::files
