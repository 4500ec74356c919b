#pragma once
/// \file
/// Rows that move between columns by successive shortest paths; see `least_travel.h` for the method.
#include <cstdint>
#include <optional>
#include <queue>
#include <unordered_map>
#include <vector>

#include "geo/task.h"
#include "optimise/allocation.h"

namespace otoro::optimise {

/// A flow that is always the cheapest for the loads it has. One more column than there are stands for finding no room.
class ColumnFlow {
public:
    /// Every row at its cheapest column, whatever its room. \pre no row has 65,535 pairs or more
    ColumnFlow(const Pairs& pairs, const Demand& demand);
    /// Moves what is too much to where there is room, then what is not needed to where there is too little. \throws
    /// Stopped
    void settle(const Task& task);

    /// How much of a row is at its pair number `slot`; the slot after the last stands for no room.
    [[nodiscard]] std::int64_t held(std::uint32_t row, std::size_t slot) const {
        return slot == pairs_.of(row).size() ? without_[row] : held_[first_[row] + slot];
    }
    [[nodiscard]] std::int64_t load(std::uint32_t column) const { return loads_[column]; }
    [[nodiscard]] const std::vector<std::int64_t>& prices() const { return prices_; }
    [[nodiscard]] std::int64_t no_room() const { return no_room_; }
    /// What a unit costs that a column is short of its least: more than any path.
    [[nodiscard]] std::int64_t short_of_least() const { return short_of_least_; }

private:
    /// A row that may move: what a unit of it costs more there.
    struct Move {
        std::int64_t more;
        std::uint32_t row;
        std::uint16_t from, to;                                                                       ///< slots
        bool operator<(const Move& o) const { return more != o.more ? more > o.more : row > o.row; }  // least on top
    };
    /// To another column; what the cheapest move there costs more is kept up to date, since every search reads it.
    struct Arc {
        std::uint32_t to;
        std::int64_t more;
    };
    using Moves = std::vector<Move>;  ///< a heap; some of them are no longer there, but the first is
    struct Column {
        bool open = false;  ///< whether its arcs know the rows that it has
        std::vector<Arc> arcs;
        std::vector<Moves> moves;  ///< one heap an arc
        std::unordered_map<std::uint32_t, std::uint32_t> arc_to;
        std::vector<std::uint32_t> rows;  ///< those that came before it was open
    };
    struct Found {
        std::uint32_t sink;
        std::int64_t distance;
    };

    [[nodiscard]] std::int64_t& held_at(std::uint32_t row, std::size_t slot) {
        return slot == pairs_.of(row).size() ? without_[row] : held_[first_[row] + slot];
    }
    [[nodiscard]] std::uint32_t none() const { return static_cast<std::uint32_t>(columns_.size() - 1); }
    [[nodiscard]] std::uint32_t column(std::uint32_t row, std::size_t slot) const {
        const auto pairs = pairs_.of(row);
        return slot == pairs.size() ? none() : pairs[slot].column;
    }
    [[nodiscard]] std::int64_t cost(std::uint32_t row, std::size_t slot) const {
        const auto pairs = pairs_.of(row);
        return slot == pairs.size() ? no_room_ : pairs[slot].cost;
    }
    void open(std::uint32_t column);
    void add_moves(Column& column, std::uint32_t row, std::size_t from);
    /// Who has left is taken from the tops of the column's heaps.
    void drop_moves(Column& column, std::uint32_t row);
    void clean(Column& column, std::uint32_t arc);
    void relieve(const Task& task);
    void fill(const Task& task);
    /// The cheapest path from what is too much to room; nothing if nothing is too much. Prices follow.
    std::optional<Found> search_room();
    /// The cheapest path from what can be spared to who has too little; nothing if there is none. Prices follow.
    std::optional<Found> search_spare();
    /// From sources that are known to the first column that `ends`.
    template <class Ends>
    std::optional<Found> search(const Ends& ends);
    void begin_search();
    void reach(std::uint32_t column, std::int64_t distance, std::uint32_t from, std::uint32_t by);
    /// Moves as much as the rows on the path have, and no more than may come to its end and leave its beginning.
    template <class MayLeave>
    void push_along(std::uint32_t sink, std::int64_t may_come, const MayLeave& may_leave);
    /// Nothing costs less for these loads at prices lower by the distance, but by no more than `most`.
    void lower_prices(std::int64_t most);
    [[nodiscard]] bool has_room(std::uint32_t column) const { return loads_[column] < room_[column]; }
    [[nodiscard]] bool has_too_little(std::uint32_t column) const { return loads_[column] < least_[column]; }

    const Pairs& pairs_;
    std::vector<std::size_t> first_;
    std::vector<std::int64_t> held_, without_;  // by pair, by row
    std::vector<Column> columns_;
    std::vector<std::int64_t> room_, least_, loads_, prices_;
    std::int64_t no_room_ = 0, short_of_least_ = 0;
    // Of the path being searched.
    std::vector<std::int64_t> distance_;
    std::vector<std::uint32_t> came_from_, came_by_;  // column, and number of its arc
    std::vector<std::uint32_t> seen_;
    std::vector<bool> done_;
    using Step = std::pair<std::int64_t, std::uint32_t>;
    std::priority_queue<Step, std::vector<Step>, std::greater<>> queue_;
};

}  // namespace otoro::optimise
