#include "optimise/least_travel.h"

#include <algorithm>
#include <numeric>
#include <utility>

#include "optimise/column_flow.h"
#include "optimise/whole_rows.h"

namespace otoro::optimise {
namespace {

/// The one size that all rows of anything have; nothing if they differ.
std::int64_t one_size(std::span<const std::int64_t> amounts) {
    std::int64_t size = 0;
    for (const std::int64_t a : amounts) {
        if (a == 0 || a == size) continue;
        if (size != 0) return 0;
        size = a;
    }
    return size;
}

/// Whether a flow in this size is the best for whole rows: what columns are to have must be counted in it too.
bool decided_by_sizes(const Demand& demand, std::int64_t size) {
    for (std::size_t c = 0; c < demand.least.size(); ++c) {
        const std::int64_t room = demand.room[c] == kNoBound ? kNoBound : demand.room[c] / size * size;
        if (demand.least[c] % size != 0 || demand.least[c] > room) return false;
    }
    return true;
}

/// Rows of nothing take no room: each is at its cheapest column.
void add_nothing(const Pairs& pairs, std::uint32_t row, std::vector<Part>& parts) {
    const auto of_row = pairs.of(row);
    const auto least = std::min_element(of_row.begin(), of_row.end(), [](const Pair& a, const Pair& b) {
        return std::pair(a.cost, a.column) < std::pair(b.cost, b.column);
    });
    if (least != of_row.end()) parts.push_back({row, least->column, 0});
}

/// \param held how much of a row is at its slot; the slot after the last is no room
template <class Held>
Allocation allocation_of(const Pairs& pairs, const Demand& demand, Held&& held) {
    Allocation out;
    std::vector<std::int64_t> loads(demand.least.empty() ? 0 : demand.room.size(), 0);
    for (std::uint32_t row = 0; row < pairs.rows(); ++row) {
        if (demand.amounts[row] == 0) {
            add_nothing(pairs, row, out.parts);
            continue;
        }
        const auto of_row = pairs.of(row);
        const auto begin = static_cast<std::ptrdiff_t>(out.parts.size());
        for (std::size_t slot = 0; slot < of_row.size(); ++slot) {
            const std::int64_t amount = held(row, slot);
            if (amount == 0) continue;
            out.parts.push_back({row, of_row[slot].column, amount});
            out.total += Wide{of_row[slot].cost} * amount;
            if (!loads.empty()) loads[of_row[slot].column] += amount;
        }
        std::sort(out.parts.begin() + begin, out.parts.end(),
                  [](const Part& a, const Part& b) { return a.column < b.column; });
        out.left_over += held(row, of_row.size());
    }
    for (std::size_t c = 0; c < loads.size(); ++c)
        out.short_of_least += std::max<std::int64_t>(demand.least[c] - loads[c], 0);
    return out;
}

}  // namespace

namespace {

/// A table in which rows come largest first, and equal ones by what they cost where, their cheapest pairs first: so
/// that the order in which they are given decides nothing but which of two that are alike goes where.
class InOwnOrder {
public:
    InOwnOrder(const Pairs& pairs, const Demand& demand) : of_(pairs.rows()) {
        std::vector<std::vector<Pair>> rows(pairs.rows());
        for (std::uint32_t row = 0; row < pairs.rows(); ++row) {
            const auto of_row = pairs.of(row);
            rows[row].assign(of_row.begin(), of_row.end());
            std::sort(rows[row].begin(), rows[row].end(), before);
        }
        std::iota(of_.begin(), of_.end(), 0U);
        std::stable_sort(of_.begin(), of_.end(), [&](std::uint32_t a, std::uint32_t b) {
            if (demand.amounts[a] != demand.amounts[b]) return demand.amounts[a] > demand.amounts[b];
            return std::lexicographical_compare(rows[a].begin(), rows[a].end(), rows[b].begin(), rows[b].end(), before);
        });
        pairs_.reserve(pairs.rows(), pairs.count());
        for (const std::uint32_t row : of_) {
            pairs_.add_row(rows[row]);
            amounts_.push_back(demand.amounts[row]);
        }
    }
    [[nodiscard]] const Pairs& pairs() const { return pairs_; }
    [[nodiscard]] const std::vector<std::int64_t>& amounts() const { return amounts_; }
    /// The rows as they were given.
    void give_back(std::vector<Part>& parts) const {
        for (Part& p : parts) p.row = of_[p.row];
        std::sort(parts.begin(), parts.end(),
                  [](const Part& a, const Part& b) { return std::pair(a.row, a.column) < std::pair(b.row, b.column); });
    }

private:
    static bool before(const Pair& a, const Pair& b) {
        return std::pair(a.cost, a.column) < std::pair(b.cost, b.column);
    }
    std::vector<std::uint32_t> of_;
    Pairs pairs_;
    std::vector<std::int64_t> amounts_;
};

/// What the flow says, and whole rows as it has them; rows that it split are put together, and the best looked for.
void keep_whole(const Pairs& pairs, const Demand& demand, const ColumnFlow& flow, LeastTravel& out, const Task& task) {
    std::vector<std::int64_t> at(pairs.rows());
    for (std::uint32_t row = 0; row < pairs.rows(); ++row) {
        const std::size_t slots = pairs.of(row).size();
        std::size_t slot = 0;
        while (slot < slots && flow.held(row, slot) == 0) ++slot;
        at[row] = demand.amounts[row] == 0                      ? static_cast<std::int64_t>(slots)
                  : flow.held(row, slot) == demand.amounts[row] ? static_cast<std::int64_t>(slot)
                                                                : -1;
    }
    SplitAnswer split{out.prices, {}};
    for (std::uint32_t c = 0; c < demand.room.size(); ++c) split.loads.push_back(flow.load(c));
    const Goals bound{out.least_left_over, out.least_short, out.bound};
    make_whole(pairs, demand, split, bound, at, task);
    out.best = goals_of(pairs, demand, at) == bound || search_best_whole(pairs, demand, at, task);
    out.allocation = allocation_of(pairs, demand, [&](std::uint32_t row, std::size_t slot) {
        return at[row] == static_cast<std::int64_t>(slot) ? demand.amounts[row] : 0;
    });
}

LeastTravel solved(const Pairs& pairs, const Demand& demand, Splitting splitting, const Task& task) {
    // Rows of one size stay whole by themselves where room is counted in that size.
    const std::int64_t size = splitting == Splitting::whole_rows ? one_size(demand.amounts) : 0;
    std::vector<std::int64_t> room(demand.room.begin(), demand.room.end());
    std::vector<std::int64_t> least(demand.least.begin(), demand.least.end());
    const bool least_as_stated = size == 0 || decided_by_sizes(demand, size);
    if (size > 0) {
        for (auto& r : room)
            if (r != kNoBound) r = r / size * size;
        for (std::size_t c = 0; c < least.size(); ++c) {
            const std::int64_t sizes = least[c] / size + (least[c] % size > 0 ? 1 : 0);
            least[c] = room[c] / size < sizes ? room[c] : sizes * size;
        }
    }
    ColumnFlow flow(pairs, {demand.amounts, room, least});
    flow.settle(task);
    LeastTravel out;
    out.prices.assign(flow.prices().begin(), flow.prices().end() - 1);
    out.no_room = flow.no_room();
    out.short_of_least = flow.short_of_least();
    out.allocation =
        allocation_of(pairs, demand, [&](std::uint32_t row, std::size_t slot) { return flow.held(row, slot); });
    out.bound = out.allocation.total;
    out.objective = out.bound + Wide{out.allocation.left_over} * out.no_room;
    for (std::uint32_t c = 0; c < room.size(); ++c) {
        const Wide price = out.prices[c];
        if (price > 0) out.worth_of_room += price * room[c];
        if (least.empty()) continue;
        if (price < 0) out.worth_of_room += price * least[c];
        out.objective += Wide{std::max<std::int64_t>(least[c] - flow.load(c), 0)} * out.short_of_least;
    }
    out.least_left_over = out.allocation.left_over;
    // Of rounded numbers who comes out shortest in sizes need not do so in units: nothing is claimed.
    out.least_short = least_as_stated ? out.allocation.short_of_least : 0;
    out.best = out.proven();
    if (splitting == Splitting::whole_rows && (size == 0 || !least_as_stated))
        keep_whole(pairs, demand, flow, out, task);
    return out;
}

}  // namespace

LeastTravel least_travel(const Pairs& pairs, const Demand& demand, Splitting splitting, const Task& task) {
    const std::int64_t size = one_size(demand.amounts);
    if (splitting == Splitting::allowed || (size > 0 && decided_by_sizes(demand, size)))
        return solved(pairs, demand, splitting, task);
    const InOwnOrder own(pairs, demand);
    auto out = solved(own.pairs(), {own.amounts(), demand.room, demand.least}, splitting, task);
    own.give_back(out.allocation.parts);
    return out;
}

}  // namespace otoro::optimise
