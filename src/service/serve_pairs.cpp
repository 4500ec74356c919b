/// A table of pairs decides which site serves a place.
#include <algorithm>
#include <numeric>
#include <unordered_map>

#include "service/serve.h"
#include "service/site_blocks.h"
#include "service/travel_table.h"
#include "service/values_of_places.h"

namespace otoro::service {

ValuesOfPlaces::ValuesOfPlaces(const Inputs& inputs, const std::vector<SiteOutcome>& sites)
    : first_(inputs.demand.count() + 1, 0) {
    if (!inputs.pairs) return;
    const auto& pairs = *inputs.pairs;
    // An id that stands more than once means all places that have it, and the first site in use.
    std::unordered_map<std::string, std::uint32_t> number_of;
    for (std::uint32_t v = 0; v < pairs.demand.values().size(); ++v) number_of.emplace(pairs.demand.values()[v], v);
    std::vector<std::vector<std::uint32_t>> places(pairs.demand.values().size());
    for (std::uint32_t i = 0; i < inputs.demand.count(); ++i)
        if (const auto at = number_of.find(inputs.demand.at(i).id); at != number_of.end())
            places[at->second].push_back(i);
    std::unordered_map<std::string, SiteIndex> site_of;
    std::unordered_map<std::string, bool> known;
    for (std::uint32_t i = 0; i < sites.size(); ++i) {
        known[sites[i].planned.site.id] = true;
        if (sites[i].planned.in_use) site_of.try_emplace(sites[i].planned.site.id, i);
    }
    std::vector<std::optional<SiteIndex>> site(pairs.sites.values().size());
    std::vector<bool> is_site(pairs.sites.values().size());
    for (std::size_t v = 0; v < site.size(); ++v) {
        is_site[v] = known.count(pairs.sites.values()[v]) > 0;
        if (const auto at = site_of.find(pairs.sites.values()[v]); at != site_of.end()) site[v] = at->second;
    }
    for (std::uint32_t p = 0; p < pairs.count(); ++p) {
        const auto& of = places[pairs.demand.value_of(p)];
        if (of.empty())
            ++of_unknown_demand;
        else if (!is_site[pairs.sites.value_of(p)])
            ++of_unknown_sites;
        if (site[pairs.sites.value_of(p)])
            for (const std::uint32_t place : of) ++first_[place + 1];
    }
    std::partial_sum(first_.begin(), first_.end(), first_.begin());
    values_.resize(first_.back());
    std::vector<std::size_t> next(first_.begin(), first_.end() - 1);
    for (std::uint32_t p = 0; p < pairs.count(); ++p)
        if (const auto s = site[pairs.sites.value_of(p)])
            for (const std::uint32_t place : places[pairs.demand.value_of(p)])
                values_[next[place]++] = {*s, pairs.values[p]};
    for (std::size_t i = 0; i + 1 < first_.size(); ++i)
        std::sort(values_.begin() + static_cast<std::ptrdiff_t>(first_[i]),
                  values_.begin() + static_cast<std::ptrdiff_t>(first_[i + 1]),
                  [](const Value& a, const Value& b) { return a.site < b.site; });
}

namespace {

/// A site that there is a way to, and what the place has with it.
struct Option {
    ReachableSite way;
    Weight value;
};

/// How much of the best a value is, from 0 to 1.
double part_of_largest(std::int64_t value, std::int64_t largest) {
    return largest == 0 ? 1.0 : static_cast<double>(value) / static_cast<double>(largest);
}
double part_of_smallest(std::int64_t value, std::int64_t smallest) {
    return value == 0 ? 1.0 : static_cast<double>(smallest) / static_cast<double>(value);
}

const Option& best_of(const std::vector<Option>& options, const ByPairs& rule) {
    std::int64_t largest = 0, smallest = INT64_MAX, nearest = INT64_MAX;
    for (const Option& o : options) {
        largest = std::max(largest, o.value.count());
        smallest = std::min(smallest, o.value.count());
        nearest = std::min(nearest, std::int64_t{o.way.cost});
    }
    const bool alone = rule.of_value == Share::percent(100);
    const double share = rule.of_value.ppm() / 1e6;
    const auto score = [&](const Option& o) {
        const double value =
            rule.smallest ? part_of_smallest(o.value.count(), smallest) : part_of_largest(o.value.count(), largest);
        return share * value + (1 - share) * part_of_smallest(o.way.cost, nearest);
    };
    const auto better = [&](const Option& a, const Option& b) {
        if (alone) {
            if (a.value != b.value) return rule.smallest ? a.value < b.value : b.value < a.value;
        } else if (const double x = score(a), y = score(b); x != y) {
            return x > y;
        }
        return a.way.cost != b.way.cost ? a.way.cost < b.way.cost : a.way.site < b.way.site;
    };
    return *std::min_element(options.begin(), options.end(), better);
}

}  // namespace

void serve(const ByPairs& rule, const Ready& ready, Outcome& o, const Task& task) {
    serve_nearest_first_of_all(ready, o, task);
    const ValuesOfPlaces values(ready.inputs, o.sites);
    std::vector<std::uint32_t> asked;
    for (std::uint32_t i = 0; i < o.places.size(); ++i) {
        const Status by_nearest = o.places[i].status;
        if (by_nearest == Status::bad_location || by_nearest == Status::no_road_near) continue;
        if (!values.of(i).empty()) asked.push_back(i);
        if (rule.else_nearest) continue;
        o.places[i] = {};
        o.places[i].status = values.of(i).empty() ? Status::not_recorded : Status::cut_off;
    }
    std::vector<std::vector<Option>> options(asked.size());
    SiteBlocks(ready, o.traces->costed, o.sites, task)
        .each(
            asked, {},
            [&](std::size_t row, std::span<const ReachableSite> found) {
                const auto of = values.of(asked[row]);
                for (const ReachableSite& r : found) {
                    const auto at = std::lower_bound(of.begin(), of.end(), r.site,
                                                     [](const auto& v, std::uint32_t s) { return v.site.value() < s; });
                    if (at != of.end() && at->site.value() == r.site) options[row].push_back({r, at->value});
                }
            },
            [](std::span<const std::uint32_t>) {}, task);
    for (std::size_t row = 0; row < asked.size(); ++row)
        if (!options[row].empty())
            o.places[asked[row]] = outcome_of(ready.question, o.sites, best_of(options[row], rule).way);
}

}  // namespace otoro::service
