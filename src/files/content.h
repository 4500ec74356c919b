#pragma once
/// \file
/// What a file is, by what is in it and not by its name.
#include <memory>
#include <string>
#include <utility>

namespace otoro::files {

enum class Content : std::uint8_t {
    unknown,     ///< text or something else that only its name tells
    geopackage,  ///< an SQLite database
    xlsx,
    ods,
    archive,  ///< zip: a spreadsheet, or anything else
    gzip,
    bzip2,
    xz,  ///< compressed; something else inside
    osm_xml,
    osm_pbf,
    osm_gzip,
    osm_bzip2,  ///< OpenStreetMap; the last two compressed
    shapefile,
    flatgeobuf,
    tiff,
};

/// Looks at the first kilobytes; of compressed files also at the first of what is inside. Unknown where the file cannot
/// be read. Never throws.
Content content_of(const std::string& path);

/// A file under a name whose ending says what it is, for libraries that go by names: a link in a folder of its own
/// while this lives, or the path itself where its ending is right already.
class ByRightName {
public:
    ByRightName(const std::string& path, Content content);
    /// Under a name with this ending in a folder where nothing else is, since some libraries also read what stands
    /// beside a file.
    static ByRightName alone(const std::string& path, const char* ending);
    ~ByRightName();
    ByRightName(ByRightName&&) noexcept;
    ByRightName& operator=(ByRightName&&) = delete;
    [[nodiscard]] const std::string& path() const { return path_; }

private:
    explicit ByRightName(std::string path) : path_(std::move(path)) {}
    void link_as(const std::string& ending);
    std::string path_, folder_;
};

}  // namespace otoro::files
