#pragma once
/// \file
/// What an SQLite file says of itself, asked without GDAL.
#include <string>
#include <vector>

struct sqlite3;

namespace otoro::files {

/// A database opened for reading only. Nothing in it is run but the questions below, which look at its schema alone and
/// end soon whatever it holds.
class DatabaseFile {
public:
    explicit DatabaseFile(const std::string& path);
    ~DatabaseFile();
    DatabaseFile(const DatabaseFile&) = delete;
    DatabaseFile& operator=(const DatabaseFile&) = delete;

    /// Whether `name` is an ordinary table: no view, which may never end, and nothing that a module makes up.
    [[nodiscard]] bool has_table(const std::string& name) const;

    /// Of the tables by which a GeoPackage says what is in it, those that are no ordinary tables. GDAL goes through
    /// them while it opens the file, before anybody can stop it.
    [[nodiscard]] std::vector<std::string> made_up_catalogue() const;

private:
    [[nodiscard]] std::vector<std::string> names(const char* question, const std::string& argument = {}) const;
    sqlite3* handle_ = nullptr;
};

}  // namespace otoro::files
