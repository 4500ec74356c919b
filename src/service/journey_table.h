#pragma once
/// \file
/// Which sites places can go to, and what that takes: a sparse table, place by place.
#include <compare>
#include <cstddef>
#include <cstdint>
#include <span>
#include <vector>

namespace otoro::service {

/// A site that a place can go to, and what that takes, its off-road legs counted as the question says.
struct ReachableSite {
    std::uint32_t cost = 0;  ///< in the question's measure
    std::uint32_t site = 0;
    std::uint32_t other = 0;  ///< along the same route, in the other measure
    auto operator<=>(const ReachableSite&) const = default;
};

/// Some sites of each place, nearest first.
class JourneyTable {
public:
    void reserve(std::size_t places, std::size_t entries) {
        first_.reserve(places + 1);
        all_.reserve(entries);
    }
    void add_row(std::span<const ReachableSite> row) {
        all_.insert(all_.end(), row.begin(), row.end());
        first_.push_back(all_.size());
    }
    [[nodiscard]] std::span<const ReachableSite> of(std::size_t row) const {
        return {all_.data() + first_[row], all_.data() + first_[row + 1]};
    }
    [[nodiscard]] std::size_t rows() const { return first_.size() - 1; }
    [[nodiscard]] std::size_t count() const { return all_.size(); }
    bool operator==(const JourneyTable&) const = default;

private:
    std::vector<std::size_t> first_{0};
    std::vector<ReachableSite> all_;
};

}  // namespace otoro::service
