#pragma once
/// \file
/// Another hand in a study's database.
#include <sqlite3.h>

#include <catch2/catch.hpp>
#include <string>
#include <vector>

namespace otoro::test {

/// Runs statements on a database. Triggers of the spatial index are taken out first: they ask for functions that only
/// its own library has.
inline void run_sql(const std::string& path, const std::string& sql) {
    sqlite3* db = nullptr;
    REQUIRE(sqlite3_open(path.c_str(), &db) == SQLITE_OK);
    std::vector<std::string> triggers;
    const auto list = [](void* all, int, char** row, char**) {
        static_cast<std::vector<std::string>*>(all)->emplace_back(row[0]);
        return 0;
    };
    sqlite3_exec(db, "SELECT name FROM sqlite_master WHERE type = 'trigger'", list, &triggers, nullptr);
    for (const auto& t : triggers) sqlite3_exec(db, ("DROP TRIGGER " + t).c_str(), nullptr, nullptr, nullptr);
    char* why = nullptr;
    sqlite3_exec(db, sql.c_str(), nullptr, nullptr, &why);
    INFO((why ? why : ""));
    CHECK(why == nullptr);
    sqlite3_free(why);
    sqlite3_close(db);
}

}  // namespace otoro::test
