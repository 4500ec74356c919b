#include "files/database_file.h"

#include <sqlite3.h>

#include <array>
#include <cstring>
#include <filesystem>
#include <fstream>

namespace otoro::files {

DatabaseFile::DatabaseFile(const std::string& path) {
    if (sqlite3_open_v2(path.c_str(), &handle_, SQLITE_OPEN_READONLY, nullptr) == SQLITE_OK) {
        // Without it nothing at all is read of a file that is shorter than it says; nothing is ever written.
        sqlite3_exec(handle_, "PRAGMA writable_schema = ON", nullptr, nullptr, nullptr);
        return;
    }
    sqlite3_close(handle_);
    handle_ = nullptr;
}

DatabaseFile::~DatabaseFile() { sqlite3_close(handle_); }

std::vector<std::string> DatabaseFile::names(const char* question, const std::string& argument) const {
    std::vector<std::string> out;
    sqlite3_stmt* row = nullptr;
    if (handle_ != nullptr && sqlite3_prepare_v2(handle_, question, -1, &row, nullptr) == SQLITE_OK) {
        if (sqlite3_bind_parameter_count(row) > 0) sqlite3_bind_text(row, 1, argument.c_str(), -1, SQLITE_TRANSIENT);
        while (sqlite3_step(row) == SQLITE_ROW)
            if (const auto* text = sqlite3_column_text(row, 0)) out.emplace_back(reinterpret_cast<const char*>(text));
    }
    sqlite3_finalize(row);
    return out;
}

bool DatabaseFile::has_table(const std::string& name) const {
    return names(
               "SELECT name FROM sqlite_master WHERE name = ?1 COLLATE NOCASE AND type = 'table' AND sql LIKE "
               "'CREATE TABLE%'",
               name)
               .size() == 1;
}

std::vector<std::string> DatabaseFile::made_up_catalogue() const {
    return names(
        "SELECT name FROM sqlite_master WHERE (name LIKE 'gpkg\\_%' ESCAPE '\\' OR name LIKE 'ogr\\_%' ESCAPE "
        "'\\' OR name LIKE 'layer\\_styles' ESCAPE '\\') "
        "AND (type = 'view' OR (type = 'table' AND sql NOT LIKE 'CREATE TABLE%')) ORDER BY name");
}

std::vector<std::string> DatabaseFile::made_up_columns() const {
    return names(
        "SELECT t.name || '.' || c.name FROM sqlite_master t, pragma_table_xinfo(t.name) c WHERE t.type = 'table' AND "
        "t.sql LIKE 'CREATE TABLE%' AND c.hidden = 2");
}

std::vector<DatabaseFile::Left> DatabaseFile::what_is_left(const Task& task) const {
    std::vector<Left> out;
    if (!made_up_columns().empty()) return out;
    for (const auto& table :
         names("SELECT name FROM sqlite_master WHERE type = 'table' AND sql LIKE 'CREATE TABLE%'")) {
        std::string quoted;
        for (const char c : table) quoted += c == '"' ? "\"\"" : std::string(1, c);
        sqlite3_stmt* row = nullptr;
        Left left{table, 0, false};
        int told = sqlite3_prepare_v2(handle_, ("SELECT * FROM \"" + quoted + "\"").c_str(), -1, &row, nullptr);
        while (told == SQLITE_OK || told == SQLITE_ROW) {
            task.check();
            told = sqlite3_step(row);
            // The last column is read through all of a row's pages.
            if (told == SQLITE_ROW && sqlite3_column_bytes(row, sqlite3_column_count(row) - 1) >= 0) ++left.rows;
        }
        sqlite3_finalize(row);
        left.whole = told == SQLITE_DONE;
        if (left.rows > 0 || !left.whole) out.push_back(left);
    }
    return out;
}

std::optional<BrokenOff> broken_off(const std::string& path) {
    std::array<unsigned char, 100> head{};
    std::ifstream file(path, std::ios::binary);
    if (!file.read(reinterpret_cast<char*>(head.data()), head.size())) return std::nullopt;
    if (std::memcmp(head.data(), "SQLite format 3", 16) != 0) return std::nullopt;
    const auto number = [&](std::size_t at, std::size_t bytes) {
        std::uint64_t v = 0;
        for (std::size_t i = 0; i < bytes; ++i) v = v << 8U | head[at + i];
        return v;
    };
    // Where these differ the number of pages was not kept up (https://www.sqlite.org/fileformat.html, 1.3.7).
    if (number(24, 4) != number(92, 4)) return std::nullopt;
    const std::uint64_t page = number(16, 2) == 1 ? 65'536 : number(16, 2);
    std::error_code error;
    const std::uint64_t there = std::filesystem::file_size(path, error), whole = page * number(28, 4);
    if (error || there >= whole) return std::nullopt;
    return BrokenOff{there, whole};
}

}  // namespace otoro::files
