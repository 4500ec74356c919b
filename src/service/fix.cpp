/// What each fix does to the study.
#include <algorithm>
#include <cmath>
#include <map>
#include <set>
#include <type_traits>

#include "geo/local_frame.h"
#include "service/findings.h"

namespace otoro::service {
namespace {

/// Replaces one set of the study by a changed copy.
template <class In, class Change>
bool change_set(std::vector<In>& all, const std::string& name, Change&& change) {
    const auto at = std::find_if(all.begin(), all.end(), [&](const In& in) { return in.set->name == name; });
    if (at == all.end()) return false;
    auto copy = std::make_shared<std::remove_const_t<typename decltype(at->set)::element_type>>(*at->set);
    change(*copy, at->origin);
    at->set = std::move(copy);
    return true;
}

template <class Change>
void change_any_set(Study& study, const SetName& set, Change&& change) {
    if (set.kind == SetKind::demand) change_set(study.demand, set.name, change);
    if (set.kind == SetKind::sites) change_set(study.sites, set.name, change);
}

/// The gap was found in these roads: both its lines are there, and its ends lie on them.
void check_fits(const roads::Lines& lines, const roads::ClosedGap& gap) {
    constexpr double kNear = 0.5;  // metres: an end is given as it was drawn
    const auto on = [&](std::uint32_t line, geo::LonLat at) {
        if (line >= lines.count()) return false;
        return std::sqrt(geo::foot_on_line(lines.shape(line), geo::LocalFrame(at)).squared) < kNear;
    };
    if (!on(gap.from_line, gap.from) || !on(gap.to_line, gap.to))
        throw InputError({"", std::nullopt, "the roads are not those in which this gap was found",
                          "Wait until the findings are told anew, and press again"});
}

/// Ids in file order made distinct.
template <class Records>
void make_distinct(Records& records) {
    std::set<std::string> taken;
    for (const auto& r : records) taken.insert(r.id);
    std::set<std::string> seen;
    for (std::size_t i = 0; i < records.size(); ++i) {
        std::string& id = records[i].id;
        if (id.empty())
            id = std::to_string(i);
        else if (!seen.contains(id)) {
            seen.insert(id);
            continue;
        }
        const std::string base = id;
        for (int n = 2; taken.contains(id); ++n) id = base + "-" + std::to_string(n);
        taken.insert(id);
        seen.insert(id);
    }
}

struct Apply {
    Study& study;
    const Task& task;

    void operator()(const CloseGaps& m) const {
        if (!study.roads) return;
        auto preparation = study.roads->preparation;
        for (const auto& g : m.gaps) check_fits(*study.roads->lines, g);
        for (const auto& g : m.gaps)
            if (std::find(preparation.closed.begin(), preparation.closed.end(), g) == preparation.closed.end())
                preparation.closed.push_back(g);
        study.roads = roads_in(study.roads->lines, std::move(preparation), study.roads->origin, task);
    }
    void operator()(const SwapAxes& m) const {
        change_any_set(study, m.set, [&](auto& set, Origin& origin) {
            auto& records = records_of(set);
            for (const std::uint32_t i : m.places)
                if (i < records.size() && records[i].position)
                    std::swap(records[i].position->lon, records[i].position->lat);
            for (auto& p : origin.raw_sample) std::swap(p.lon, p.lat);
        });
    }
    void operator()(const MakeIdsDistinct& m) const {
        const auto* const sites = m.set.kind == SetKind::sites ? study.find_sites(m.set.name) : nullptr;
        const auto before = sites ? sites->set : nullptr;
        change_any_set(study, m.set, [](auto& set, Origin& origin) {
            make_distinct(records_of(set));
            std::erase_if(origin.flaws, [](const Flaw& f) {
                return f.kind == FlawKind::id_missing || f.kind == FlawKind::id_duplicate;
            });
        });
        if (before) follow_new_ids(*before, *study.find_sites(m.set.name)->set);
    }
    void operator()(const GiveWeight& m) const {
        change_set(study.demand, m.set.name, [&](places::DemandSet& set, Origin& origin) {
            for (const std::uint32_t i : m.places)
                if (i < set.places.size()) set.places[i].weight = m.weight;
            std::erase_if(origin.flaws, [&](const Flaw& f) {
                return f.kind == FlawKind::weight && f.place &&
                       std::find(m.places.begin(), m.places.end(), *f.place) != m.places.end();
            });
        });
    }
    void operator()(const AttachAnyway& m) const {
        change_any_set(study, m.set,
                       [&](auto& set, Origin&) { set.attaching.by_hand.insert(m.at.begin(), m.at.end()); });
    }
    void operator()(const SetAttachRule& m) const {
        change_any_set(study, m.set, [&](auto& set, Origin&) { set.attaching.rule = m.rule; });
    }
    void operator()(const ReadAgain&) const {}
    void operator()(const UseSpeeds& m) const {
        if (!study.roads) return;
        auto preparation = study.roads->preparation;
        auto& all = preparation.by_speed;
        const auto before = static_cast<std::ptrdiff_t>(all.size());
        for (const std::uint32_t line : m.lines)
            if (line < study.roads->lines->count()) all.push_back(line);
        std::inplace_merge(all.begin(), all.begin() + before, all.end());
        all.erase(std::unique(all.begin(), all.end()), all.end());
        study.roads = roads_in(study.roads->lines, std::move(preparation), study.roads->origin, task);
    }

private:
    /// Plans go on naming the sites that they named, by their new ids.
    void follow_new_ids(const places::SiteSet& before, const places::SiteSet& after) const {
        std::map<std::pair<std::string, std::uint32_t>, std::string> new_id;
        std::map<std::string, std::uint32_t> met;
        for (std::size_t i = 0; i < before.sites.size(); ++i)
            new_id[{before.sites[i].id, ++met[before.sites[i].id]}] = after.sites[i].id;
        for (auto& plan : study.plans)
            for (auto& c : plan.changes) {
                if (c.is_added() || c.set != before.name) continue;
                const auto at = new_id.find({c.site, c.nth});
                if (at == new_id.end()) continue;
                c.site = at->second;
                c.nth = 1;
            }
    }
    static std::vector<places::DemandPlace>& records_of(places::DemandSet& set) { return set.places; }
    static std::vector<places::Site>& records_of(places::SiteSet& set) { return set.sites; }
};

}  // namespace

Study fixed(Study study, const Fix& fix, const Task& task) {
    std::visit(Apply{study, task}, fix);
    return study;
}

}  // namespace otoro::service
