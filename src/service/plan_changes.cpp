#include "service/plan_changes.h"

#include <algorithm>
#include <map>

#include "service/study.h"

namespace otoro::service {

void put_change(Plan& plan, const SiteChange& change) {
    std::erase_if(plan.changes, [&](const SiteChange& c) {
        return c.same_site(change) && c.change != Change::add && c.change == change.change;
    });
    plan.changes.push_back(change);
}

Plan merged(Plan into, const Plan& other) {
    std::vector<std::string> taken;
    for (const auto* plan : std::initializer_list<const Plan*>{&into, &other})
        for (const SiteChange& c : plan->changes) taken.push_back(c.site);
    std::map<std::pair<std::string, std::string>, std::string> renamed;
    for (const SiteChange& c : other.changes) {
        if (c.change != Change::add) continue;
        const bool another_stands = std::any_of(into.changes.begin(), into.changes.end(), [&](const SiteChange& mine) {
            return mine.change == Change::add && mine.same_site(c) && mine.position != c.position;
        });
        if (!another_stands) continue;
        const std::string id = free_name(c.site, taken);
        taken.push_back(id);
        renamed[{c.set, c.site}] = id;
    }
    for (SiteChange c : other.changes) {
        if (const auto id = renamed.find({c.set, c.site}); c.is_added() && id != renamed.end()) c.site = id->second;
        if (std::find(into.changes.begin(), into.changes.end(), c) == into.changes.end() || c.change != Change::add)
            put_change(into, c);
    }
    for (const roads::Closure& c : other.closures)
        if (std::find(into.closures.begin(), into.closures.end(), c) == into.closures.end()) into.closures.push_back(c);
    if (!other.note.empty() && other.note != into.note) into.note += (into.note.empty() ? "" : " ") + other.note;
    return into;
}

}  // namespace otoro::service
