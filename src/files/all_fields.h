#pragma once
/// \file
/// All the fields of somebody's file, to be written again with something new beside them.
#include <functional>
#include <optional>
#include <string>
#include <vector>

#include "files/answer_table.h"
#include "files/source.h"

namespace otoro::files {

/// A layer's fields as columns. Numbers stay numbers; everything else is text as it stands in the file.
struct AllFields {
    std::vector<AnswerColumn> columns;
    /// Opens the file; what it returns gives the cells of the next record that the filter wants, in file order, and
    /// nothing after the last. \throws InputError when the file breaks off; Stopped
    struct Record {
        std::vector<Cell> cells;
        std::string id;  ///< as places get it; empty where no field was named
    };
    using Records = std::function<std::optional<Record>()>;
    std::function<Records(const Task& task)> open;
    /// Calls `use` with the cells of every record.
    void each_record(const Task& task, const std::function<void(std::vector<Cell>&&)>& use) const;
};

/// \param id the field that has the records' ids; empty: none \throws InputError if the file or the layer cannot be
/// read, or has no such field
AllFields all_fields(const LayerChoice& choice, Shape wanted, const Task& task, const std::string& id = {});

/// Names of at most ten letters, each its own, case aside: as they are where that will do, else cut and numbered.
std::vector<std::string> short_names(const std::vector<AnswerColumn>& columns);

}  // namespace otoro::files
