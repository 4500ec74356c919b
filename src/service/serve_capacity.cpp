/// Each place to a site that has room for it.
#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <map>
#include <numeric>
#include <optional>
#include <string>
#include <tuple>
#include <utility>

#include "geo/amounts.h"
#include "geo/error.h"
#include "geo/wording.h"
#include "optimise/least_travel.h"
#include "optimise/nearest_first.h"
#include "service/access_legs.h"
#include "service/serve.h"
#include "service/site_blocks.h"
#include "service/site_costs.h"
#include "service/travel_table.h"

namespace otoro::service {
namespace {

using Fill = AsCapacityAllows::Fill;

/// As many pairs are held at once; of larger questions each place knows a few of its nearest sites, and those that turn
/// out to be cheaper at the prices found are added.
constexpr std::size_t kMostPairs = 12'000'000;
constexpr std::size_t kFewAtFirst = 16;

/// What is asked of the optimiser: the places that a site is within reach of.
class Filling {
public:
    Filling(const AsCapacityAllows& rule, const Ready& ready, Outcome& o, std::size_t most_pairs,
            std::size_t few_at_first, std::size_t most_held)
        : rule_(rule),
          ready_(ready),
          o_(o),
          most_pairs_(most_pairs),
          few_at_first_(few_at_first),
          most_held_(most_held) {
        Wide together = 0;
        for (const SiteOutcome& s : o.sites) {
            const bool open = s.planned.in_use && s.attachment;
            const auto& capacity = s.planned.site.capacity;
            room_.push_back(!open ? 0 : capacity ? capacity->count() : optimise::kNoBound);
            const auto& least = s.planned.site.least;
            least_.push_back(least ? std::min(least->count(), room_.back()) : 0);
            if (least && s.planned.in_use && !open) cannot_have_ += std::min(*least, capacity.value_or(*least));
            in_use_ += open ? 1 : 0;
            if (open && capacity) together += capacity->count();
        }
        // What is held of a row numbers its sites, and sums of rooms are held like those of weights.
        constexpr std::size_t kMostSites = 65'534;
        if (in_use_ > kMostSites)
            refuse("",
                   fmt::format("{} sites are in use; as capacity allows {} at most can serve", said_whole(in_use_),
                               said_whole(kMostSites)),
                   "Close some, or ask for the nearest");
        places::check_sum(together, "the capacities of the sites in use",
                          "Name another field of capacities, or count in thousands");
    }

    void run(const Task& task) {
        std::vector<std::uint32_t> rows;
        for (std::uint32_t i = 0; i < o_.places.size(); ++i) {
            const Status s = o_.places[i].status;
            // With a limit in the other measure a site that is not the nearest may be within it.
            const bool may_have_another = limit_is_other() || ready_.question.own_limits;
            if (s == Status::served || (s == Status::beyond_limit && may_have_another)) rows.push_back(i);
        }
        costs_.emplace(ready_, o_.traces->costed, o_.sites, std::move(rows), most_held_, task);
        rule_.fill == Fill::least_travel ? least_travel(task) : nearest_first(task);
        finish(task);
    }

private:
    [[nodiscard]] bool by_time() const { return rule_.measure == routing::Measure::time; }
    [[nodiscard]] bool limit_is_other() const {
        const auto& limit = ready_.question.limit;
        return limit && std::holds_alternative<Millis>(*limit) != by_time();
    }
    [[nodiscard]] optimise::Splitting splitting() const {
        return rule_.split ? optimise::Splitting::allowed : optimise::Splitting::whole_rows;
    }
    /// Rows are those whose place has a site within reach; the others are as they are by nearness.
    /// \param first some sites of each row \returns those of the rows that are kept
    optimise::Pairs keep_rows_with_sites(const optimise::Pairs& first) {
        optimise::Pairs out;
        out.reserve(first.rows(), first.count());
        std::vector<std::uint32_t> kept;
        for (std::uint32_t row = 0; row < first.rows(); ++row) {
            if (first.of(row).empty()) continue;
            kept.push_back(row);
            out.add_row(first.of(row));
        }
        costs_->keep(kept);
        amounts_.clear();
        for (const std::uint32_t i : costs_->places()) amounts_.push_back(o_.weights[i].count());
        return out;
    }
    [[nodiscard]] std::vector<std::uint32_t> all_rows() const {
        std::vector<std::uint32_t> out(costs_->places().size());
        std::iota(out.begin(), out.end(), 0U);
        return out;
    }

