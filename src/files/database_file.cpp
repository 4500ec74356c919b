#include "files/database_file.h"

#include <sqlite3.h>

namespace otoro::files {

DatabaseFile::DatabaseFile(const std::string& path) {
    if (sqlite3_open_v2(path.c_str(), &handle_, SQLITE_OPEN_READONLY, nullptr) == SQLITE_OK) return;
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

}  // namespace otoro::files
