#pragma once
/// \file
/// What an SQLite file says of itself, asked without GDAL.
#include <cstdint>
#include <optional>
#include <string>
#include <vector>

#include "geo/task.h"

struct sqlite3;

namespace otoro::files {

/// A database opened for reading only. Nothing in it is run but the questions below, which look at its schema alone and
/// end soon whatever it holds; of one that is broken off it still tells.
class DatabaseFile {
public:
    explicit DatabaseFile(const std::string& path);
    ~DatabaseFile();
    DatabaseFile(const DatabaseFile&) = delete;
    DatabaseFile& operator=(const DatabaseFile&) = delete;

    /// Whether `name` is an ordinary table: no view, which may never end, and nothing that a module makes up.
    [[nodiscard]] bool has_table(const std::string& name) const;

    /// Columns that stand in no row and are worked out as they are read, however much that is: "homes.shout".
    [[nodiscard]] std::vector<std::string> made_up_columns() const;

    /// Of the tables by which a GeoPackage says what is in it, those that are no ordinary tables. GDAL goes through
    /// them while it opens the file, before anybody can stop it.
    [[nodiscard]] std::vector<std::string> made_up_catalogue() const;

    /// What a database that is broken off still holds: its tables with a row or more, and how many of their rows can be
    /// read, and whether that is all of them. Reads the whole file.
    struct Left {
        std::string table;
        std::uint64_t rows = 0;
        bool whole = false;
    };
    [[nodiscard]] std::vector<Left> what_is_left(const Task& task) const;

private:
    [[nodiscard]] std::vector<std::string> names(const char* question, const std::string& argument = {}) const;
    sqlite3* handle_ = nullptr;
};

/// How much of a database is there, where it is less than it says of itself: a copy that was broken off.
struct BrokenOff {
    std::uint64_t there = 0, whole = 0;  ///< bytes
};
/// Nothing for a whole one, and for what is no database.
std::optional<BrokenOff> broken_off(const std::string& path);

}  // namespace otoro::files
