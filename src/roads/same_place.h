#pragma once
/// \file
/// Which of many points are at the same place?
///
/// \par Method
/// Points are sorted along a Z-order curve (Morton 1966) of cells of 1e-6 degrees; two are at the same place when they
/// are within 1e-8 degrees (about 1 mm) of the same first-seen point in both longitude and latitude. Places are
/// numbered along the curve, so that neighbours stand near each other in memory, which every search afterwards gains
/// from.
///
/// \par Cost
/// One parallel sort; 16 bytes a point while it runs. The result does not depend on the number of threads.
#include <tbb/blocked_range.h>
#include <tbb/parallel_for.h>
#include <tbb/parallel_sort.h>

#include <array>
#include <cmath>
#include <cstdint>
#include <vector>

#include "geo/position.h"

namespace otoro::roads {

/// The places found, and which each point is at.
struct Places {
    std::vector<std::uint32_t> place_of;  ///< one a point
    std::vector<geo::LonLat> positions;   ///< one a place: that of its first point
};

/// Bits of a 32-bit number spread to the even places.
inline std::uint64_t spread(std::uint32_t v) {
    std::uint64_t x = v;
    x = (x | (x << 16U)) & 0x0000ffff0000ffffU;
    x = (x | (x << 8U)) & 0x00ff00ff00ff00ffU;
    x = (x | (x << 4U)) & 0x0f0f0f0f0f0f0f0fU;
    x = (x | (x << 2U)) & 0x3333333333333333U;
    return (x | (x << 1U)) & 0x5555555555555555U;
}

/// \tparam PositionOf `geo::LonLat(std::uint32_t point)`
template <class PositionOf>
class SamePlace {
public:
    SamePlace(std::uint32_t count, PositionOf position) : count_(count), position_(std::move(position)) {}

    Places find() {
        sort();
        number();
        merge_across_cells();
        return finished();
    }

private:
    static constexpr double kCells = 1e6;  // a degree

    struct Cell {
        std::int64_t x, y;
        [[nodiscard]] std::uint64_t key() const {
            return spread(static_cast<std::uint32_t>(x)) | (spread(static_cast<std::uint32_t>(y)) << 1U);
        }
    };
    /// A point: its cell, and where in the cell it is in 65,536ths.
    struct Item {
        std::uint64_t key;
        std::uint32_t number;
        std::uint16_t x, y;
    };
    static constexpr int kFine = 65'536;
    static constexpr int kNear = 655;  // 1e-8 degrees

    static Cell cell(geo::LonLat p) {
        return {static_cast<std::int64_t>(std::floor((p.lon + 180) * kCells)),
                static_cast<std::int64_t>(std::floor((p.lat + 90) * kCells))};
    }
    static bool same(const Item& a, const Item& b) {
        return std::abs(a.x - b.x) <= kNear && std::abs(a.y - b.y) <= kNear;
    }
    /// The same for ends of cells that lie `dx` and `dy` cells apart.
    static bool same_across(const Item& a, const Item& b, int dx, int dy) {
        return std::abs(b.x + dx * kFine - a.x) <= kNear && std::abs(b.y + dy * kFine - a.y) <= kNear;
    }
    /// -1 or 1 if a place within its cell is nearer than the tolerance to the lower or upper edge.
    static int fence(std::uint16_t within) { return within <= kNear ? -1 : within >= kFine - kNear ? 1 : 0; }
    static std::uint16_t within(double shifted) {
        const double cells = shifted * kCells;
        return static_cast<std::uint16_t>((cells - std::floor(cells)) * kFine);
    }

    void sort() {
        sorted_.resize(count_);
        tbb::parallel_for(tbb::blocked_range<std::uint32_t>(0, count_, 8192), [&](const auto& range) {
            for (std::uint32_t e = range.begin(); e != range.end(); ++e) {
                const geo::LonLat p = position_(e);
                sorted_[e] = {cell(p).key(), e, within(p.lon + 180), within(p.lat + 90)};
            }
        });
        tbb::parallel_sort(
            sorted_, [](const Item& a, const Item& b) { return a.key != b.key ? a.key < b.key : a.number < b.number; });
    }

    /// One place for the points of a cell that are with the first of them; nearly always that is all of the cell.
    void number() {
        place_of_.resize(sorted_.size());
        std::size_t nodes = 0;  // the first end of each node moves to the front of the list
        for (std::size_t i = 0; i < sorted_.size();) {
            const std::size_t cell_begin = nodes;
            const std::uint64_t key = sorted_[i].key;
            for (; i < sorted_.size() && sorted_[i].key == key; ++i) {
                const Item end = sorted_[i];
                std::size_t node = cell_begin;
                while (node < nodes && !same(sorted_[node], end)) ++node;
                if (node == nodes) sorted_[nodes++] = end;
                place_of_[end.number] = static_cast<std::uint32_t>(node);
            }
        }
        sorted_.resize(nodes);
    }

    /// A node within the tolerance of its cell's edge may be the same place as one beyond it.
    void merge_across_cells() {
        merged_.assign(sorted_.size(), kNone);
        for (std::uint32_t node = 0; node < sorted_.size(); ++node) {
            const Item here = sorted_[node];
            const int fx = fence(here.x);
            const int fy = fence(here.y);
            if (fx == 0 && fy == 0) continue;
            const Cell at = cell(position_(here.number));
            for (const auto& [dx, dy] : std::array{std::pair{fx, 0}, std::pair{0, fy}, std::pair{fx, fy}}) {
                if (dx == 0 && dy == 0) continue;
                const std::uint64_t key = Cell{at.x + dx, at.y + dy}.key();
                auto other = std::lower_bound(sorted_.begin(), sorted_.end(), key,
                                              [](const Item& e, std::uint64_t k) { return e.key < k; });
                for (; other != sorted_.end() && other->key == key; ++other)
                    if (same_across(here, *other, dx, dy))
                        unite(node, static_cast<std::uint32_t>(other - sorted_.begin()));
            }
        }
    }

    [[nodiscard]] std::uint32_t root(std::uint32_t node) const {
        while (merged_[node] != kNone) node = merged_[node];
        return node;
    }
    /// The node whose end is first in the file stays.
    void unite(std::uint32_t a, std::uint32_t b) {
        a = root(a);
        b = root(b);
        if (a == b) return;
        if (sorted_[b].number < sorted_[a].number) std::swap(a, b);
        merged_[b] = a;
    }

    Places finished() const {
        Places out;
        std::vector<std::uint32_t> number(sorted_.size(), kNone);
        std::uint32_t count = 0;
        for (std::uint32_t node = 0; node < sorted_.size(); ++node)
            if (merged_[node] == kNone) number[node] = count++;
        out.positions.resize(count);
        tbb::parallel_for(tbb::blocked_range<std::uint32_t>(0, static_cast<std::uint32_t>(sorted_.size()), 8192),
                          [&](const auto& range) {
                              for (std::uint32_t node = range.begin(); node != range.end(); ++node)
                                  if (number[node] != kNone)
                                      out.positions[number[node]] = position_(sorted_[node].number);
                          });
        out.place_of.resize(count_);
        for (std::uint32_t i = 0; i < count_; ++i) out.place_of[i] = number[root(place_of_[i])];
        return out;
    }

    static constexpr std::uint32_t kNone = 0xffffffff;
    std::uint32_t count_;
    PositionOf position_;
    std::vector<Item> sorted_;  // all points; then the first of each place
    std::vector<std::uint32_t> place_of_;
    std::vector<std::uint32_t> merged_;  // into which other place, if any
};

}  // namespace otoro::roads
