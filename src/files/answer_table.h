#pragma once
/// \file
/// An answer as a table: columns and rows, the same for every format it is written in.
#include <cstdint>
#include <functional>
#include <optional>
#include <string>
#include <variant>
#include <vector>

#include "geo/task.h"
#include "service/assign.h"

namespace otoro::files {

/// An empty cell, a text, a whole number or a number.
using Cell = std::variant<std::monostate, std::string, std::int64_t, double>;

struct AnswerColumn {
    enum class Kind : std::uint8_t { text, whole, number };
    std::string name;  ///< says the unit, where there is one
    Kind kind = Kind::text;
    int decimals = -1;  ///< in text formats; -1: as many as the number needs
};

/// The columns of an answer, in order. Zone and group are there where the answer can be summed up by them.
std::vector<AnswerColumn> answer_columns(const service::Ready& ready);

/// A row: a cell a column, the place and, where it is served, its journey.
struct AnswerRow {
    std::vector<Cell> cells;
    DemandIndex place;
    std::optional<service::Journey> journey;
};

/// The places whose rows are wanted, in that order; none named: all, in file order.
using WhichPlaces = std::optional<std::vector<DemandIndex>>;

/// Calls `use` with every row: one for each journey of a place that is served, by rank; one for any other place.
/// \throws Stopped
void each_row(const service::Ready& ready, const service::Outcome& outcome, const WhichPlaces& which, const Task& task,
              const std::function<void(const AnswerRow&)>& use);

}  // namespace otoro::files
