#pragma once
/// \file
/// Pairs that a table has no row for, and why.
#include <cstdint>
#include <optional>
#include <utility>
#include <vector>

#include "service/assign.h"

namespace otoro::service {

/// Ends that no road is near have no row at all, and are known before anything is searched for; of other pairs without
/// a way within the limit the number is counted, and the first are kept.
class PairsLeftOut {
public:
    PairsLeftOut() = default;
    PairsLeftOut(const Ready& ready, const Plan& plan);

    struct End {
        std::uint32_t number;
        bool has_position;  ///< a place on the globe, where no road is near
    };
    struct Pair {
        std::optional<std::uint32_t> site;  ///< nothing: with any
        std::uint32_t place;
    };
    static constexpr std::size_t kMostKept = 10;

    /// A pair between which there is no way within the limit, or a place that has none with any site.
    void add(std::optional<std::uint32_t> site, std::uint32_t place) {
        if (off_places_[place] || (site && off_sites_[*site])) return;
        if (first_.size() < kMostKept) first_.push_back({site, place});
        ++without_way_;
    }

    [[nodiscard]] const std::vector<End>& sites() const { return sites_; }
    [[nodiscard]] const std::vector<End>& places() const { return places_; }
    [[nodiscard]] std::uint64_t without_way() const { return without_way_; }
    [[nodiscard]] const std::vector<Pair>& first() const { return first_; }

private:
    std::vector<bool> off_sites_, off_places_;
    std::vector<End> sites_, places_;
    std::uint64_t without_way_ = 0;
    std::vector<Pair> first_;
};

}  // namespace otoro::service
