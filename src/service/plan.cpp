#include "service/plan.h"

#include <algorithm>

namespace otoro::service {
namespace {

bool names(const SiteChange& change, const places::SiteSet& sites) {
    return change.set.empty() || change.set == sites.name;
}

}  // namespace

bool applies(const SiteChange& change, const places::SiteSet& sites) {
    if (!names(change, sites)) return false;
    return change.change == Change::add || std::any_of(sites.sites.begin(), sites.sites.end(),
                                                       [&](const places::Site& s) { return s.id == change.site; });
}

std::vector<PlannedSite> sites_under(const places::SiteSet& sites, const Plan& plan, SiteUse use) {
    std::vector<PlannedSite> out;
    out.reserve(sites.sites.size() + plan.changes.size());
    for (const auto& s : sites.sites) out.push_back({s, false, false});

    for (const auto& c : plan.changes) {
        if (!names(c, sites)) continue;
        auto at = std::find_if(out.begin(), out.end(), [&](const PlannedSite& p) { return p.site.id == c.site; });
        if (c.change == Change::add && at == out.end()) {
            at = out.insert(out.end(),
                            {{c.site, c.site, c.position, places::SiteState::open, std::nullopt}, false, true});
        }
        if (at == out.end()) continue;
        at->changed = true;
        switch (c.change) {
            case Change::open:
                at->site.state = places::SiteState::open;
                break;
            case Change::close:
                at->site.state = places::SiteState::closed;
                break;
            case Change::move:
            case Change::add:
                at->site.position = c.position;
                break;
        }
    }
    for (auto& p : out)
        p.in_use = p.site.state == places::SiteState::open ||
                   (p.site.state == places::SiteState::candidate && use == SiteUse::open_and_candidate);
    return out;
}

}  // namespace otoro::service
