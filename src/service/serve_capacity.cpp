/// Each place to a site that has room for it.
#include <algorithm>
#include <map>
#include <numeric>
#include <optional>
#include <string>
#include <tuple>
#include <unordered_map>
#include <utility>

#include "geo/amounts.h"
#include "optimise/least_travel.h"
#include "optimise/nearest_first.h"
#include "service/access_legs.h"
#include "service/few_nearest.h"
#include "service/serve.h"
#include "service/site_blocks.h"
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
            std::size_t few_at_first)
        : rule_(rule),
          ready_(ready),
          o_(o),
          few_(ready, o.traces->costed, o.sites),
          most_pairs_(most_pairs),
          few_at_first_(few_at_first) {
        for (const SiteOutcome& s : o.sites) {
            const bool open = s.planned.in_use && s.attachment;
            const auto& capacity = s.planned.site.capacity;
            room_.push_back(!open ? 0 : capacity ? capacity->count() : optimise::kNoBound);
            in_use_ += open ? 1 : 0;
        }
    }

    void run(const Task& task) {
        for (std::uint32_t i = 0; i < o_.places.size(); ++i) {
            const Status s = o_.places[i].status;
            // With a limit in the other measure a site that is not the nearest may be within it.
            const bool may_have_another = limit_is_other() || ready_.question.own_limits;
            if (s == Status::served || (s == Status::beyond_limit && may_have_another)) rows_.push_back(i);
        }
        rule_.fill == Fill::least_travel ? least_travel(task) : nearest_first(task);
        finish();
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
    static optimise::Pairs pairs_of(const JourneyTable& known) {
        optimise::Pairs out;
        std::vector<optimise::Pair> row;
        out.reserve(known.rows(), known.count());
        for (std::size_t i = 0; i < known.rows(); ++i) {
            row.clear();
            for (const ReachableSite& r : known.of(i)) row.push_back({r.site, r.cost});
            out.add_row(row);
        }
        return out;
    }
    /// Rows are those whose place has a site within reach; the others are as they are by nearness.
    void keep_rows_with_sites() {
        JourneyTable known;
        known.reserve(known_.rows(), known_.count());
        std::vector<std::uint32_t> rows;
        for (std::size_t row = 0; row < rows_.size(); ++row) {
            if (known_.of(row).empty()) continue;
            rows.push_back(rows_[row]);
            known.add_row(known_.of(row));
        }
        rows_ = std::move(rows);
        known_ = std::move(known);
        amounts_.clear();
        for (const std::uint32_t i : rows_) amounts_.push_back(o_.weights[i].count());
    }

    void least_travel(const Task& task) {
        const bool all_at_once = rows_.size() * in_use_ <= most_pairs_;
        known_ = few_.within_limit(rows_, all_at_once ? in_use_ : std::min(in_use_, few_at_first_), {}, task);
        keep_rows_with_sites();
        while (true) {
            const auto solved = optimise::least_travel(pairs_of(known_), {amounts_, room_}, splitting(), task);
            parts_ = solved.allocation.parts;
            result_.no_room = Weight(solved.allocation.left_over);
            result_.travel = solved.allocation.total;
            result_.least_no_room = Weight(solved.least_left_over);
            result_.bound = solved.bound;
            result_.proven = solved.proven();
            result_.worth = solved.prices;
            // Where one more would find room at all, that comes before any travel.
            for (auto& price : result_.worth)
                if (price > solved.no_room / 2) price = -1;
            if (all_at_once || !add_cheaper(solved, task)) return;
        }
    }

    /// Pairs that are not known yet and would be cheaper at these prices, the best of each place. What all pairs prove
    /// is put into the result. \returns whether there are any, and the answer may get better by more than a trifle
    bool add_cheaper(const optimise::LeastTravel& solved, const Task& task) {
        const auto n = rows_.size();
        std::vector<std::int64_t> least(n, solved.no_room);
        for (std::size_t row = 0; row < n; ++row)
            for (const ReachableSite& r : known_.of(row))
                least[row] = std::min(least[row], std::int64_t{r.cost} + solved.prices[r.site]);
        std::vector<std::optional<ReachableSite>> better(n);
        SiteBlocks(ready_, o_.traces->costed, o_.sites, task)
            .each(
                rows_, {},
                [&](std::size_t row, std::span<const ReachableSite> found) {
                    for (const ReachableSite& r : found) {
                        const std::int64_t at_these_prices = r.cost + solved.prices[r.site];
                        if (at_these_prices >= least[row] || !outcome_of(ready_.question, o_.sites, r).served()) continue;
                        least[row] = at_these_prices;
                        better[row] = r;
                    }
                },
                [](std::span<const std::uint32_t>) {}, task);
        // Whatever the pairs: no answer is less than each place at its least price, less what the room is worth.
        Wide bound = 0;
        JourneyTable known;
        known.reserve(n, known_.count() + n);
        std::vector<ReachableSite> sites;
        for (std::size_t row = 0; row < n; ++row) {
            bound += Wide{least[row]} * amounts_[row];
            sites.assign(known_.of(row).begin(), known_.of(row).end());
            if (better[row]) sites.insert(std::upper_bound(sites.begin(), sites.end(), *better[row]), *better[row]);
            known.add_row(sites);
        }
        const std::size_t added = known.count() - known_.count();
        known_ = std::move(known);
        for (std::size_t s = 0; s < room_.size(); ++s)
            if (room_[s] != optimise::kNoBound) bound -= Wide{solved.prices[s]} * room_[s];
        if (added == 0) return false;
        const Wide all = solved.bound + Wide{solved.least_left_over} * solved.no_room;
        constexpr int kTrifle = 10'000;
        if ((all - bound) * kTrifle > solved.bound) return true;
        result_.bound = bound - Wide{solved.least_left_over} * solved.no_room;
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
        for (const std::uint32_t i : rows_) {
            const auto& column = demand.set_of(i).priority;
            out.push_back(rank_of.at(key_of(column.empty() ? "" : column.at(demand.local(i)))));
        }
        return out;
    }

    void nearest_first(const Task& task) {
        constexpr std::uint32_t kAtFirst = 4;
        known_ = few_.within_limit(rows_, kAtFirst, {}, task);
        keep_rows_with_sites();
        bool first = true;
        const optimise::AskForPairs ask = [&](std::span<const std::uint32_t> rows, const std::vector<bool>& has_room,
                                              std::uint32_t each) {
            if (std::exchange(first, false)) return pairs_of(known_);
            std::vector<std::uint32_t> places;
            for (const std::uint32_t row : rows) places.push_back(rows_[row]);
            const JourneyTable more = few_.within_limit(places, each, has_room, task);
            for (std::size_t k = 0; k < rows.size(); ++k) {
                auto& mine = learned_[rows[k]];
                mine.insert(mine.end(), more.of(k).begin(), more.of(k).end());
            }
            return pairs_of(more);
        };
        const auto filled = optimise::nearest_first({amounts_, room_}, ranks(), splitting(), ask, kAtFirst, task);
        parts_ = filled.parts;
        result_.no_room = Weight(filled.left_over);
        result_.travel = filled.total;
    }

    [[nodiscard]] PlaceOutcome outcome_at(std::size_t row, std::uint32_t site) const {
        const auto found = [&](std::span<const ReachableSite> sites) {
            const auto at = std::find_if(sites.begin(), sites.end(), [&](const auto& r) { return r.site == site; });
            return at == sites.end() ? nullptr : &*at;
        };
        const ReachableSite* r = found(known_.of(row));
        if (r == nullptr) r = found(learned_.at(static_cast<std::uint32_t>(row)));
        return outcome_of(ready_.question, o_.sites, *r);
    }

    /// Parts become outcomes: the largest stands in the list of places, ties by file order of the sites.
    void finish() {
        std::size_t next = 0;
        for (std::uint32_t row = 0; row < rows_.size(); ++row) {
            const DemandIndex place(rows_[row]);
            const Weight whole(amounts_[row]);
            std::vector<PlacePart> parts;
            Weight left = whole;
            for (; next < parts_.size() && parts_[next].row == row; ++next) {
                const Weight weight(parts_[next].amount);
                parts.push_back({place, outcome_at(row, parts_[next].column), weight});
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
        const PlaceOutcome& nearest = (*o_.by_nearest)[rows_[row]];
        const Wide cost = by_time() ? nearest.time.count() : nearest.distance.count();
        for (const PlacePart& part : parts)
            if (part.outcome.served()) result_.nearest_travel += cost * part.weight.count();
    }

    const AsCapacityAllows& rule_;
    const Ready& ready_;
    Outcome& o_;
    FewNearest few_;
    std::size_t most_pairs_, few_at_first_;
    std::size_t in_use_ = 0;
    std::vector<std::int64_t> room_;     // by site
    std::vector<std::uint32_t> rows_;    // places
    std::vector<std::int64_t> amounts_;  // by row
    JourneyTable known_;                 // by row
    std::unordered_map<std::uint32_t, std::vector<ReachableSite>> learned_;  // by row, since
    std::vector<optimise::Part> parts_;
    CapacityAnswer result_;
};

}  // namespace

void serve_as_capacity_allows(const AsCapacityAllows& rule, const Ready& ready, Outcome& o, std::size_t most_pairs,
                              std::size_t few_at_first, const Task& task) {
    serve_nearest_first_of_all(ready, o, task);
    Filling(rule, ready, o, most_pairs, few_at_first).run(task);
}

void serve(const AsCapacityAllows& rule, const Ready& ready, Outcome& o, const Task& task) {
    serve_as_capacity_allows(rule, ready, o, kMostPairs, kFewAtFirst, task);
}

}  // namespace otoro::service
