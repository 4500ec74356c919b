#pragma once
/// \file
/// A column of texts of which a few stand over and over again: the group of a place, the site on record for it.
#include <cstdint>
#include <string>
#include <unordered_map>
#include <vector>

namespace otoro::places {

/// One text a row; each distinct text is kept once. Four bytes a row.
class TextColumn {
public:
    TextColumn() = default;
    /// \param name of the field it was read from
    explicit TextColumn(std::string name) : name_(std::move(name)) {}

    void push_back(const std::string& text) {
        const auto [at, added] = number_of_.try_emplace(text, static_cast<std::uint32_t>(values_.size()));
        if (added) values_.push_back(text);
        rows_.push_back(at->second);
    }
    /// Takes the last row away; its text stays among `values()`.
    void pop_back() { rows_.pop_back(); }
    [[nodiscard]] const std::string& name() const { return name_; }
    /// Whether there is no such column at all.
    [[nodiscard]] bool empty() const { return rows_.empty(); }
    [[nodiscard]] std::size_t size() const { return rows_.size(); }
    [[nodiscard]] const std::string& at(std::size_t row) const { return values_[rows_[row]]; }
    /// The number of a row's text among `values()`.
    [[nodiscard]] std::uint32_t value_of(std::size_t row) const { return rows_[row]; }
    /// Distinct texts, in the order they were first met.
    [[nodiscard]] const std::vector<std::string>& values() const { return values_; }
    bool operator==(const TextColumn& o) const { return name_ == o.name_ && rows_ == o.rows_ && values_ == o.values_; }

private:
    std::string name_;
    std::vector<std::uint32_t> rows_;
    std::vector<std::string> values_;
    std::unordered_map<std::string, std::uint32_t> number_of_;
};

}  // namespace otoro::places
