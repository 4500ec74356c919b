#include "service/plan.h"

#include <algorithm>
#include <unordered_map>

namespace otoro::service {
namespace {

/// Every site as it is today.
std::vector<PlannedSite> sites_today(const places::Sites& sites) {
    std::vector<PlannedSite> out;
    out.reserve(sites.count());
    for (std::size_t part = 0; part < sites.sets().size(); ++part) {
        std::unordered_map<std::string, std::uint32_t> met;
        for (const auto& s : sites.sets()[part]->sites)
            out.push_back({s, false, false, part, sites.sets()[part]->name, ++met[s.id], false, s.position});
    }
    return out;
}

/// Whether the change is about the site.
bool names(const SiteChange& change, const PlannedSite& p) {
    return p.site.id == change.site && p.nth == change.nth && p.added == change.is_added() &&
           (change.set.empty() || change.set == p.set);
}

/// The set that a new site joins; nothing if the question is about others.
std::optional<std::size_t> part_for(const SiteChange& change, const places::Sites& sites) {
    for (std::size_t part = 0; part < sites.sets().size(); ++part)
        if (change.set.empty() || sites.sets()[part]->name == change.set) return part;
    return std::nullopt;
}

void apply(const SiteChange& c, PlannedSite& p) {
    p.changed = true;
    switch (c.change) {
        case Change::open:
            p.site.state = places::SiteState::open;
            break;
        case Change::close:
            p.site.state = places::SiteState::closed;
            break;
        case Change::move:
        case Change::add:
            p.site.position = c.position;
            break;
    }
}

}  // namespace

SiteChange change_of(const PlannedSite& site, Change change, std::optional<geo::LonLat> position) {
    return {change, site.site.id, position, site.set, site.nth, site.added};
}

bool applies(const SiteChange& change, const places::Sites& sites) {
    if (change.is_added()) return part_for(change, sites).has_value();
    std::uint32_t met = 0;
    for (const auto& set : sites.sets()) {
        if (!change.set.empty() && set->name != change.set) continue;
        met = 0;
        for (const auto& s : set->sites)
            if (s.id == change.site && ++met == change.nth) return true;
    }
    return false;
}

std::vector<PlannedSite> sites_under(const places::Sites& sites, const Plan& plan, SiteUse use) {
    std::vector<PlannedSite> out = sites_today(sites);
    for (const auto& c : plan.changes) {
        auto at = std::find_if(out.begin(), out.end(), [&](const PlannedSite& p) { return names(c, p); });
        if (c.change == Change::add && at == out.end()) {
            const auto part = part_for(c, sites);
            if (!part) continue;
            const places::Site site{c.site, c.site, c.position, places::SiteState::open, std::nullopt};
            at = out.insert(out.end(),
                            PlannedSite{site, false, true, *part, sites.sets()[*part]->name, 1, true, std::nullopt});
        }
        if (at != out.end()) apply(c, *at);
    }
    for (auto& p : out)
        p.in_use = p.site.state == places::SiteState::open ||
                   (p.site.state == places::SiteState::candidate && use == SiteUse::open_and_candidate);
    return out;
}

std::vector<SiteChange> net_effect(const places::Sites& sites, const Plan& plan) {
    const auto today = sites_today(sites);
    std::vector<SiteChange> out;
    for (const auto& p : sites_under(sites, plan, SiteUse::open)) {
        if (!p.changed) continue;
        if (p.added) {
            if (p.site.state == places::SiteState::open) out.push_back(change_of(p, Change::add, p.site.position));
            continue;
        }
        const auto was = std::find_if(today.begin(), today.end(), [&](const PlannedSite& t) {
            return t.part == p.part && t.nth == p.nth && t.site.id == p.site.id;
        });
        if (p.site.position != was->site.position) out.push_back(change_of(p, Change::move, p.site.position));
        if (p.site.state != was->site.state)
            out.push_back(change_of(p, p.site.state == places::SiteState::open ? Change::open : Change::close));
    }
    return out;
}

}  // namespace otoro::service
