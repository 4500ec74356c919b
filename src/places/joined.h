#pragma once
/// \file
/// Several sets seen as one list.
#include <algorithm>
#include <cstdint>
#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "places/demand.h"

namespace otoro::places {

/// Sets of one kind, one after another: the places of the first set, then those of the second, and so on. Each place
/// keeps the set it came from. Nothing is copied; two are equal when they are the very same sets.
///
/// Looking up a place costs the logarithm of the number of sets.
template <class Set, class Index>
class Joined {
public:
    using Record = typename Set::Record;

    Joined() = default;
    explicit Joined(std::vector<std::shared_ptr<const Set>> sets) : sets_(std::move(sets)) {
        for (const auto& set : sets_) first_.push_back(first_.back() + set->count());
    }
    /// Of one set.
    template <class S>
    Joined(std::shared_ptr<S> set)  // NOLINT(google-explicit-constructor): one set is a list of sets
        : Joined(std::vector<std::shared_ptr<const Set>>{std::move(set)}) {}

    [[nodiscard]] std::uint32_t count() const { return first_.back(); }
    [[nodiscard]] const std::vector<std::shared_ptr<const Set>>& sets() const& { return sets_; }
    /// Of a value that goes away: by value, so that a loop over them may be written.
    [[nodiscard]] std::vector<std::shared_ptr<const Set>> sets() && { return std::move(sets_); }
    /// Which of the sets a place is in.
    [[nodiscard]] std::size_t part_of(std::uint32_t i) const {
        if (sets_.size() == 1) return 0;
        return static_cast<std::size_t>(std::upper_bound(first_.begin(), first_.end(), i) - first_.begin()) - 1;
    }
    /// The number in the whole list of the first place of a set.
    [[nodiscard]] std::uint32_t first(std::size_t part) const { return first_[part]; }
    [[nodiscard]] const Set& set_of(std::uint32_t i) const { return *sets_[part_of(i)]; }
    /// A place's number in its own set.
    [[nodiscard]] std::uint32_t local(std::uint32_t i) const { return i - first_[part_of(i)]; }
    [[nodiscard]] const Record& at(std::uint32_t i) const {
        const std::size_t part = part_of(i);
        return sets_[part]->records()[i - first_[part]];
    }
    [[nodiscard]] const Record& at(Index i) const { return at(i.value()); }
    /// The number in the whole list of a place of a set; nothing if the set is none of these.
    [[nodiscard]] std::optional<std::uint32_t> number_of(const std::string& set, std::uint32_t local) const {
        for (std::size_t p = 0; p < sets_.size(); ++p)
            if (sets_[p]->name == set) return first_[p] + local;
        return std::nullopt;
    }
    bool operator==(const Joined& o) const { return sets_ == o.sets_; }

private:
    std::vector<std::shared_ptr<const Set>> sets_;
    std::vector<std::uint32_t> first_{0};  // one more than there are sets
};

using Demand = Joined<DemandSet, DemandIndex>;
using Sites = Joined<SiteSet, SiteIndex>;

template <class Set, class Index>
std::vector<std::optional<geo::LonLat>> positions(const Joined<Set, Index>& all) {
    std::vector<std::optional<geo::LonLat>> out;
    out.reserve(all.count());
    for (const auto& set : all.sets())
        for (const auto& r : set->records()) out.push_back(r.position);
    return out;
}

}  // namespace otoro::places
