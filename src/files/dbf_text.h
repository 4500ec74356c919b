#pragma once
/// \file
/// The digits of a shapefile's table as they stand.
#include <memory>
#include <string>

namespace otoro::files {

/// The table beside a shapefile, read text by text: numbers of more than 18 digits do not fit into the numbers that
/// GDAL gives. Read by shapelib.
class DbfText {
public:
    /// \param path of the `.shp` or the `.dbf` \returns null if there is no table that can be read
    static std::unique_ptr<DbfText> beside(const std::string& path);
    ~DbfText();
    DbfText(const DbfText&) = delete;
    DbfText& operator=(const DbfText&) = delete;
    /// A field of a row, trimmed; empty if there is none.
    [[nodiscard]] std::string at(long long row, int field) const;

private:
    explicit DbfText(void* handle) : handle_(handle) {}
    void* handle_;
};

}  // namespace otoro::files
