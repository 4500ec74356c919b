#include "optimise/column_flow.h"

#include <algorithm>
#include <functional>

namespace otoro::optimise {
namespace {
constexpr std::int64_t kFar = std::numeric_limits<std::int64_t>::max();
constexpr std::uint32_t kNobody = std::numeric_limits<std::uint32_t>::max();
constexpr std::uint32_t kSeldom = 256;
}  // namespace

ColumnFlow::ColumnFlow(const Pairs& pairs, const Demand& demand)
    : pairs_(pairs),
      held_(pairs.count(), 0),
      without_(pairs.rows(), 0),
      columns_(demand.room.size() + 1),
      room_(demand.room.begin(), demand.room.end()),
      least_(demand.least.begin(), demand.least.end()),
      loads_(demand.room.size() + 1, 0),
      prices_(demand.room.size() + 1, 0) {
    room_.push_back(kNoBound);
    least_.resize(columns_.size(), 0);
    first_.reserve(pairs.rows());
    std::size_t at = 0;
    for (std::uint32_t row = 0; row < pairs.rows(); ++row) {
        first_.push_back(at);
        const auto of_row = pairs.of(row);
        at += of_row.size();
        std::size_t best = of_row.size();
        for (std::size_t slot = 0; slot < of_row.size(); ++slot) {
            if (best == of_row.size() ||
                std::pair(of_row[slot].cost, of_row[slot].column) < std::pair(of_row[best].cost, of_row[best].column))
                best = slot;
        }
        if (demand.amounts[row] == 0) continue;
        held_at(row, best) = demand.amounts[row];
        loads_[column(row, best)] += demand.amounts[row];
        columns_[column(row, best)].rows.push_back(row);
    }
    // A path passes each column once, and no step of it costs more than a pair may. Nor does a pair that is not known.
    short_of_least_ = (std::int64_t{1} << 32U) * static_cast<std::int64_t>(columns_.size() + 1);
    no_room_ = 4 * short_of_least_;
    distance_.assign(columns_.size(), kFar);
    came_from_.assign(columns_.size(), kNobody);
    came_by_.assign(columns_.size(), 0);
    done_.assign(columns_.size(), false);
}

void ColumnFlow::add_moves(Column& column, std::uint32_t row, std::size_t from) {
    const std::int64_t now = cost(row, from);
    for (std::size_t to = 0; to <= pairs_.of(row).size(); ++to) {
        if (to == from) continue;
        const auto [known, added] =
            column.arc_to.try_emplace(this->column(row, to), static_cast<std::uint32_t>(column.arcs.size()));
        if (added) {
            column.arcs.push_back({known->first, kFar});
            column.moves.emplace_back();
        }
        auto& moves = column.moves[known->second];
        moves.push_back({cost(row, to) - now, row, static_cast<std::uint16_t>(from), static_cast<std::uint16_t>(to)});
        if (!column.open) continue;
        std::push_heap(moves.begin(), moves.end());
        column.arcs[known->second].more = moves.front().more;
    }
}

void ColumnFlow::open(std::uint32_t number) {
    Column& column = columns_[number];
    if (column.open) return;
    for (const std::uint32_t row : column.rows) {
        std::size_t slot = 0;
        while (this->column(row, slot) != number) ++slot;
        if (held(row, slot) > 0) add_moves(column, row, slot);
    }
    column.rows = {};
    for (std::uint32_t k = 0; k < column.arcs.size(); ++k) {
        std::make_heap(column.moves[k].begin(), column.moves[k].end());
        clean(column, k);
    }
    column.open = true;
}

void ColumnFlow::clean(Column& column, std::uint32_t arc) {
    auto& moves = column.moves[arc];
    while (!moves.empty() && held(moves.front().row, moves.front().from) == 0) {
        std::pop_heap(moves.begin(), moves.end());
        moves.pop_back();
    }
    column.arcs[arc].more = moves.empty() ? kFar : moves.front().more;
}

void ColumnFlow::drop_moves(Column& column, std::uint32_t row) {
    for (std::size_t slot = 0; slot <= pairs_.of(row).size(); ++slot) {
        const auto known = column.arc_to.find(this->column(row, slot));
        if (known != column.arc_to.end() && !column.moves[known->second].empty() &&
            column.moves[known->second].front().row == row)
            clean(column, known->second);
    }
}

void ColumnFlow::begin_search() {
    for (const std::uint32_t c : seen_) {
        distance_[c] = kFar;
        done_[c] = false;
    }
    seen_.clear();
    queue_ = {};
}

void ColumnFlow::reach(std::uint32_t c, std::int64_t distance, std::uint32_t from, std::uint32_t by) {
    if (distance >= distance_[c]) return;
    if (distance_[c] == kFar) seen_.push_back(c);
    distance_[c] = distance;
    came_from_[c] = from;
    came_by_[c] = by;
    queue_.push({distance, c});
}

template <class Ends>
std::optional<ColumnFlow::Found> ColumnFlow::search(const Ends& ends) {
    while (!queue_.empty()) {
        const auto [distance, c] = queue_.top();
        queue_.pop();
        if (done_[c]) continue;
        done_[c] = true;
        if (ends(c)) return Found{c, distance};
        open(c);
        const auto& arcs = columns_[c].arcs;
        for (std::uint32_t k = 0; k < arcs.size(); ++k)
            if (arcs[k].more != kFar)
                reach(arcs[k].to, distance + arcs[k].more + prices_[arcs[k].to] - prices_[c], c, k);
    }
    return std::nullopt;
}

std::optional<ColumnFlow::Found> ColumnFlow::search_room() {
    begin_search();
    for (std::uint32_t c = 0; c < none(); ++c)
        if (loads_[c] > room_[c]) reach(c, 0, kNobody, 0);
    const auto found = search([this](std::uint32_t c) { return has_room(c); });
    if (found)
        for (const std::uint32_t s : seen_)
            if (done_[s]) prices_[s] += found->distance - distance_[s];
    return found;
}

std::optional<ColumnFlow::Found> ColumnFlow::search_spare() {
    begin_search();
    // What leaves a full column makes room there, which has its price.
    for (std::uint32_t c = 0; c < columns_.size(); ++c)
        if (loads_[c] > least_[c]) reach(c, prices_[c], kNobody, 0);
    const auto found = search([this](std::uint32_t c) { return has_too_little(c); });
    if (found) lower_prices(found->distance);
    return found;
}

void ColumnFlow::lower_prices(std::int64_t most) {
    for (std::uint32_t c = 0; c < none(); ++c) {
        prices_[c] -= std::min(distance_[c], most);
        if (least_[c] == 0) prices_[c] = std::max<std::int64_t>(prices_[c], 0);
    }
}

template <class MayLeave>
void ColumnFlow::push_along(std::uint32_t sink, std::int64_t may_come, const MayLeave& may_leave) {
    std::int64_t amount = may_come;
    std::uint32_t source = sink;
    for (; came_from_[source] != kNobody; source = came_from_[source]) {
        const Move& move = columns_[came_from_[source]].moves[came_by_[source]].front();
        amount = std::min(amount, held(move.row, move.from));
    }
    amount = std::min(amount, may_leave(source));
    loads_[source] -= amount;
    loads_[sink] += amount;
    for (std::uint32_t c = sink; came_from_[c] != kNobody; c = came_from_[c]) {
        Column& left = columns_[came_from_[c]];
        const Move move = left.moves[came_by_[c]].front();
        held_at(move.row, move.from) -= amount;
        if (held(move.row, move.from) == 0) drop_moves(left, move.row);
        std::int64_t& there = held_at(move.row, move.to);
        const bool new_there = there == 0;
        there += amount;
        if (!new_there) continue;
        if (columns_[c].open)
            add_moves(columns_[c], move.row, move.to);
        else
            columns_[c].rows.push_back(move.row);
    }
}

void ColumnFlow::settle(const Task& task) {
    relieve(task);
    fill(task);
}

void ColumnFlow::relieve(const Task& task) {
    const auto too_much = [&] {
        double sum = 0;
        for (std::size_t c = 0; c < room_.size(); ++c)
            if (loads_[c] > room_[c]) sum += static_cast<double>(loads_[c] - room_[c]);
        return sum;
    };
    const double at_first = too_much();
    for (std::uint32_t paths = 0;; ++paths) {
        if (paths % kSeldom == 0) task.at("finding room for all", at_first > 0 ? 1 - too_much() / at_first : 1);
        const auto found = search_room();
        if (!found) return;
        push_along(found->sink, room_[found->sink] == kNoBound ? kNoBound : room_[found->sink] - loads_[found->sink],
                   [this](std::uint32_t source) { return loads_[source] - room_[source]; });
    }
}

void ColumnFlow::fill(const Task& task) {
    const auto too_little = [&] {
        double sum = 0;
        for (std::uint32_t c = 0; c < none(); ++c)
            if (has_too_little(c)) sum += static_cast<double>(least_[c] - loads_[c]);
        return sum;
    };
    const double at_first = too_little();
    for (std::uint32_t paths = 0; at_first > 0; ++paths) {
        if (paths % kSeldom == 0) {
            const double now = too_little();
            task.at("giving sites their least", 1 - now / at_first);
        }
        const auto found = search_spare();
        if (!found) break;
        push_along(found->sink, least_[found->sink] - loads_[found->sink],
                   [this](std::uint32_t source) { return loads_[source] - least_[source]; });
    }
    // Nobody can be spared for who is short yet. All of those have one price, which falls to what that costs.
    for (std::uint32_t c = 0; c < none(); ++c)
        if (has_too_little(c)) return lower_prices(short_of_least_ + prices_[c]);
}

}  // namespace otoro::optimise
