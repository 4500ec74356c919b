#pragma once
/// \file
/// Which columns cover which rows.
#include <cstdint>
#include <span>
#include <vector>

namespace otoro::optimise {

/// For each row the columns that cover it, each once.
class Covers {
public:
    void reserve(std::size_t rows, std::size_t entries) {
        first_.reserve(rows + 1);
        columns_.reserve(entries);
    }
    void add_row(std::span<const std::uint32_t> columns) {
        columns_.insert(columns_.end(), columns.begin(), columns.end());
        first_.push_back(columns_.size());
    }
    [[nodiscard]] std::uint32_t rows() const { return static_cast<std::uint32_t>(first_.size() - 1); }
    [[nodiscard]] std::size_t count() const { return columns_.size(); }
    [[nodiscard]] std::span<const std::uint32_t> of(std::uint32_t row) const {
        return {columns_.data() + first_[row], columns_.data() + first_[row + 1]};
    }

private:
    std::vector<std::size_t> first_{0};
    std::vector<std::uint32_t> columns_;
};

}  // namespace otoro::optimise
