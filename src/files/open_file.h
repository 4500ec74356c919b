#pragma once
/// \file
/// Opening a data set through GDAL, and nothing that it should not.
#include <gdal_priv.h>

#include <chrono>
#include <memory>
#include <optional>
#include <string>

#include "files/content.h"
#include "files/table_text.h"
#include "geo/task.h"

class OGRLayer;
struct sqlite3;

namespace otoro::files {

/// Registers the allowed drivers and shuts off what could reach outside. Called by everything here; safe to call again.
void prepare_gdal();

/// An open data set, the name that it was opened by, and how its text is laid out if it is a table in text.
struct OpenFile {
    std::optional<ByRightName> name;
    std::optional<TextLayout> text;
    std::unique_ptr<GDALDataset, void (*)(GDALDataset*)> dataset;
};
/// \param location a file, or the address of a database or a service \throws InputError that says what it is instead
OpenFile open_file(const std::string& location);

/// Whether its layers are tables without shapes, as CSV, ODS and XLSX have them.
bool is_table_format(GDALDataset& dataset);
/// Whether its cells carry no headings of their own: ODS and XLSX, which are opened so that every row is a record.
bool is_spreadsheet(GDALDataset& dataset);

/// Stops a database that works too long, or when the task is stopped. SQLite asks it every so many steps.
class Patience {
public:
    Patience(GDALDataset& dataset, const Task& task);
    ~Patience();
    Patience(const Patience&) = delete;
    Patience& operator=(const Patience&) = delete;
    void until(std::optional<std::chrono::steady_clock::duration> time);
    [[nodiscard]] bool ran_out() const { return ran_out_; }

private:
    static int ask(void* self);
    sqlite3* database_ = nullptr;
    Task task_;
    std::optional<std::chrono::steady_clock::time_point> end_;
    bool ran_out_ = false;
};

/// For how long the records of a layer are counted.
inline std::chrono::milliseconds counting_limit{10'000};  // a test that waits for it makes it shorter
/// How many records a layer says it has; nothing if that cannot be found out in reasonable time. \throws Stopped
std::optional<std::int64_t> count_of(OGRLayer& layer, Patience& patience, const Task& task);

}  // namespace otoro::files
