#pragma once
/// \file
/// Times and distances between all pairs of two sets, and what they come to.
///
/// \par Cost
/// As `travel_table.h`; 8 bytes a pair.
#include <cstdint>
#include <limits>
#include <vector>

#include "service/assign.h"
#include "service/pairs_left_out.h"

namespace otoro::service {

/// Between every site in use and every place: a row a site, in file order.
class PairMatrix {
public:
    static constexpr std::uint32_t kNone = std::numeric_limits<std::uint32_t>::max();
    /// As many fit into the memory of a desk's machine: 2 GB.
    static constexpr std::size_t kMostPairs = 250'000'000;

    PairMatrix(std::vector<SiteIndex> sites, std::size_t places)
        : sites_(std::move(sites)), places_(places), ms_(sites_.size() * places, kNone), mm_(ms_.size(), kNone) {}

    /// Those of the rows.
    [[nodiscard]] const std::vector<SiteIndex>& sites() const { return sites_; }
    [[nodiscard]] std::size_t rows() const { return sites_.size(); }
    [[nodiscard]] std::size_t places() const { return places_; }
    /// Whether there is a way, within the question's limit.
    [[nodiscard]] bool there(std::size_t row, std::size_t place) const { return ms_[row * places_ + place] != kNone; }
    [[nodiscard]] Millis time(std::size_t row, std::size_t place) const { return Millis(ms_[row * places_ + place]); }
    [[nodiscard]] Millimetres distance(std::size_t row, std::size_t place) const {
        return Millimetres(mm_[row * places_ + place]);
    }
    void set(std::size_t row, std::size_t place, Millis time, Millimetres distance) {
        ms_[row * places_ + place] = static_cast<std::uint32_t>(time.count());
        mm_[row * places_ + place] = static_cast<std::uint32_t>(distance.count());
    }

private:
    std::vector<SiteIndex> sites_;
    std::size_t places_;
    std::vector<std::uint32_t> ms_, mm_;
};

/// \throws InputError with more than `kMostPairs`; Stopped
PairMatrix pair_matrix(const Ready& ready, const Plan& plan, const Task& task);

/// Pairs between which a matrix has no way, and why.
PairsLeftOut left_out(const PairMatrix& matrix, const Ready& ready, const Plan& plan);

/// Of some pairs, each counting the same; percentiles by nearest rank.
struct PairStatistics {
    std::size_t pairs = 0;      ///< between which there is a way within the limit
    std::size_t without = 0;    ///< between which there is none
    Statistics time, distance;  ///< ms and mm; of no meaning without pairs
};

struct MatrixStatistics {
    PairStatistics all;
    std::vector<PairStatistics> by_row;  ///< of each site
    std::vector<PairStatistics> by_place;
};

/// \param with_itself sites and places are the same points: none is paired with itself \throws Stopped
MatrixStatistics statistics(const PairMatrix& matrix, bool with_itself, const Task& task);

}  // namespace otoro::service
