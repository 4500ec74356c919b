#include "service/breakdown.h"

#include <algorithm>
#include <unordered_map>

namespace otoro::service {
namespace {

/// Sums while they are being added up; exact whole numbers, in any order.
struct Sums {
    BreakdownRow row;
    Wide weighted_time = 0, weighted_distance = 0;
};

/// The rows, and for each place the row it is in.
struct Rows {
    std::vector<Sums> sums;
    std::vector<std::uint32_t> of_place;
};

Rows zone_rows(const Ready& ready) {
    Rows rows;
    for (const auto& z : ready.inputs.zones->zones) {
        rows.sums.emplace_back();
        rows.sums.back().row.name = z.label();
    }
    const auto none = static_cast<std::uint32_t>(rows.sums.size());
    rows.of_place = *ready.zone_of;
    std::replace(rows.of_place.begin(), rows.of_place.end(), places::kNoZone, none);
    rows.sums.emplace_back();
    rows.sums.back().row.none = true;
    return rows;
}

Rows group_rows(const Ready& ready) {
    Rows rows;
    rows.of_place.reserve(ready.inputs.demand.count());
    std::unordered_map<std::string, std::uint32_t> known;
    const auto row_of = [&](const std::string& name) {
        const auto [at, added] = known.try_emplace(name, static_cast<std::uint32_t>(rows.sums.size()));
        if (added) {
            rows.sums.emplace_back();
            rows.sums.back().row.name = name;
            rows.sums.back().row.none = name.empty();
        }
        return at->second;
    };
    for (const auto& set : ready.inputs.demand.sets()) {
        std::vector<std::uint32_t> row_of_value;
        for (const auto& value : set->group.values()) row_of_value.push_back(row_of(value));
        const std::uint32_t without = set->group.empty() ? row_of("") : 0;
        for (std::size_t i = 0; i < set->places.size(); ++i)
            rows.of_place.push_back(set->group.empty() ? without : row_of_value[set->group.value_of(i)]);
    }
    return rows;
}

void add(Tally& tally, Weight weight, bool first) {
    tally.places += first ? 1 : 0;
    tally.weight += weight;
}

}  // namespace

bool BreakdownRow::operator==(const BreakdownRow& o) const {
    const auto same = [](const Tally& a, const Tally& b) { return a.places == b.places && a.weight == b.weight; };
    return name == o.name && none == o.none && number == o.number && same(all, o.all) && same(served, o.served) &&
           same(inside, o.inside) && mean_minutes == o.mean_minutes && mean_kilometres == o.mean_kilometres;
}

bool can_sum_up(const Ready& ready, SummedBy by) {
    if (by == SummedBy::zone) return ready.zone_of != nullptr;
    const auto& sets = ready.inputs.demand.sets();
    return std::any_of(sets.begin(), sets.end(), [](const auto& set) { return !set->group.empty(); });
}

std::vector<BreakdownRow> sum_up(const Ready& ready, const Outcome& outcome, SummedBy by,
                                 const std::optional<Amount>& limit) {
    if (!can_sum_up(ready, by)) return {};
    Rows rows = by == SummedBy::zone ? zone_rows(ready) : group_rows(ready);
    each_part(outcome, [&](std::uint32_t i, const PlaceOutcome& p, Weight weight, bool first) {
        Sums& s = rows.sums[rows.of_place[i]];
        add(s.row.all, weight, first);
        if (!p.served()) return;
        add(s.row.served, weight, first);
        if (!limit || is_within(p, *limit)) add(s.row.inside, weight, first);
        s.weighted_time += static_cast<Wide>(p.time.count()) * weight.count();
        s.weighted_distance += static_cast<Wide>(p.distance.count()) * weight.count();
    });
    for (std::uint32_t n = 0; n < rows.sums.size(); ++n) rows.sums[n].row.number = n;
    std::stable_partition(rows.sums.begin(), rows.sums.end(), [](const Sums& s) { return !s.row.none; });
    std::vector<BreakdownRow> out;
    for (auto& s : rows.sums) {
        if (s.row.none && s.row.all.places == 0) continue;
        if (const auto weight = static_cast<double>(s.row.served.weight.count()); weight > 0) {
            s.row.mean_minutes = static_cast<double>(s.weighted_time) / weight / 60'000;
            s.row.mean_kilometres = static_cast<double>(s.weighted_distance) / weight / 1'000'000;
        }
        out.push_back(std::move(s.row));
    }
    return out;
}

BreakdownRows breakdown_rows(const Ready& ready, SummedBy by) {
    if (!can_sum_up(ready, by)) return {};
    Rows rows = by == SummedBy::zone ? zone_rows(ready) : group_rows(ready);
    BreakdownRows out;
    for (const Sums& s : rows.sums) out.names.push_back(s.row.none ? std::string() : s.row.name);
    out.of_place = std::move(rows.of_place);
    return out;
}

std::vector<std::uint32_t> places_of(const Ready& ready, SummedBy by, const BreakdownRow& row) {
    const BreakdownRows rows = breakdown_rows(ready, by);
    std::vector<std::uint32_t> out;
    for (std::uint32_t i = 0; i < rows.of_place.size(); ++i)
        if (rows.of_place[i] == row.number) out.push_back(i);
    return out;
}

std::string name_of(const Ready& ready, DemandIndex place, SummedBy by) {
    if (by == SummedBy::zone) {
        if (!ready.zone_of) return {};
        const std::uint32_t zone = (*ready.zone_of)[place.value()];
        return zone == places::kNoZone ? std::string() : ready.inputs.zones->zones[zone].label();
    }
    const auto& demand = ready.inputs.demand;
    const auto& group = demand.set_of(place.value()).group;
    return group.empty() ? std::string() : group.at(demand.local(place.value()));
}

}  // namespace otoro::service
