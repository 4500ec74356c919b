#include "optimise/nearest_first.h"

#include <tbb/parallel_sort.h>

#include <algorithm>
#include <numeric>
#include <queue>
#include <tuple>

namespace otoro::optimise {
namespace {

/// A row whose turn comes at this cost: with its next pair, or to ask for more.
struct Turn {
    std::uint32_t rank, cost, column, row;
    bool asks;  ///< its known pairs are used up; the next costs no less than `cost`
    /// The first of them is on top; who asks goes before who takes at the same cost, since its next pair may be first.
    bool operator<(const Turn& o) const {
        return std::tuple(rank, cost, !asks, column, row) > std::tuple(o.rank, o.cost, !o.asks, o.column, o.row);
    }
};

class NearestFirst {
public:
    NearestFirst(const Demand& demand, std::span<const std::uint32_t> ranks, Splitting splitting,
                 const AskForPairs& ask, std::uint32_t each)
        : ranks_(ranks),
          split_(splitting == Splitting::allowed),
          ask_(ask),
          each_(each),
          left_(demand.amounts.begin(), demand.amounts.end()),
          room_(demand.room.begin(), demand.room.end()),
          known_(demand.amounts.size()),
          has_room_(demand.room.size(), true) {}

    Allocation run(const Task& task) {
        std::vector<std::uint32_t> rows(left_.size());
        std::iota(rows.begin(), rows.end(), 0U);
        learn(rows);
        // Everybody's first turn is sorted at once; those that come later are few, and wait in a queue.
        const auto comes_later = [](const Turn& a, const Turn& b) { return a < b; };
        tbb::parallel_sort(first_turns_.begin(), first_turns_.end(), comes_later);
        begun_ = true;
        constexpr std::uint32_t kSeldom = 16'384;
        for (std::uint32_t steps = 0; !first_turns_.empty() || !turns_.empty(); ++steps) {
            if (steps % kSeldom == 0)
                task.at("filling the nearest first",
                        static_cast<double>(done_) / static_cast<double>(std::max<std::size_t>(1, left_.size())));
            const Turn turn = next();
            if (turn.asks)
                learn_all(turn.row);
            else
                take(turn);
        }
        for (const std::int64_t left : left_) out_.left_over += left;
        tbb::parallel_sort(out_.parts.begin(), out_.parts.end(), [](const Part& a, const Part& b) {
            return std::tie(a.row, a.column) < std::tie(b.row, b.column);
        });
        return std::move(out_);
    }

private:
    struct Known {
        std::uint32_t first = 0, next = 0, end = 0;  ///< in `pairs_`
        bool all = false;                            ///< it has no others
        bool waits = false;                          ///< to learn more
    };

    [[nodiscard]] std::uint32_t rank(std::uint32_t row) const { return ranks_.empty() ? 0 : ranks_[row]; }

    void add(const Turn& turn) {
        if (begun_)
            turns_.push(turn);
        else
            first_turns_.push_back(turn);
    }
    Turn next() {
        const bool queued = !turns_.empty() && (first_turns_.empty() || first_turns_.back() < turns_.top());
        const Turn turn = queued ? turns_.top() : first_turns_.back();
        if (queued)
            turns_.pop();
        else
            first_turns_.pop_back();
        return turn;
    }

    void take(const Turn& turn) {
        std::int64_t& room = room_[turn.column];
        const std::int64_t wanted = left_[turn.row];
        const std::int64_t amount = room >= wanted ? wanted : split_ ? room : 0;
        if (amount > 0 || wanted == 0) {
            out_.parts.push_back({turn.row, turn.column, amount});
            out_.total += Wide{turn.cost} * amount;
            left_[turn.row] -= amount;
            if (room != kNoBound) room -= amount;
            has_room_[turn.column] = room > 0;
        }
        if (left_[turn.row] == 0)
            ++done_;
        else
            next_turn(turn.row, turn.cost);
    }

    void next_turn(std::uint32_t row, std::uint32_t cost) {
        Known& known = known_[row];
        while (known.next < known.end && !has_room_[pairs_[known.next].column] && left_[row] > 0) {
            cost = pairs_[known.next].cost;
            ++known.next;
        }
        if (known.next < known.end) {
            const Pair& pair = pairs_[known.next++];
            add({rank(row), pair.cost, pair.column, row, false});
        } else if (!known.all) {
            add({rank(row), cost, 0, row, true});
            waiting_.push_back(row);
            known.waits = true;
        } else {
            ++done_;
        }
    }

    /// All that wait learn at once: a search for many costs little more than one for one.
    void learn_all(std::uint32_t row) {
        if (!known_[row].waits) return;  // has learned with another
        std::vector<std::uint32_t> rows;
        rows.swap(waiting_);
        std::sort(rows.begin(), rows.end());
        learn(rows);
    }

    void learn(const std::vector<std::uint32_t>& rows) {
        const Pairs more = ask_(rows, has_room_, each_);
        const std::uint32_t asked = each_;
        for (std::uint32_t i = 0; i < rows.size(); ++i) {
            const auto of_row = more.of(i);
            Known& known = known_[rows[i]];
            known.first = known.next = static_cast<std::uint32_t>(pairs_.size());
            pairs_.insert(pairs_.end(), of_row.begin(), of_row.end());
            known.end = static_cast<std::uint32_t>(pairs_.size());
            known.waits = false;
            known.all = of_row.size() < asked || asked >= room_.size();
            // Only sites without room for it: to ask for as many again would find the same.
            const bool stuck = !known.all && std::none_of(of_row.begin(), of_row.end(), [&](const Pair& p) {
                return room_[p.column] > 0 && (split_ || room_[p.column] >= left_[rows[i]]);
            });
            if (stuck && each_ == asked) each_ = std::min(asked * 2, static_cast<std::uint32_t>(room_.size()));
            next_turn(rows[i], 0);
        }
    }

    std::span<const std::uint32_t> ranks_;
    bool split_;
    const AskForPairs& ask_;
    std::uint32_t each_;
    std::vector<std::int64_t> left_, room_;
    std::vector<Known> known_;
    std::vector<Pair> pairs_;
    std::vector<bool> has_room_;
    std::vector<std::uint32_t> waiting_;
    bool begun_ = false;
    std::vector<Turn> first_turns_;  // the first is last
    std::priority_queue<Turn> turns_;
    std::size_t done_ = 0;
    Allocation out_;
};

}  // namespace

Allocation nearest_first(const Demand& demand, std::span<const std::uint32_t> ranks, Splitting splitting,
                         const AskForPairs& ask, std::uint32_t each, const Task& task) {
    return NearestFirst(demand, ranks, splitting, ask, std::max(1U, each)).run(task);
}

}  // namespace otoro::optimise