    void least_travel(const Task& task) {
        const auto rows = all_rows();
        const bool all_at_once = rows.size() * in_use_ <= most_pairs_;
        optimise::Pairs known = keep_rows_with_sites(
            costs_->nearest(rows, all_at_once ? in_use_ : std::min(in_use_, few_at_first_), {}, task));
        while (true) {
            const auto solved = optimise::least_travel(known, {amounts_, room_, least_}, splitting(), task);
            parts_ = solved.allocation.parts;
            result_.no_room = Weight(solved.allocation.left_over);
            result_.travel = solved.allocation.total;
            result_.least_no_room = Weight(solved.least_left_over);
            result_.least_short = Weight(solved.least_short) + cannot_have_;
            result_.bound = solved.bound;
            result_.proven = solved.proven();
            result_.worth = solved.prices;
            // Where one more would find room at all, that comes before any travel.
            for (auto& price : result_.worth)
                price = price > solved.no_room / 2 ? -1 : std::max<std::int64_t>(price, 0);
            if (all_at_once && solved.best) {
                result_.least_no_room = result_.no_room;
                result_.least_short = Weight(solved.allocation.short_of_least) + cannot_have_;
                result_.bound = result_.travel;
                result_.proven = true;
            }
            if (all_at_once || !add_cheaper(solved, known, task)) return;
        }
    }

    /// Pairs that are not known yet and would be cheaper at these prices, the best few of each place. What all pairs
    /// prove is put into the result. \returns whether there are any, and the answer may get better by more than a
    /// trifle
    bool add_cheaper(const optimise::LeastTravel& solved, optimise::Pairs& known, const Task& task) {
        const std::size_t n = known.rows();
        const auto priced = [&](const optimise::Pair& p) { return std::int64_t{p.cost} + solved.prices[p.column]; };
        std::vector<std::int64_t> least(n, solved.no_room);
        for (std::uint32_t row = 0; row < n; ++row)
            for (const optimise::Pair& p : known.of(row)) least[row] = std::min(least[row], priced(p));
        constexpr std::size_t kFew = 4;
        struct Better {
            std::array<optimise::Pair, kFew> pairs;
            std::uint32_t count = 0;
        };
        std::vector<Better> better(n);
        const std::vector<std::int64_t> before = least;
        costs_->each(
            [&](std::size_t row, std::span<const optimise::Pair> pairs) {
                Better& b = better[row];
                for (const optimise::Pair& p : pairs) {
                    if (priced(p) >= before[row]) continue;
                    if (b.count == kFew && priced(p) >= priced(b.pairs[kFew - 1])) continue;
                    std::size_t hole = b.count < kFew ? b.count++ : kFew - 1;
                    for (; hole > 0 && priced(p) < priced(b.pairs[hole - 1]); --hole) b.pairs[hole] = b.pairs[hole - 1];
                    b.pairs[hole] = p;
                }
                if (b.count > 0) least[row] = priced(b.pairs[0]);
            },
            task);
        // Whatever the pairs: no answer is less than each place at its least price, less what the room is worth.
        Wide bound = 0;
        optimise::Pairs more;
        more.reserve(n, known.count() + n);
        std::vector<optimise::Pair> sites;
        for (std::uint32_t row = 0; row < n; ++row) {
            bound += Wide{least[row]} * amounts_[row];
            sites.assign(known.of(row).begin(), known.of(row).end());
            sites.insert(sites.end(), better[row].pairs.begin(), better[row].pairs.begin() + better[row].count);
            more.add_row(sites);
        }
        const std::size_t added = more.count() - known.count();
        known = std::move(more);
        bound -= solved.worth_of_room;
        if (added == 0) return false;
        constexpr int kTrifle = 10'000;
        const Wide gap = solved.objective - bound;
        if (gap * kTrifle > solved.bound || gap >= solved.short_of_least) return true;
        result_.bound = bound - (solved.objective - solved.bound);
        result_.proven = false;
        return false;
    }

    /// Ranks of the rows' priorities: numbers from the lowest, then texts, then those without one.
    std::vector<std::uint32_t> ranks() const {
        if (!rule_.by_priority) return {};
        const auto& demand = ready_.inputs.demand;
        using Key = std::tuple<int, double, std::string>;
        const auto key_of = [](const std::string& text) {
            double number = 0;
            return parse_number(text, number) ? Key{0, number, ""} : Key{text.empty() ? 2 : 1, 0, text};
        };
        std::map<Key, std::uint32_t> rank_of;
        for (const auto& set : demand.sets())
            for (const auto& value : set->priority.values()) rank_of.emplace(key_of(value), 0);
        rank_of.emplace(key_of(""), 0);
        std::uint32_t next = 0;
        for (auto& [key, rank] : rank_of) rank = next++;
        std::vector<std::uint32_t> out;
        for (const std::uint32_t i : costs_->places()) {
            const auto& column = demand.set_of(i).priority;
            out.push_back(rank_of.at(key_of(column.empty() ? "" : column.at(demand.local(i)))));
        }
        return out;
    }

    void nearest_first(const Task& task) {
        constexpr std::uint32_t kAtFirst = 4;
        optimise::Pairs known = keep_rows_with_sites(costs_->nearest(all_rows(), kAtFirst, {}, task));
        bool first = true;
        const optimise::AskForPairs ask = [&](std::span<const std::uint32_t> rows, const std::vector<bool>& has_room,
                                              std::uint32_t each) {
            if (std::exchange(first, false)) return std::move(known);
            return costs_->nearest(rows, each, has_room, task);
        };
        const auto filled = optimise::nearest_first({amounts_, room_}, ranks(), splitting(), ask, kAtFirst, task);
        parts_ = filled.parts;
        result_.no_room = Weight(filled.left_over);
        result_.travel = filled.total;
    }

    /// What becomes of each part: that of the nearest is known, the others are searched for once more.
    [[nodiscard]] std::vector<PlaceOutcome> outcomes_of_parts(const Task& task) const {
        std::vector<PlaceOutcome> out(parts_.size());
        std::vector<std::uint32_t> places;
        std::vector<std::pair<std::uint32_t, std::uint32_t>> parts_of;  // by place searched for: first part and end
        std::vector<bool> wanted(room_.size(), false);
        const auto& by_nearest = *o_.by_nearest;
        for (std::uint32_t begin = 0, end = 0; begin < parts_.size(); begin = end) {
            const std::uint32_t place = costs_->places()[parts_[begin].row];
            bool search = false;
            for (end = begin; end < parts_.size() && parts_[end].row == parts_[begin].row; ++end) {
                if (by_nearest[place].site == SiteIndex(parts_[end].column) && by_nearest[place].served()) {
                    out[end] = by_nearest[place];
                    continue;
                }
                search = true;
                wanted[parts_[end].column] = true;
            }
            if (!search) continue;
            places.push_back(place);
            parts_of.emplace_back(begin, end);
        }
        SiteBlocks(ready_, o_.traces->costed, o_.sites, task)
            .each(
                places, wanted,
                [&](std::size_t row, std::span<const ReachableSite> found) {
                    for (const ReachableSite& r : found)
                        for (std::uint32_t p = parts_of[row].first; p < parts_of[row].second; ++p)
                            if (parts_[p].column == r.site) out[p] = outcome_of(ready_.question, o_.sites, r);
                },
                [](std::span<const std::uint32_t>) {}, task);
        return out;
    }

    /// Parts become outcomes: the largest stands in the list of places, ties by file order of the sites.
    void finish(const Task& task) {
        const auto outcomes = outcomes_of_parts(task);
        std::size_t next = 0;
        for (std::uint32_t row = 0; row < costs_->places().size(); ++row) {
            const DemandIndex place(costs_->places()[row]);
            const Weight whole(amounts_[row]);
            std::vector<PlacePart> parts;
            Weight left = whole;
            for (; next < parts_.size() && parts_[next].row == row; ++next) {
                const Weight weight(parts_[next].amount);
                parts.push_back({place, outcomes[next], weight});
                left = left - weight;
            }
            if (parts.empty() || left.count() > 0) {
                PlaceOutcome full;
                full.status = Status::site_full;
                parts.push_back({place, full, left});
            }
            count_in(row, parts);
            const auto largest = std::max_element(
                parts.begin(), parts.end(), [](const PlacePart& a, const PlacePart& b) { return a.weight < b.weight; });
            o_.places[place.value()] = largest->outcome;
            parts.erase(largest);
            o_.further.insert(o_.further.end(), parts.begin(), parts.end());
        }
        std::int64_t room = 0;
        bool bounded = true;
        for (const std::int64_t r : room_) {
            bounded = bounded && r != optimise::kNoBound;
            if (bounded) room += r;
        }
        if (bounded) result_.room = Weight(room);
        o_.capacity = std::make_shared<const CapacityAnswer>(std::move(result_));
    }

    void count_in(std::size_t row, const std::vector<PlacePart>& parts) {
        result_.asked += Weight(amounts_[row]);
        const PlaceOutcome& nearest = (*o_.by_nearest)[costs_->places()[row]];
        const Wide cost = by_time() ? nearest.time.count() : nearest.distance.count();
        for (const PlacePart& part : parts)
            if (part.outcome.served()) result_.nearest_travel += cost * part.weight.count();
    }

    const AsCapacityAllows& rule_;
    const Ready& ready_;
    Outcome& o_;
    std::optional<SiteCosts> costs_;
    std::size_t most_pairs_, few_at_first_, most_held_;
    std::size_t in_use_ = 0;
    std::vector<std::int64_t> room_, least_;  // by site
    Weight cannot_have_;                      ///< of what sites should have at least, that of those at no road
    std::vector<std::int64_t> amounts_;       // by row
    std::vector<optimise::Part> parts_;
    CapacityAnswer result_;
};

}  // namespace

void serve_as_capacity_allows(const AsCapacityAllows& rule, const Ready& ready, Outcome& o, std::size_t most_pairs,
                              std::size_t few_at_first, std::size_t most_held, const Task& task) {
    serve_nearest_first_of_all(ready, o, task);
    Filling(rule, ready, o, most_pairs, few_at_first, most_held).run(task);
}

void serve(const AsCapacityAllows& rule, const Ready& ready, Outcome& o, const Task& task) {
    serve_as_capacity_allows(rule, ready, o, kMostPairs, kFewAtFirst, SiteCosts::kMostHeld, task);
}

}  // namespace otoro::service
